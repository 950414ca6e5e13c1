import { yawOf } from '../geometry'
import type { ProgramMap } from '../language'
import type { Tape, TapeEvent } from '../tape'
import { columnValue, type Column } from './columns'
import { ruleSaid } from './difference'

/** A stretch of ticks, the end exclusive, in which one rule had a lane's control; `label` is how it is called, '' for none. */
export interface Band { readonly from: number, readonly to: number, readonly rule: number, readonly label: string, readonly said: string }

/** Who had control of a lane when. */
export function bandsOf(tape: Tape, program: ProgramMap | null, lane: number): readonly Band[] {
  const column = tape.layout.lanes + 4 * lane + 2
  const bands: Band[] = []
  const named = (rule: number): string => { const r = program?.rules[rule]; return r === undefined ? '' : `${r.mode === '' ? '' : `${r.mode} `}${r.urgency}` }
  for (let tick = tape.first, begin = tick; tick < tape.rows; tick++) {
    const rule = tape.value(tick, column)
    if (tick + 1 < tape.rows && tape.value(tick + 1, column) === rule) continue
    bands.push({ from: begin, to: tick + 1, rule, label: named(rule), said: rule < 0 ? '' : ruleSaid(program, rule) })
    begin = tick + 1
  }
  return bands
}

/** The kinds of event by which runs can be laid, as they are called. */
const FIRSTS: Readonly<Partial<Record<TapeEvent['type'], (event: TapeEvent) => string>>> = {
  contact: e => `contact with ${e.about}`, note: e => `note “${e.text}”`, signal: e => `signal ${e.text}`, goal: e => `goal “${e.about}”: ${e.text}`,
  fall: e => `fall of ${e.about}`, poke: e => `hand: ${e.text}`, blocked: e => `${e.about} blocked`, fed: e => e.text,
}
/** The most that runs can be laid by. */
const MOST_FIRSTS = 60

/** In which tick each thing that can happen happened first, in the order in which they did; by what it was, in words. */
export function firstsOf({ events }: Tape): ReadonlyMap<string, number> {
  const found = new Map<string, number>()
  for (const event of events) {
    const name = FIRSTS[event.type]?.(event)
    if (name !== undefined && !found.has(name) && found.size < MOST_FIRSTS) found.set(name, event.tick)
  }
  return found
}

/** A way over the plan: x and y in metres and heading in radians, to the left, one after the other, every so many ticks from the first. */
export interface Way { readonly every: number, readonly first: number, readonly places: Float32Array<ArrayBuffer> }

/** Where the robot was, at no more than so many places. */
export function wayOf(tape: Tape, most = 1500): Way {
  const { body } = tape.layout
  const every = Math.max(1, Math.ceil((tape.rows - tape.first) / most))
  const places = new Float32Array(3 * Math.ceil((tape.rows - tape.first) / every))
  for (let i = 0; 3 * i < places.length; i++) {
    const row = tape.at(tape.first + i * every)
    places.set([row[body]!, row[body + 1]!, yawOf({ x: row[body + 3]!, y: row[body + 4]!, z: row[body + 5]!, w: row[body + 6]! })], 3 * i)
  }
  return { every, first: tape.first, places }
}

/** Values of a column, SI, every so many ticks from the first: infinite where there is nothing to say. */
export interface Trace { readonly every: number, readonly first: number, readonly values: Float32Array<ArrayBuffer> }

/** A column over the whole run, at no more than so many places. */
export function traceOf(tape: Tape, column: Column, most = 1500): Trace {
  const every = Math.max(1, Math.ceil((tape.rows - tape.first) / most))
  const values = new Float32Array(Math.ceil((tape.rows - tape.first) / every))
  for (let i = 0; i < values.length; i++) {
    const tick = tape.first + i * every
    values[i] = columnValue(column, tape.value(tick, column.column), tick, tape.layout.dt)
  }
  return { every, first: tape.first, values }
}

/** A trace with when it was: seconds of a tick, and of the instant by which it is laid beside others. */
export interface LaidTrace { readonly trace: Trace, readonly dt: number, readonly zero: number }

/** By how much a trace is off another at the same time: in the mean (of its size), at the most, and when that was (seconds after what both are laid by). null where they have no instant in common. */
export interface Apart { readonly trace: Trace, readonly mean: number, readonly most: number, readonly at: number }

/** What one trace is more than another, instant by instant: NaN where the other has none, or one of them saw nothing. */
export function apart(one: LaidTrace, from: LaidTrace): Apart | null {
  const values = new Float32Array(one.trace.values.length)
  let [sum, count, most, at] = [0, 0, 0, 0]
  for (let i = 0; i < values.length; i++) {
    const time = (one.trace.first + i * one.trace.every) * one.dt - one.zero
    const k = Math.round(((time + from.zero) / from.dt - from.trace.first) / from.trace.every)
    const off = one.trace.values[i]! - (from.trace.values[k] ?? NaN)
    values[i] = Number.isFinite(off) ? off : NaN
    if (!Number.isFinite(off)) continue
    sum += Math.abs(off)
    count++
    if (Math.abs(off) > most) [most, at] = [Math.abs(off), time]
  }
  return count === 0 ? null : { trace: { ...one.trace, values }, mean: sum / count, most, at }
}
