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

/** A stretch of two texts: lines that both have, or those that each has in their place. */
export type Stretch =
  | { readonly same: readonly string[] }
  | { readonly mine: readonly string[], readonly theirs: readonly string[] }

/** Two texts as stretches, in order. */
export function stretchesOf(mine: string, theirs: string): readonly Stretch[] {
  const list: Stretch[] = []
  for (const part of diffLines(theirs, mine)) {
    const lines = linesOf(part.value)
    const last = list.at(-1)
    if (!part.added && !part.removed) list.push({ same: lines })
    else if (last !== undefined && 'mine' in last) list[list.length - 1] = { mine: [...last.mine, ...part.added ? lines : []], theirs: [...last.theirs, ...part.removed ? lines : []] }
    else list.push({ mine: part.added ? lines : [], theirs: part.removed ? lines : [] })
  }
  return list
}

/** The text that comes of choosing a side for each stretch in which they differ, in order. */
export function chosenText(stretches: readonly Stretch[], sides: readonly ('mine' | 'theirs')[]): string {
  let at = 0
  const lines = stretches.flatMap(s => 'same' in s ? s.same : s[sides[at++] ?? 'mine'])
  return lines.length === 0 ? '' : `${lines.join('\n')}\n`
}
