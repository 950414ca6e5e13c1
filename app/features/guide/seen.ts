import { outlineOf, sheetOf } from '~~/core/editing'
import type { RunSeen } from './steps'

/** What of a program the guide goes by. */
export function seenOf(text: string): Pick<RunSeen, 'text' | 'rules' | 'senses' | 'lanes'> {
  const cards = outlineOf(sheetOf(text)).cards.filter(card => card.kind !== 'routine')
  const rows = cards.flatMap(card => card.rows)
  const said = (pieces: readonly { readonly text: string }[]): string => pieces.map(p => p.text).join(' ')
  const asked = rows.flatMap(row => [...row.when, ...row.until, ...row.steps.filter(s => s.condition !== null).flatMap(s => s.pieces)])
  return {
    text,
    rules: rows.map(row => `${row.what} ${said(row.when)} ${said(row.until)} -> ${row.steps.map(s => said(s.pieces)).join('; ')}`),
    senses: [...new Set(asked.flatMap(piece => piece.role === 'reading' && piece.device !== null ? [piece.device] : []))],
    // What stands in no lane is one of its own.
    lanes: new Set(cards.map(card => card.kind === 'lane' ? card.name : card.lane)).size,
  }
}
