import type { Card, Piece, RuleRow } from '~~/core/editing'

/** Pieces of a sentence as one reads them. */
export const textOf = (pieces: readonly Piece[]): string => pieces.map(p => p.text).join(' ').replaceAll(/\s+/g, ' ').replaceAll(/ ([,)])/g, '$1').replaceAll('( ', '(').trim()

/** When a rule wants control, in words. */
export function whenOf(row: RuleRow): string {
  if (row.what !== 'rule') return row.what
  return row.until.length === 0 ? textOf(row.when) : `${textOf(row.when)} until ${textOf(row.until)}`
}

/** A text cut at a word, with a sign that there is more. */
export function shortened(text: string, most: number): string {
  if (text.length <= most) return text
  const cut = text.slice(0, most - 1)
  const word = cut.lastIndexOf(' ')
  return `${(word > most / 2 ? cut.slice(0, word) : cut).trimEnd()}…`
}

/** The rows of all cards by their line. */
export function rowsByLine(cards: readonly Card[]): ReadonlyMap<number, RuleRow> {
  return new Map(cards.flatMap(c => c.rows.map(r => [r.line, r] as const)))
}
