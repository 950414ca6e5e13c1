import { Cursor } from './cursor'
import { Findings, sortedDiagnostics, type Diagnostic } from './diagnostics'
import { readCondition, readExpression, readName, readSum } from './expressions'
import type { StepForm } from '../devices/form'
import { linesOf, type SourceLine, type SourceLines } from './lexer'
import { nestLines, type LineTree } from './lines'
import { MARGIN_WORDS, marginFor, setOut } from './margins'
import { EMPTY_BLOCK, readRemembered, readStepHead, stepWords, type StepHead } from './steps'
import type {
  Block, Branch, Case, Condition, Expression, Item, Lane, Mode, Name, Program, Range, Rule, Start, Step, Trivia, Unread,
} from './tree'
import { NO_TRIVIA } from './tree'
import { say } from './wording'
import { nearestWord } from './words'

export interface Parsed {
  readonly tree: Program
  readonly diagnostics: readonly Diagnostic[]
  /** The lines that it was read from. */
  readonly lines: SourceLines
}

/** What was read of lines without anything to say of them, by the first of the lines: the same lines say the same, whatever stands around them. */
interface Read { readonly tree: LineTree, readonly place: Place, readonly forms: readonly StepForm[], readonly item: AnyItem }
const READ = new WeakMap<SourceLine, Read>()
const sameTree = (a: LineTree, b: LineTree): boolean => a.line === b.line && a.under.length === b.under.length && a.under.every((tree, i) => sameTree(tree, b.under[i]!))

/** The longest program that is read, in characters; the rest is reported and left out. */
export const MAX_PROGRAM_LENGTH = 400_000

/**
 * Reads a program. There is always a tree: a line that cannot be read stands in it as
 * `unread`, is reported once, and the rest is understood as if it were not there. What is as it was in a program read `before`
 * is taken from there, at the same places the same objects.
 */
export function parseProgram(source: string, forms: readonly StepForm[], before: Parsed | null = null): Parsed {
  const findings = new Findings()
  const text = source.length > MAX_PROGRAM_LENGTH ? source.slice(0, MAX_PROGRAM_LENGTH) : source
  if (text.length < source.length) findings.error(say.tooLong(), { from: text.length, to: text.length })
  const lines = linesOf(text, findings, before?.lines ?? null)
  const parser = new Parser(text, forms, findings)
  const items = parser.items(nestLines(lines.lines, findings), 'program') as Item[]
  return {
    tree: { tag: 'program', items, tail: lines.tail, range: { from: 0, to: text.length } },
    diagnostics: sortedDiagnostics(findings.list), lines,
  }
}

type Place = 'program' | 'lane' | 'mode'
type AnyItem = Item

const ITEM_WORDS = ['program', 'dial', 'memory', 'let', 'start', 'when', 'otherwise', 'mode', 'lane', 'routine']

class Parser {
  constructor(
    private readonly source: string,
    private readonly forms: readonly StepForm[],
    private readonly findings: Findings,
  ) {}

  items(trees: readonly LineTree[], place: Place): AnyItem[] {
    return trees.map(tree => this.known(tree, place))
  }

  private known(tree: LineTree, place: Place): AnyItem {
    const { forms, findings } = this
    const known = READ.get(tree.line)
    if (known !== undefined && known.place === place && known.forms === forms && sameTree(known.tree, tree)) return known.item
    const said = findings.list.length
    const item = this.item(tree, place)
    if (findings.list.length === said && item.tag !== 'unread') READ.set(tree.line, { tree, place, forms, item })
    return item
  }

