import { DEVICE_KINDS, WHEELS } from '../devices'
import { driveOf, type DeviceFacts, type RobotFacts } from '../robot'
import type { Tape } from '../tape'
import { clamp } from '../maths'
import { leastSquares, square } from './solve'
import { rolledIn, type Found } from './wheels'

/** What was found of a sensor, SI; null where the tape says nothing of it. */
export interface SensorFound {
  readonly device: string
  /** Deviation of the reading by which it errs (the first; a gyro's rate, how much comes back to a colour sensor, a bearing of a camera) while the robot stands. */
  readonly noise: Found | null
  /** What it reads in the mean where the robot stood longest: beside what is true, its bias. */
  readonly mean: Found | null
  /** The share of looks that were lost while others saw something. */
  readonly dropout: number | null
  /** From a look to its reading, seconds, by how it lags behind the wheels. */
  readonly latency: Found | null
  /** What noise and latency go by, to be seen beside them; null where they were not found. */
  readonly off: readonly number[] | null
  readonly lag: LagData | null
}

/** What a device read while the robot moved, and what the wheels tell of that with the latency that was found: an instant (seconds from the beginning), what was read, what would be. */
export interface LagData { readonly at: readonly number[], readonly read: readonly number[], readonly told: readonly number[] }

/** So much of what was read is shown beside what was found. */
const SHOWN = 240
const thinned = <T>(all: readonly T[]): readonly T[] => { const step = Math.ceil(all.length / SHOWN); return step <= 1 ? all : all.filter((_, i) => i % step === 0) }

/** Standing and moving: seconds that are left out after a change. */
const SETTLES = 0.4
/** A stretch is worth looking at from so many ticks on. */
const WORTH = 25

/** Stretches of ticks in which the robot stands, and has for a while; of a robot without wheels all is one. */
function standsIn(tape: Tape, facts: RobotFacts): readonly (readonly number[])[] {
  const wheels = facts.devices.find(d => d.kind === WHEELS)
  const settle = Math.ceil(SETTLES / facts.tick)
  if (wheels === undefined) return [Array.from({ length: tape.rows - tape.first }, (_, i) => tape.first + i)]
  const speed = tape.layout.readings + wheels.first + wheels.readings.findIndex(r => r.name === 'speed')
  const rate = tape.layout.readings + wheels.first + wheels.readings.findIndex(r => r.name === '_rate')
  const stretches: number[][] = []
  let since = tape.first
  for (let tick = tape.first; tick < tape.rows; tick++) {
    const row = tape.at(tick)
    if (Math.abs(row[speed]!) >= 1e-4 || Math.abs(row[rate]!) >= 1e-3) since = tick + 1
    else if (tick - since === settle) stretches.push([tick])
    else if (tick - since > settle) stretches.at(-1)!.push(tick)
  }
  return stretches
}

/** Which of its readings tells how a device errs. */
export function erringReading({ kind, readings }: DeviceFacts): number {
  const by = DEVICE_KINDS.find(k => k.kind === kind)?.errs?.by
  return by === undefined ? 0 : readings.findIndex(r => r.name === by)
}

/**
 * Columns of a tape: what tells how a device errs and, where a reading beside it says so, whether it saw anything. Of one that recognises several things, of those that it saw most in these ticks
 * that which went about most in the run: what never does is a part of the robot itself.
 */
function columnsOf(tape: Tape, device: DeviceFacts, ticks: readonly number[]): { readonly value: number, readonly sees: number | null } {
  const first = tape.layout.readings + device.first
  const { name } = device.readings[erringReading(device)]!
  const all = device.readings.flatMap((reading, i) => {
    const sees = device.readings.findIndex(r => r.name === 'sees' && r.of === reading.of)
    if (reading.name !== name || reading.of === null || sees === -1) return []
    let [least, most] = [Infinity, -Infinity]
    for (let tick = tape.first; tick < tape.rows; tick++) {
      const row = tape.at(tick)
      if (row[first + sees] === 1) [least, most] = [Math.min(least, row[first + i]!), Math.max(most, row[first + i]!)]
    }
    return [{ value: first + i, sees: first + sees, count: ticks.reduce((n, tick) => n + (tape.at(tick)[first + sees] === 1 ? 1 : 0), 0), about: most - least }]
  })
  const enough = Math.max(...all.map(t => t.count)) / 2
  return all.filter(t => t.count >= enough).reduce<(typeof all)[number] | null>((a, b) => a === null || b.about > a.about ? b : a, null) ?? { value: first + erringReading(device), sees: null }
}

