import type { Findings, Fix } from './diagnostics'
import type { Token } from './lexer'
import type { Range } from './tree'

/**
 * Reads the tokens of one line. `fail` records the first problem only: one mistake, one
 * message; what follows on the line is guesswork.
 */
export class Cursor {
  private at = 0
  private problem: { said: { code: string, message: string }, range: Range, fix: Fix | null } | null = null

  constructor(
    readonly tokens: readonly Token[],
    /** Where the line ends: the place of what is missing behind the last token. */
    private readonly lineEnd: number,
  ) {}

  get position(): number { return this.at }
  get failed(): boolean { return this.problem !== null }
  get atEnd(): boolean { return this.at >= this.tokens.length }

  peek(ahead = 0): Token | undefined { return this.tokens[this.at + ahead] }

  next(): Token | undefined { return this.tokens[this.at++] }

  isWord(text: string, ahead = 0): boolean {
    const t = this.peek(ahead)
    return t?.type === 'word' && t.text === text
  }

  isSign(text: string, ahead = 0): boolean {
    const t = this.peek(ahead)
    return t?.type === 'sign' && t.text === text
  }

  takeWord(text: string): boolean {
    if (!this.isWord(text)) return false
    this.at++
    return true
  }

  takeSign(text: string): boolean {
    if (!this.isSign(text)) return false
    this.at++
    return true
  }

  /** The place of the next token, or just behind the last one. */
  here(): Range {
    const t = this.peek()
    return t?.range ?? { from: this.lineEnd, to: this.lineEnd }
  }

  /** From the start of a token to the end of the last one taken. */
  since(from: number): Range {
    return { from, to: Math.max(from, this.tokens[this.at - 1]?.range.to ?? from) }
  }

  /** What stands here, as a reader would say it. */
  found(): string {
    const t = this.peek()
    if (t === undefined) return 'the end of the line'
    switch (t.type) {
      case 'number': return t.unit === null ? t.figure : `${t.figure} ${t.unit}`
      case 'word': return t.text
      case 'text': return `"${t.source}"`
      case 'sign': return t.text
    }
  }

  fail(said: { code: string, message: string }, range: Range = this.here(), fix: Fix | null = null): void {
    this.problem ??= { said, range, fix }
  }

  /** Hands the line's problem, if any, to the findings. */
  report(findings: Findings): void {
    if (this.problem !== null) findings.error(this.problem.said, this.problem.range, this.problem.fix)
  }

  /** Tries one way of reading; goes back to where it was and forgets the problem when it fails. */
  attempt<T>(read: () => T): { readonly value: T | null, readonly reached: number, readonly problem: Cursor['problem'] } {
    const before = this.at
    const outer = this.problem
    this.problem = null
    const value = read()
    const problem = this.problem as Cursor['problem']
    const reached = this.at
    this.problem = outer
    if (problem === null) return { value, reached, problem: null }
    this.at = before
    return { value: null, reached, problem }
  }

  moveTo(position: number): void { this.at = position }

  adopt(problem: Cursor['problem']): void { this.problem ??= problem }
}
