import { namedValue, type NamedCell, type Threshold } from '~~/core/program'
import type { DialView, Opened } from '~/run/protocol'

/** What a threshold stands at in a tick, SI: as it is written, as its dial stands now, or what its name was worth then; null where it is worked out on the spot. */
export function boundOf(t: Threshold, opened: Opened, dials: readonly DialView[], row: Float64Array | null, tick: number): number | null {
  if (t.value !== null) return t.value
  const at = t.cell === null ? -1 : opened.program?.named.findIndex(n => n.cell === t.cell) ?? -1
  const named = opened.program?.named[at]
  if (named === undefined) return null
  const dial = named.what === 'dial' ? dials.find(d => d.name === named.name) : undefined
  return dial?.value ?? valueAt(named, at, opened, row, tick)
}

/** What a name was worth in a tick, SI; null before the first. `at`: its place among the names. */
export function valueAt(named: NamedCell, at: number, { layout }: Opened, row: Float64Array | null, tick: number): number | null {
  return row === null ? null : namedValue(named, row[layout.named + at]!, tick, layout.dt)
}