/** What a tape says of a sensor. */
export function findSensor(tape: Tape, facts: RobotFacts, device: DeviceFacts): SensorFound {
  const stretches = standsIn(tape, facts)
  const standing = stretches.flat()
  const { value, sees } = columnsOf(tape, device, standing)
  const read = (tick: number): number => { const row = tape.at(tick); return sees !== null && row[sees] !== 1 ? Number.NaN : row[value]! }
  const meanOf = (all: readonly number[]): number => all.reduce((sum, x) => sum + x, 0) / all.length
  const seen = stretches.map(ticks => ticks.map(read).filter(Number.isFinite)).filter(all => all.length > 0)
  const count = seen.reduce((n, all) => n + all.length, 0)
  // Each stretch about its own mean: it may have stood in several places. What is true is said of where it stood longest.
  const off = seen.map((all) => { const mean = meanOf(all); return all.map(x => x - mean) })
  const deviation = Math.sqrt(off.flat().reduce((sum, x) => sum + square(x), 0) / Math.max(1, count - seen.length))
  const longest = seen.reduce((a, b) => b.length > a.length ? b : a, [])
  // A look stays on the tape until the next one: so many of them there were.
  const every = Math.max(1, device.round / facts.tick)
  const looks = count / every
  const enough = count >= WORTH && looks >= 8
  const lags = findLatency(tape, facts, device)
  const mayLose = device.readings[0]!.mayMiss || DEVICE_KINDS.find(k => k.kind === device.kind)?.errs?.loses === true
  return {
    device: device.name,
    noise: enough ? { value: deviation, error: deviation / Math.sqrt(2 * looks) } : null,
    mean: enough && longest.length >= WORTH ? { value: meanOf(longest), error: deviation / Math.sqrt(longest.length / every) } : null,
    dropout: standing.length >= WORTH && mayLose && count > standing.length / 2 ? 1 - count / standing.length : null,
    latency: lags?.found ?? null,
    off: enough ? thinned(off.flatMap(all => all.filter((_, i) => i % Math.round(every) === 0))) : null,
    lag: lags?.lag ?? null,
  }
}

/** So much is a heading off that was measured by hand, radians. */
const BY_HAND = Math.PI / 180
/** Less of a turn says nothing of a scale, radians. */
const TURNS = 2 * Math.PI

/**
 * How many times as far as it is turned a gyro says that it is: what its rate sums up to, without its drift (rad/s), beside how far ways were turned that say so; whole turns are counted by the
 * wheels. Least squares; null where nothing was turned far enough.
 */
export function findScale(ways: readonly { readonly tape: Tape, readonly heading: number }[], facts: RobotFacts, device: DeviceFacts, drift: number): Found | null {
  const at = device.readings.findIndex(r => r.name === 'rate')
  const drive = driveOf(facts)
  const points = ways.map(({ tape, heading }): readonly [number, number] => {
    let said = 0
    for (let tick = tape.first + 1; tick < tape.rows; tick++) said += (tape.at(tick)[tape.layout.readings + device.first + at]! - drift) * facts.tick
    const rolled = rolledIn(tape, facts)
    const about = drive === null || rolled === null ? said : rolled.left.reduce((sum, left, i) => sum + left - rolled.right[i]!, 0) / drive.track
    return [heading + 2 * Math.PI * Math.round((about - heading) / (2 * Math.PI)), said]
  })
  const [xx, xy] = [points.reduce((s, [x]) => s + square(x), 0), points.reduce((s, [x, y]) => s + x * y, 0)]
  if (points.reduce((s, [x]) => s + Math.abs(x), 0) < TURNS) return null
  const value = xy / xx
  const apart = points.length < 2 ? 0 : points.reduce((s, [x, y]) => s + square(y - value * x), 0) / (points.length - 1)
  return { value, error: Math.sqrt(Math.max(apart, square(BY_HAND)) / xx) }
}

/** Latencies that are tried, seconds, and in which steps (of a tick). */
const LONGEST = 0.6
const FINE = 0.1

/**
 * How long a sensor's readings lag behind what the wheels tell of in every tick: a distance ahead falls as the robot rolls forward, a gyro turns as the wheels turn, and what a camera sees goes the
 * other way. The lag is the one with which what one reads follows the other best (least squares, scale and zero free); it needs a robot that went to and fro, or turned both ways.
 */
function findLatency(tape: Tape, facts: RobotFacts, device: DeviceFacts): { readonly found: Found, readonly lag: LagData } | null {
  const wheels = facts.devices.find(d => d.kind === WHEELS)
  if (wheels === undefined) return null
  const [gyro, camera] = [device.kind === 'gyro', device.kind === 'camera']
  if (!gyro && !camera && !(device.readings[0]!.mayMiss && device.readings[0]!.type.type === 'quantity')) return null
  const of = (name: string): number => tape.layout.readings + wheels.first + wheels.readings.findIndex(r => r.name === name)
  const leads = gyro || camera ? of('_rate') : of('travel')
  const { value: follows, sees } = columnsOf(tape, device, Array.from({ length: tape.rows - tape.first }, (_, i) => tape.first + i))
  const lead: number[] = []
  const samples: { readonly tick: number, readonly value: number }[] = []
  let before = NaN
  for (let tick = tape.first; tick < tape.rows; tick++) {
    const row = tape.at(tick)
    // A bearing goes with how far the robot is turned.
    lead.push(camera ? (lead.at(-1) ?? 0) + row[leads]! * facts.tick : row[leads]!)
    const value = row[follows]!
    // A new reading is a new look; one that is not new is as old as it is.
    if (value !== before && Number.isFinite(value) && (sees === null || row[sees] === 1)) samples.push({ tick: tick - tape.first, value })
    before = value
  }
  if (!goesBothWays(tape, facts, leads, gyro || camera) || samples.length < 3 * WORTH) return null
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
  const beside = pairs(near, lead, lag)
  const fit = line(beside)
  const shown = thinned(near.map(({ tick, value }, i) => ({ at: tick * facts.tick, value, told: fit.zero + fit.slope * beside[i]![0] })))
  return {
    // A reading waits for the next tick: half of one in the mean.
    found: { value: Math.max(0, lag - 0.5) * facts.tick, error: valley.bend > 0 ? Math.sqrt(variance / valley.bend) * facts.tick : facts.tick },
    lag: { at: shown.map(x => x.at), read: shown.map(x => x.value), told: shown.map(x => x.told) },
  }
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
