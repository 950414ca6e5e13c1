import type { Tape, TapeEvent, TapeLayout } from '~~/core/tape'

/** Ticks that are shown, from and to. */
export interface Span { readonly from: number, readonly to: number }

/** The fewest ticks that can be looked at. */
const FEWEST = 10

/** The span, `factor` times as long, with the tick `about` where it was; within 0 and `most`. null where that is all of it. */
export function zoomed(span: Span, factor: number, about: number, most: number): Span | null {
  const length = Math.min(most, Math.max(FEWEST, (span.to - span.from) * factor))
  if (length >= most) return null
  const share = (about - span.from) / (span.to - span.from)
  return within({ from: about - share * length, to: about + (1 - share) * length }, most)
}

/** The span moved on by some ticks, as far as it goes. */
export const panned = (span: Span, by: number, most: number): Span => within({ from: span.from + by, to: span.to + by }, most)

function within({ from, to }: Span, most: number): Span {
  const shift = from < 0 ? -from : to > most ? most - to : 0
  return { from: from + shift, to: to + shift }
}

/** The next tick (or the one before, `by` -1) in which another rule took control in any lane; null when there is none. */
export function nextTakeover(tape: Tape, layout: TapeLayout, tick: number, by: 1 | -1): number | null {
  const lanes = layout.laneNames.map((_, i) => layout.lanes + 4 * i + 2)
  for (let t = tick + by; t > tape.first && t < tape.rows; t += by) if (lanes.some(column => tape.value(t, column) !== tape.value(t - 1, column))) return t
  return null
}

/** The next event of these kinds after a tick (or before it, `by` -1); null when there is none. */
export function nextEvent(events: readonly TapeEvent[], tick: number, by: 1 | -1, types: readonly TapeEvent['type'][]): number | null {
  const found = by === 1 ? events.find(e => e.tick > tick && types.includes(e.type)) : events.findLast(e => e.tick < tick && types.includes(e.type))
  return found?.tick ?? null
}
