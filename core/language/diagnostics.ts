import type { Range } from './tree'

export type Severity = 'error' | 'warning' | 'hint'

/** A change to the text that mends what a diagnostic is about. */
export interface Fix {
  readonly title: string
  readonly from: number
  readonly to: number
  readonly text: string
}

/** One thing to say about a program: what kind (`code`), where, and in words. */
export interface Diagnostic {
  readonly code: string
  readonly severity: Severity
  readonly range: Range
  readonly message: string
  readonly fix: Fix | null
}

/** Collects diagnostics while a stage works. */
export class Findings {
  readonly list: Diagnostic[] = []

  add(severity: Severity, said: { readonly code: string, readonly message: string }, range: Range, fix: Fix | null = null): void {
    this.list.push({ code: said.code, severity, range, message: said.message, fix })
  }

  error(said: { readonly code: string, readonly message: string }, range: Range, fix: Fix | null = null): void {
    this.add('error', said, range, fix)
  }

  warning(said: { readonly code: string, readonly message: string }, range: Range, fix: Fix | null = null): void {
    this.add('warning', said, range, fix)
  }

  hint(said: { readonly code: string, readonly message: string }, range: Range, fix: Fix | null = null): void {
    this.add('hint', said, range, fix)
  }
}

/** In the order in which they stand in the text, errors first at one place. */
export function sortedDiagnostics(list: readonly Diagnostic[]): readonly Diagnostic[] {
  const weight = { error: 0, warning: 1, hint: 2 }
  return [...list].sort((a, b) => a.range.from - b.range.from || weight[a.severity] - weight[b.severity] || a.code.localeCompare(b.code))
}

/** Line and column of an offset, both counted from 1. */
export function placeOf(text: string, offset: number): Place {
  return new LineIndex(text).placeOf(offset)
}

export interface Place { readonly line: number, readonly column: number }

/** Finds lines of many offsets in one text. */
export class LineIndex {
  private readonly starts: number[] = [0]

  constructor(text: string) {
    for (let at = text.indexOf('\n'); at !== -1; at = text.indexOf('\n', at + 1)) this.starts.push(at + 1)
  }

  placeOf(offset: number): Place {
    const { starts } = this
    let low = 0
    let high = starts.length - 1
    while (low < high) {
      const middle = (low + high + 1) >> 1
      if (starts[middle]! <= offset) low = middle
      else high = middle - 1
    }
    return { line: low + 1, column: offset - starts[low]! + 1 }
  }
}