  private item(tree: LineTree, place: Place): AnyItem {
    const cursor = this.cursor(tree)
    const base = { range: this.rangeOf(tree), trivia: triviaOf(tree) }
    const off = cursor.isWord('off') && ['when', 'otherwise', 'mode', 'lane'].some(word => cursor.isWord(word, 1))
    if (off) cursor.next()
    const t = cursor.next()
    const head = t?.type === 'word' ? t.text : ''
    let item: AnyItem | null = null
    switch (head) {
      case 'when': {
        const when = readCondition(cursor, this.findings)
        const until = cursor.takeWord('until') ? readCondition(cursor, this.findings) : null
        const once = cursor.takeWord('once')
        item = { tag: 'rule', when, until, once, off, body: this.body(cursor, tree, 'when'), ...base } satisfies Rule
        break
      }
      case 'otherwise': {
        const extra = cursor.peek()
        if (extra?.type === 'word' && ['for', 'until', 'once'].includes(extra.text)) cursor.fail(say.otherwiseClause(extra.text))
        item = { tag: 'rule', when: null, until: null, once: false, off, body: this.body(cursor, tree, 'otherwise'), ...base } satisfies Rule
        break
      }
      case 'start':
        item = { tag: 'start', body: this.body(cursor, tree, 'start'), ...base } satisfies Start
        break
      case 'mode': {
        if (place === 'mode') cursor.fail(say.notInMode('mode', 'mode'), t!.range)
        const name = readName(cursor, 'a mode')
        this.end(cursor)
        const inner = this.items(tree.under, 'mode') as Mode['items']
        if (place !== 'mode') item = { tag: 'mode', name, off, items: inner, tail: [], ...base } satisfies Mode
        break
      }
      case 'lane': {
        if (place !== 'program') cursor.fail(say.notInMode('lane', place), t!.range)
        const name = readName(cursor, 'a lane')
        this.end(cursor)
        const inner = this.items(tree.under, 'lane') as Lane['items']
        if (place === 'program') item = { tag: 'lane', name, off, items: inner, tail: [], ...base } satisfies Lane
        break
      }
      default:
        item = this.declaration(head, cursor, tree, place, base)
    }
    cursor.report(this.findings)
    if (item === null || (cursor.failed && (item.tag !== 'rule' && item.tag !== 'mode' && item.tag !== 'lane' && item.tag !== 'start'))) {
      return this.unread(tree)
    }
    // A heading whose line failed keeps its block, so that the steps under it are still understood.
    return item.tag === 'rule' && cursor.failed ? { ...item, when: item.when ?? missingCondition(item.range) } : item
  }

  private declaration(head: string, cursor: Cursor, tree: LineTree, place: Place, base: { range: Range, trivia: Trivia }): AnyItem | null {
    const here = tree.line.tokens[0]?.range ?? tree.line.range
    if (head === 'off') {
      cursor.fail(say.offHere(cursor.found()), here)
      return null
    }
    if (['program', 'dial', 'memory', 'let', 'routine'].includes(head) && place !== 'program') {
      cursor.fail(say.notInMode(head, place), here)
      return null
    }
    switch (head) {
      case 'program': {
        const t = cursor.next()
        if (t?.type !== 'text') cursor.fail(say.expectedText('program "Night rounds"', t === undefined ? 'the end of the line' : cursor.found()), t?.range ?? here)
        this.leaf(cursor, tree, 'program')
        return { tag: 'title', text: t?.type === 'text' ? t.source : '', ...base }
      }
      case 'dial': {
        const name = readName(cursor, 'a dial')
        if (!cursor.takeSign('=')) cursor.fail(say.expected('=', cursor.found()))
        const value = readSum(cursor, this.findings, 0)
        let from: Expression | null = null
        let to: Expression | null = null
        if (cursor.takeWord('from')) {
          from = readSum(cursor, this.findings, 0)
          if (!cursor.takeWord('to')) cursor.fail(say.expected('to', cursor.found()))
          to = readSum(cursor, this.findings, 0)
        }
        this.leaf(cursor, tree, 'dial')
        return { tag: 'dial', name, value, from, to, ...base }
      }
      case 'memory': {
        const remembered = readRemembered(cursor, this.findings)
        this.leaf(cursor, tree, 'memory')
        return { tag: 'memory', ...remembered, ...base }
      }
      case 'let': {
        const name = readName(cursor, 'a value')
        const parameters = this.parameters(cursor)
        if (!cursor.takeSign('=')) cursor.fail(say.expected('=', cursor.found()))
        const value = readExpression(cursor, this.findings)
        this.leaf(cursor, tree, 'let')
        return { tag: 'let', name, parameters, value, ...base }
      }
      case 'routine': {
        const name = readName(cursor, 'a routine')
        const parameters = this.parameters(cursor)
        return { tag: 'routine', name, parameters, body: this.body(cursor, tree, 'routine'), ...base }
      }
    }
    if (stepWords(this.forms).includes(head)) {
      cursor.fail(say.stepAtTop(head), here)
    } else {
      const near = nearestWord(head, ITEM_WORDS)
      const found = head === '' ? this.source.slice(here.from, here.to).replace(/\s+/g, ' ') : head
      const step = near === null ? nearestWord(head, stepWords(this.forms)) : null
      const meant = near ?? step
      cursor.fail(step === null ? say.unknownLine(found, near) : say.misspeltAtTop(found, step), here, meant === null ? null : { title: `Use ${meant}`, from: here.from, to: here.to, text: meant })
    }
    return null
  }

