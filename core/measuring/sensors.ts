import { DEVICE_KINDS, WHEELS } from '../devices'
import type { DeviceFacts, RobotFacts } from '../robot'
import type { Tape } from '../tape'
import { clamp } from '../maths'
import { leastSquares, square } from './solve'
import type { Found } from './wheels'

/** What was found of a sensor, SI; null where the tape says nothing of it. */
export interface SensorFound {
  readonly device: string
  /** Deviation of its first reading (a gyro's rate) while the robot stands. */
  readonly noise: Found | null
  /** What it reads in the mean while the robot stands: beside what is true, its bias. */
  readonly mean: Found | null
  /** The share of looks that were lost while others saw something. */
  readonly dropout: number | null
  /** From a look to its reading, seconds, by how it lags behind the wheels. */
  readonly latency: Found | null
}

/** Standing and moving: seconds that are left out after a change. */
const SETTLES = 0.4
/** A stretch is worth looking at from so many ticks on. */
const WORTH = 25

/** Ticks in which the robot stands, or is on its way, and has for a while. */
function ticksWhere(tape: Tape, facts: RobotFacts, stands: boolean): readonly number[] {
  const wheels = facts.devices.find(d => d.kind === WHEELS)
  const settle = stands ? Math.ceil(SETTLES / facts.tick) : 0
  const ticks: number[] = []
  if (wheels === undefined) return stands ? Array.from({ length: tape.rows - tape.first }, (_, i) => tape.first + i) : []
  const speed = tape.layout.readings + wheels.first + wheels.readings.findIndex(r => r.name === 'speed')
  const rate = tape.layout.readings + wheels.first + wheels.readings.findIndex(r => r.name === '_rate')
  let since = tape.first
  for (let tick = tape.first; tick < tape.rows; tick++) {
    const row = tape.at(tick)
    const still = Math.abs(row[speed]!) < 1e-4 && Math.abs(row[rate]!) < 1e-3
    if (still !== stands) since = tick + 1
    else if (tick - since >= settle) ticks.push(tick)
  }
  return ticks
}

/** Which of its readings tells how a device errs. */
export function erringReading({ kind, readings }: DeviceFacts): number {
  const by = DEVICE_KINDS.find(k => k.kind === kind)?.errsBy
  return by === undefined ? 0 : readings.findIndex(r => r.name === by)
}

/** What a tape says of a sensor. */
export function findSensor(tape: Tape, facts: RobotFacts, device: DeviceFacts): SensorFound {
  const column = tape.layout.readings + device.first + erringReading(device)
  const standing = ticksWhere(tape, facts, true).map(tick => tape.at(tick)[column]!)
  const seen = standing.filter(Number.isFinite)
  const mean = seen.reduce((sum, x) => sum + x, 0) / seen.length
  const deviation = Math.sqrt(seen.reduce((sum, x) => sum + square(x - mean), 0) / Math.max(1, seen.length - 1))
  // A look stays on the tape until the next one: so many of them there were.
  const looks = seen.length / Math.max(1, device.round / facts.tick)
  const enough = seen.length >= WORTH && looks >= 8
  const lost = device.readings[0]!.mayMiss && seen.length > standing.length / 2 ? 1 - seen.length / standing.length : null
  return {
    device: device.name,
    noise: enough ? { value: deviation, error: deviation / Math.sqrt(2 * looks) } : null,
    mean: enough ? { value: mean, error: deviation / Math.sqrt(looks) } : null,
    dropout: standing.length >= WORTH ? lost : null,
    latency: findLatency(tape, facts, device),
  }
}

/** Latencies that are tried, seconds, and in which steps (of a tick). */
const LONGEST = 0.6
const FINE = 0.1

/**
 * How long a sensor's readings lag behind what the wheels tell of in every tick: a distance ahead falls as the robot rolls forward, a gyro turns as the wheels turn. The
 * lag is the one with which what one reads follows the other best (least squares, scale and zero free); it needs a robot that went to and fro, or turned both ways.
 */
