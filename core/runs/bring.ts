import type { TapeEvent } from '../tape'
import { columnsOf } from './columns'
import { sameRules, type Compared } from './difference'

/** What a run's tape is for another that goes on from it with another program. */
export interface BroughtOver { readonly rows: Float64Array<ArrayBuffer>, readonly events: readonly TapeEvent[] }

/**
 * The rows and events of a run up to a tick, as a tape of another's layout has them: on the same robot in the same arena, with
 * another program. What the other program does not have is left out; lanes, modes and names are those that are called the same, rules as
 * `sameRules` has them.
 */
export function broughtOver(from: Compared, to: Omit<Compared, 'tape'> & { readonly layout: Compared['tape']['layout'] }, ticks: number): BroughtOver {
  const [old, now] = [from.tape.layout, to.layout]
  const first = from.tape.first
  const count = Math.max(0, Math.min(ticks, from.tape.rows) - first)
  const rows = new Float64Array(count * now.width)
  const events = from.tape.events.filter(e => e.tick < ticks)
  if (JSON.stringify(old) === JSON.stringify(now) && from.program?.text === to.program?.text) return { rows: from.tape.slice(first, first + count), events }
  const others = new Map(columnsOf({ facts: from.facts, layout: old, program: from.program }).map(c => [c.id, c.column]))
  const same = sameRules(from.program, to.program)
  const were = new Map([...same].map(([was, is]) => [is, was]))
  const rule = (n: number): number => n < 0 ? n : same.get(n) ?? -1
  const pairs = columnsOf({ facts: to.facts, layout: now, program: to.program }).flatMap((c) => {
    if (c.group === 'rules') {
      const was = were.get(c.column - now.wants)
      return was === undefined ? [] : [[c.column, old.wants + was] as const]
    }
    const at = others.get(c.id)
    return at === undefined ? [] : [[c.column, at] as const]
  })
  const lanes = now.laneNames.flatMap((name, i) => { const at = old.laneNames.indexOf(name); return at === -1 ? [] : [[i, at] as const] })
  // What the program has no part in stands in the same order in both.
  const blocks = [[now.readings, old.readings, now.lanes - now.readings], [now.still, old.still, 1], [now.beams, old.beams, now.width - now.beams]] as const
  for (let k = 0; k < count; k++) {
    const row = from.tape.at(first + k)
    const into = rows.subarray(k * now.width, (k + 1) * now.width)
    for (const [to, at, length] of blocks) into.set(row.subarray(at, at + length), to)
    into.fill(-1, now.lanes, now.lanes + 4 * now.laneNames.length)
    for (const [i, at] of lanes) {
      const mode = to.program?.lanes[i]?.modes.indexOf(from.program?.lanes[at]?.modes[row[old.lanes + 4 * at + 1]!] ?? '') ?? -1
      into.set([row[old.lanes + 4 * at]!, mode, rule(row[old.lanes + 4 * at + 2]!), -1], now.lanes + 4 * i)
      into[now.entered + i] = row[old.entered + at]!
    }
    for (const [to, at] of pairs) into[to] = row[at]!
  }
  return { rows, events }
}