  /** Names in brackets; none where there are no brackets. */
  private parameters(cursor: Cursor): readonly Name[] {
    const parameters: Name[] = []
    if (!cursor.takeSign('(') || cursor.takeSign(')')) return parameters
    do parameters.push(readName(cursor, 'a parameter'))
    while (cursor.takeSign(','))
    if (!cursor.takeSign(')')) cursor.fail(say.expected(')', cursor.found()))
    return parameters
  }

  /** The steps of a heading: behind an arrow, or indented below. */
  private body(cursor: Cursor, tree: LineTree, above: string): Block {
    if (!cursor.failed && cursor.isSign('->')) {
      const arrow = cursor.next()!
      if (tree.under.length > 0) cursor.fail(say.blockTwice(), arrow.range)
      const step = this.inlineStep(cursor)
      return { steps: step === null ? [] : [step], tail: [], inline: true }
    }
    this.end(cursor)
    if (tree.under.length === 0) {
      cursor.fail(say.missingBlock(above), cursor.failed ? undefined : tree.line.tokens[0]!.range)
      return EMPTY_BLOCK
    }
    return this.block(tree.under)
  }

  private block(trees: readonly LineTree[]): Block {
    return { steps: this.steps(trees), tail: [], inline: false }
  }

  private steps(trees: readonly LineTree[]): Step[] {
    const steps: Step[] = []
    for (let i = 0; i < trees.length; i++) {
      const tree = trees[i]!
      const cursor = this.cursor(tree)
      const range = this.rangeOf(tree)
      const off = cursor.takeWord('off')
      // An else that nothing takes is told once, as such.
      const head = isElse(tree) || this.tooDeep(tree, cursor) ? null : readStepHead(cursor, this.findings, this.forms, { off, range, trivia: triviaOf(tree) })
      const step = head === null ? null : this.complete(head, cursor, tree, trees, i)
      if (step !== null) i += step.taken
      cursor.report(this.findings)
      const bodyKept = step !== null && ['if', 'repeat', 'choose'].includes(step.step.tag)
      if (step === null || (cursor.failed && !bodyKept)) steps.push(this.unread(tree))
      else steps.push(step.step)
    }
    return steps
  }

  /** Whether a line among steps begins with a word of the margin: it is told so, with the mend that moves it out. */
  private tooDeep(tree: LineTree, cursor: Cursor): boolean {
    const first = tree.line.tokens.find(t => t.type !== 'word' || t.text !== 'off')
    const word = first?.type === 'word' ? first.text : ''
    if (!MARGIN_WORDS.includes(word)) return false
    const begin = tree.line.range.from - tree.line.indent
    const indent = marginFor(this.source.slice(0, begin).split('\n').slice(0, -1), this.source.slice(begin, tree.line.range.to))
    if (indent === null) return false
    cursor.fail(say.tooFarIn(word), tree.line.tokens[0]!.range, { title: 'Move it out', ...setOut(this.source, tree, indent) })
    return true
  }

  /** Joins a head with its block, and an `if` with the `else` lines that follow it. */
  private complete(head: StepHead, cursor: Cursor, tree: LineTree, siblings: readonly LineTree[], at: number): { step: Step, taken: number } | null {
    const base = { range: this.rangeOf(tree), trivia: triviaOf(tree), off: head.off }
    switch (head.tag) {
      case 'repeat':
        return { step: { tag: 'repeat', times: head.times, test: head.test, each: head.each, body: this.body(cursor, tree, 'repeat'), ...base }, taken: 0 }
      case 'choose':
        return { step: this.choose(head.value, cursor, tree, base), taken: 0 }
      case 'if': {
        const branches: Branch[] = [{ condition: head.condition, body: this.body(cursor, tree, 'if'), range: base.range, trivia: NO_TRIVIA }]
        let otherwise: Branch | null = null
        let taken = 0
        while (otherwise === null) {
          const next = siblings[at + taken + 1]
          if (next === undefined || !isElse(next)) break
          taken++
          const branch = this.elseBranch(next)
          if (branch.condition === null) otherwise = branch
          else branches.push(branch)
        }
        const end = otherwise ?? branches.at(-1)!
        return { step: { tag: 'if', branches, otherwise, ...base, range: { from: base.range.from, to: end.range.to } }, taken }
      }
      default: {
        let step = head as Step
        let taken = 0
        if (!cursor.failed) {
          this.end(cursor)
          const next = siblings[at + 1]
          if ('late' in step && step.atMost !== null && next !== undefined && isElse(next) && next.line.tokens.length > 0) {
            const late = this.elseBranch(next)
            if (late.condition !== null) this.findings.error(say.elseIfLate(), late.range)
            else step = { ...step, late, range: { from: base.range.from, to: late.range.to } }
            taken = 1
          }
          if (tree.under.length > 0) {
            this.findings.error(say.unexpectedBlock('this step'), tree.under[0]!.line.range)
            this.steps(tree.under)
          }
        }
        return { step, taken }
      }
    }
  }