function findLatency(tape: Tape, facts: RobotFacts, device: DeviceFacts): Found | null {
  const wheels = facts.devices.find(d => d.kind === WHEELS)
  if (wheels === undefined) return null
  const gyro = device.kind === 'gyro'
  if (!gyro && !(device.readings[0]!.mayMiss && device.readings[0]!.type.type === 'quantity')) return null
  const of = (name: string): number => tape.layout.readings + wheels.first + wheels.readings.findIndex(r => r.name === name)
  const [leads, follows] = gyro ? [of('_rate'), tape.layout.readings + device.first + device.readings.findIndex(r => r.name === 'rate')] : [of('travel'), tape.layout.readings + device.first]
  const lead: number[] = []
  const samples: { readonly tick: number, readonly value: number }[] = []
  let before = NaN
  for (let tick = tape.first; tick < tape.rows; tick++) {
    const row = tape.at(tick)
    lead.push(row[leads]!)
    const value = row[follows]!
    // A new reading is a new look; one that is not new is as old as it is.
    if (value !== before && Number.isFinite(value)) samples.push({ tick: tick - tape.first, value })
    before = value
  }
  if (!goesBothWays(tape, facts, leads, gyro) || samples.length < 3 * WORTH) return null
  const most = Math.ceil(LONGEST / facts.tick)
  const usable = samples.filter(s => s.tick >= most + WIDE + 1)
  const lags = Array.from({ length: Math.round(most / FINE) + 1 }, (_, i) => i * FINE)
  const first = least(lags, lag => line(pairs(usable, lead, lag)).left)
  // Those far off (a look that was lost, something that came between) are left out: the same with every lag.
  const whole = pairs(usable, lead, first)
  const { zero, slope, left: all } = line(whole)
  const near = usable.filter((_, i) => Math.abs(whole[i]![1] - zero - slope * whole[i]![0]) <= 3 * Math.sqrt(all / usable.length))
  const leftAt = (lag: number): number => line(pairs(near, lead, lag)).left
  const best = least(lags, leftAt)
  if (best >= most - FINE) return null
  // A parabola about the least: what is left is rough where there is noise, and its valley wider than that.
  const about = lags.filter(lag => Math.abs(lag - best) <= WIDE)
  const valley = parabola(about.map(lag => [lag - best, leftAt(lag)] as const))
  const lag = valley.bend > 0 ? clamp(best + valley.least, 0, most) : best
  const variance = leftAt(best) / Math.max(1, near.length - 3)
  // A reading waits for the next tick: half of one in the mean.
  return { value: Math.max(0, lag - 0.5) * facts.tick, error: valley.bend > 0 ? Math.sqrt(variance / valley.bend) * facts.tick : facts.tick }
}

/** Ticks on both sides of the least over which a valley is looked at. */
const WIDE = 2

const least = (lags: readonly number[], left: (lag: number) => number): number => lags.reduce((best, lag) => { const is = left(lag); return is < best.left ? { lag, left: is } : best }, { lag: 0, left: Infinity }).lag

/** The parabola through points by least squares: where it is least, and how it bends (the factor of the square). */
function parabola(points: readonly (readonly [number, number])[]): { readonly least: number, readonly bend: number } {
  const found = leastSquares([points[0]![1], 0, 0], ([a, b, c]) => points.map(([x, y]) => a! + b! * x + c! * x * x - y))
  const [, slope = 0, bend = 0] = found?.values ?? []
  return { least: bend === 0 ? 0 : -slope / (2 * bend), bend }
}

/** Whether the wheels went forward and backward (or turned both ways) by themselves for a while: else a lag looks like a distance. */
function goesBothWays(tape: Tape, facts: RobotFacts, column: number, isRate: boolean): boolean {
  let [up, down] = [0, 0]
  let before = tape.at(tape.first)[column]!
  for (let tick = tape.first + 1; tick < tape.rows; tick++) {
    const now = tape.at(tick)[column]!
    const change = isRate ? now * facts.tick : now - before
    if (change > 0) up += change
    else down -= change
    before = now
  }
  return Math.min(up, down) > 0.1
}

/** Samples beside what led them so many ticks before. */
function pairs(samples: readonly { readonly tick: number, readonly value: number }[], lead: readonly number[], lag: number): readonly (readonly [number, number])[] {
  const whole = Math.floor(lag)
  const part = lag - whole
  return samples.map(({ tick, value }) => [lead[tick - whole]! * (1 - part) + lead[tick - whole - 1]! * part, value] as const)
}

/** The straight line through points by least squares, and what is left beside it: the sum of squares. */
function line(points: readonly (readonly [number, number])[]): { readonly zero: number, readonly slope: number, readonly left: number } {
  const n = points.length
  const [mx, my] = [points.reduce((s, p) => s + p[0], 0) / n, points.reduce((s, p) => s + p[1], 0) / n]
  const [xx, xy] = [points.reduce((s, p) => s + square(p[0] - mx), 0), points.reduce((s, p) => s + (p[0] - mx) * (p[1] - my), 0)]
  const slope = xx === 0 ? 0 : xy / xx
  const zero = my - slope * mx
  return { zero, slope, left: points.reduce((s, [x, y]) => s + square(y - zero - slope * x), 0) }
}
