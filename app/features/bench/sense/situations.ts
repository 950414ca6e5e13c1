import type { ReadingSpec } from '~~/core/devices'
import type { RobotFacts } from '~~/core/robot'
import type { TapeLayout } from '~~/core/tape'
import { readingName } from '~/shown/readings'
import type { Tape } from '~~/core/tape'

/** How a reading spread while a situation lasted. SI units; echoes that were missing are counted apart. */
export interface Spread {
  readonly low: number
  readonly high: number
  /** Share of the looks that had no echo. */
  readonly missing: number
}

/** A situation as it was captured: the spread of every reading, by name. */
export type Situation = ReadonlyMap<string, Spread>

/** What tells two situations apart by one reading. */
export interface Proposal {
  readonly reading: string
  readonly device: string
  readonly spec: ReadingSpec
  readonly first: Spread
  readonly second: Spread
  /** Half way between the two; null where they overlap. A truth or a colour has none. */
  readonly threshold: number | null
  /** Room on either side of the threshold, SI. */
  readonly margin: number
  /** How many times the margin holds the wider of the two spreads. */
  readonly certainty: number
}

/** A margin that holds the spread this many times is as good as any larger one. */
const SURE = 5

/** The spread of each plain quantity over some ticks; a reading that never had an echo is left out. */
export function capture(tape: Tape, layout: TapeLayout, facts: RobotFacts, from: number, to: number): Situation {
  const found = new Map<string, Spread>()
  for (const device of facts.devices) {
    device.readings.forEach((spec, i) => {
      // What adds up tells how long ago something was, not how things stand.
      if (spec.hidden || spec.resettable || spec.takes.length > 0 || spec.type.type !== 'quantity') return
      let low = Infinity
      let high = -Infinity
      let missing = 0
      let all = 0
      for (let t = Math.max(0, from); t < Math.min(to, tape.rows); t++) {
        const value = tape.value(t, layout.readings + device.first + i)
        all++
        if (value === Infinity) { missing++; continue }
        low = Math.min(low, value)
        high = Math.max(high, value)
      }
      if (all > 0 && missing < all) found.set(readingName(device, spec), { low, high, missing: missing / all })
      // No echo at all is farther than anything.
      else if (all > 0 && spec.range !== null) found.set(readingName(device, spec), { low: Infinity, high: Infinity, missing: 1 })
    })
  }
  return found
}

/** Which readings tell the two situations apart, the surest first, then those that do not. */
export function propose(facts: RobotFacts, first: Situation, second: Situation): readonly Proposal[] {
  const out: Proposal[] = []
  for (const device of facts.devices) {
    for (const spec of device.readings) {
      const reading = readingName(device, spec)
      const a = first.get(reading)
      const b = second.get(reading)
      if (a === undefined || b === undefined) continue
      const [near, far] = a.high <= b.low ? [a, b] : [b, a]
      const most = spec.range?.[1] ?? near.high
      const start = far.low === Infinity ? Math.max(most, near.high) : far.low
      const gap = start - near.high
      const moved = Math.max(Math.abs(a.low - b.low), Math.abs(a.high - b.high))
      // What did not change between the two says nothing about them.
      if (!(moved > 1e-9)) continue
      const width = Math.max(spreadOf(a), spreadOf(b), 1e-9)
      const apart = gap > 0
      out.push({
        reading, device: device.name, spec, first: a, second: b,
        threshold: apart ? near.high + gap / 2 : null, margin: apart ? gap / 2 : 0, certainty: apart ? gap / 2 / width : 0,
      })
    }
  }
  // Beyond sure there is no surer: then the order of the devices decides.
  const sure = (p: Proposal): number => Math.min(SURE, p.certainty)
  return out.sort((x, y) => sure(y) - sure(x))
}

const spreadOf = (s: Spread): number => s.low === Infinity ? 0 : s.high - s.low

/** The condition that is true in the first situation and not in the second. */
export function conditionOf(p: Proposal, written: string): string {
  return `${p.reading} ${p.first.high <= p.second.low ? '<' : '>'} ${written}`
}