  private elseBranch(tree: LineTree): Branch {
    const cursor = this.cursor(tree)
    cursor.takeWord('else')
    const condition = cursor.takeWord('if') ? readExpression(cursor, this.findings) : null
    const body = this.body(cursor, tree, 'else')
    cursor.report(this.findings)
    return { condition, body, range: this.rangeOf(tree), trivia: triviaOf(tree) }
  }

  private choose(value: Expression, cursor: Cursor, tree: LineTree, base: { range: Range, trivia: Trivia, off: boolean }): Step {
    this.end(cursor)
    const cases: Case[] = []
    let otherwise: Branch | null = null
    if (tree.under.length === 0) cursor.fail(say.missingBlock('choose'), tree.line.tokens[0]!.range)
    for (const under of tree.under) {
      const c = this.cursor(under)
      if (c.takeWord('else')) {
        otherwise = { condition: null, body: this.body(c, under, 'else'), range: this.rangeOf(under), trivia: triviaOf(under) }
      } else if (c.takeWord('is')) {
        const values = [readSum(c, this.findings, 0)]
        while (c.takeSign(',')) values.push(readSum(c, this.findings, 0))
        cases.push({ values, body: this.body(c, under, 'is'), range: this.rangeOf(under), trivia: triviaOf(under) })
      } else c.fail(say.caseExpected(c.found()))
      c.report(this.findings)
    }
    return { tag: 'choose', value, cases, otherwise, ...base }
  }

  /** The one step behind an arrow. */
  private inlineStep(cursor: Cursor): Step | null {
    const from = cursor.here().from
    const off = cursor.takeWord('off')
    const first = cursor.peek()
    if (first?.type === 'word' && ['if', 'repeat', 'choose'].includes(first.text)) {
      cursor.fail(say.arrowNeedsPlainStep(), first.range)
      return null
    }
    const to = cursor.tokens.at(-1)?.range.to ?? from
    const head = readStepHead(cursor, this.findings, this.forms, { off, range: { from, to }, trivia: NO_TRIVIA })
    this.end(cursor)
    return head === null ? null : head as Step
  }

  private leaf(cursor: Cursor, tree: LineTree, above: string): void {
    this.end(cursor)
    if (tree.under.length > 0) this.findings.error(say.unexpectedBlock(above), tree.under[0]!.line.range)
  }

  private end(cursor: Cursor): void {
    if (!cursor.failed && !cursor.atEnd) cursor.fail(say.unexpectedRest(cursor.found()))
  }

  private cursor(tree: LineTree): Cursor {
    return new Cursor(tree.line.tokens, tree.line.range.to)
  }

  private rangeOf(tree: LineTree): Range {
    let last = tree
    while (last.under.length > 0) last = last.under.at(-1)!
    return { from: tree.line.range.from, to: last.line.range.to }
  }

  private unread(tree: LineTree): Unread {
    if (isElse(tree)) this.findings.error(say.elseAlone(), tree.line.tokens[0]!.range)
    const mark = this.findings.list.length
    const block = tree.under.length > 0 ? this.block(tree.under) : EMPTY_BLOCK
    // What stands under an unread line is guesswork: its steps are kept, but not judged.
    this.findings.list.length = mark
    const { from, to } = tree.line.range
    const text = this.source.slice(from, to).split('\n').map(line => withoutComment(line).trim()).filter(line => line !== '').join(' ')
    return { tag: 'unread', text, body: block, range: this.rangeOf(tree), trivia: triviaOf(tree) }
  }
}

function withoutComment(line: string): string {
  let quoted = false
  for (let i = 0; i < line.length; i++) {
    if (line[i] === '"') quoted = !quoted
    else if (line[i] === '#' && !quoted) return line.slice(0, i)
  }
  return line
}

function isElse(tree: LineTree): boolean {
  const t = tree.line.tokens[0]
  return t?.type === 'word' && t.text === 'else'
}

function triviaOf(tree: LineTree): Trivia {
  const { above, behind, gap } = tree.line
  return above.length === 0 && behind === null && !gap ? NO_TRIVIA : { above, behind, gap }
}

function missingCondition(range: Range): Condition {
  const at = { from: range.from, to: range.from }
  return { expression: { tag: 'missing', range: at }, held: null, range: at }
}
