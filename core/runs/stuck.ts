import { WHEEL_MODE } from '../devices'
import { yawOf } from '../geometry'
import { wrapAngle } from '../maths'
import { driveOf, type RobotFacts } from '../robot'
import type { Tape } from '../tape'

/**
 * The robot counts as stuck when it stays within this of one place (metres) for so long (seconds) though its wheels are told to
 * move for this share of the time. Shorter ones are how programs that work look round, aim and grip: up to 10 s in the demo projects.
 */
const NEAR = 0.12
const LONG = 15
const TOLD = 0.6
/** Turning on the spot one way is looking round: stuck only when it goes on for longer than this, seconds. */
const LOOKING = 20
/** Seconds between two places that are looked at. */
const STEP = 0.1
/** Who moves less than this stands, metres. */
const SWAYS = 0.03
/** A turn the other way counts from so much, radians. */
const SWAY = 0.15

/** A time in which a robot got nowhere. Ticks, the end exclusive; metres. */
export interface Stuck {
  readonly from: number
  readonly to: number
  /** Seconds that it took. */
  readonly time: number
  readonly x: number
  readonly y: number
  /** It pressed on without moving; turned left and right again and again; went to and fro; or went round on the spot. */
  readonly how: 'standing' | 'left and right' | 'to and fro' | 'round and round'
  /** How often it turned the other way. */
  readonly swings: number
  /** Of the first lane: rules by number with their share of that time, the largest first; none where none had control. */
  readonly rules: readonly { readonly rule: number, readonly share: number }[]
}

/** What a stuck robot did, in words. */
export const stuckSaid = ({ how, swings }: Stuck): string => how === 'standing' ? 'it pressed on and stood' : how === 'left and right' ? `it turned left and right, ${swings} times the other way` : how === 'to and fro' ? 'it went to and fro' : 'it went round on the spot'

/** Where a robot with wheels got nowhere for a time; nothing for one without. */
export function stuckIn(tape: Tape, facts: RobotFacts): readonly Stuck[] {
  const wheels = facts.actuators.find(a => a.name === 'wheels')
  if (driveOf(facts) === null || wheels === undefined) return []
  const { layout } = tape
  const every = Math.max(1, Math.round(STEP / layout.dt))
  const command = layout.commands + wheels.channel
  const told = (t: number): boolean => tape.value(t, command) >= WHEEL_MODE.speed && (tape.value(t, command + 1) !== 0 || tape.value(t, command + 2) !== 0)
  const x = (t: number): number => tape.value(t, layout.body)
  const y = (t: number): number => tape.value(t, layout.body + 1)
  const last = tape.rows
  const found: Stuck[] = []
  let from = tape.first
  while (from < last) {
    const near = (t: number): boolean => distanceOf(x(t) - x(from), y(t) - y(from)) <= NEAR
    let to = from
    while (to < last && near(to)) to += every
    to = Math.min(to, last)
    // Times at both ends in which it was told nothing are waiting.
    let [begin, end] = [from, to]
    while (begin < end && !told(begin)) begin += every
    while (end > begin && !told(end - 1)) end -= every
    const stuck = (end - begin) * layout.dt < LONG ? null : describe(tape, begin, end, every, told)
    if (stuck === null) { from += every; continue }
    found.push(stuck)
    from = to
  }
  return found
}

function describe(tape: Tape, from: number, to: number, every: number, told: (t: number) => boolean): Stuck | null {
  const { layout } = tape
  const heading = (t: number): number => { const row = tape.at(t); const b = layout.body; return yawOf({ x: row[b + 3]!, y: row[b + 4]!, z: row[b + 5]!, w: row[b + 6]! }) }
  let [moving, samples, turned, all, far, swings, way, extreme] = [0, 0, 0, 0, 0, 0, 0, 0]
  const had = new Map<number, number>()
  const control = layout.lanes + 2
  let before = heading(from)
  // It may come to the place first: where it is in the second half is where it is stuck.
  const middle = from + Math.floor((to - from) / 2 / every) * every
  const [x0, y0] = [tape.value(middle, layout.body), tape.value(middle, layout.body + 1)]
  for (let t = from; t < to; t += every) {
    samples++
    if (told(t)) moving++
    const now = heading(t)
    const by = wrapAngle(now - before)
    before = now
    turned += by
    all += Math.abs(by)
    if (way >= 0 && turned > extreme || way <= 0 && turned < extreme) extreme = turned
    if (Math.abs(turned - extreme) > SWAY) { if (way !== 0) swings++; way = Math.sign(turned - extreme); extreme = turned }
    if (way === 0 && Math.abs(turned) > SWAY) way = Math.sign(turned)
    if (t > middle) far = Math.max(far, distanceOf(tape.value(t, layout.body) - x0, tape.value(t, layout.body + 1) - y0))
    if (layout.laneNames.length > 0) { const rule = tape.value(t, control); if (rule >= 0) had.set(rule, (had.get(rule) ?? 0) + 1) }
  }
  if (moving / samples < TOLD) return null
  const how = swings >= 2 ? 'left and right' as const : all > 2 * Math.PI ? 'round and round' as const : far > SWAYS ? 'to and fro' as const : 'standing' as const
  if (how === 'round and round' && (to - from) * layout.dt < LOOKING) return null
  return {
    from, to, time: (to - from) * layout.dt, x: x0, y: y0, how, swings,
    rules: [...had].map(([rule, n]) => ({ rule, share: n / samples })).sort((a, b) => b.share - a.share),
  }
}

const distanceOf = (dx: number, dy: number): number => Math.sqrt(dx * dx + dy * dy)
