import { diffLines } from 'diff'

/** A line of one of two texts, and whether it is only there. */
export interface DiffLine { readonly text: string, readonly own: boolean }

const linesOf = (value: string): readonly string[] => value === '' ? [] : value.replace(/\n$/, '').split('\n')

/** Two texts line by line, what is only in one marked. */
export function sidesOf(before: string, after: string): { readonly before: readonly DiffLine[], readonly after: readonly DiffLine[] } {
  const parts = diffLines(before, after)
  const side = (own: 'added' | 'removed', other: 'added' | 'removed'): readonly DiffLine[] =>
    parts.flatMap(p => p[other] ? [] : linesOf(p.value).map(text => ({ text, own: p[own] })))
  return { before: side('removed', 'added'), after: side('added', 'removed') }
}
