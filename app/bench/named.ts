import { namedValue, type NamedCell, type Threshold } from '~~/core/program'
import type { DialView, Opened } from '~/workers/protocol'

/** What a threshold stands at: a name that people gave, with its value in SI; null where it is worked out on the spot. */
export interface Bound { readonly name: string | null, readonly value: number }

/** A threshold at an instant: as it is written, as its dial stands now, or what its name was worth then. */
export function boundOf(t: Threshold, opened: Opened, dials: readonly DialView[], row: Float64Array | null, tick: number): Bound | null {
  if (t.value !== null) return { name: null, value: t.value }
  const at = t.cell === null ? -1 : opened.program?.named.findIndex(n => n.cell === t.cell) ?? -1
  if (at === -1) return null
  const named = opened.program!.named[at]!
  const dial = named.what === 'dial' ? dials.find(d => d.name === named.name) : undefined
  const value = dial?.value ?? valueAt(named, at, opened, row, tick)
  return value === null ? null : { name: named.name, value }
}

/** What a name was worth at an instant, SI; null before the first. `at`: its place among the names. */
export function valueAt(named: NamedCell, at: number, { layout }: Opened, row: Float64Array | null, tick: number): number | null {
  return row === null ? null : namedValue(named, row[layout.named + at]!, tick, layout.dt)
}
