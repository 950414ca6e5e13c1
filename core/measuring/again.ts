import type { Arena } from '../arena'
import { WHEELS, WHEEL_MODE } from '../devices'
import { driveOf, type Robot, type RobotFacts } from '../robot'
import { readAgain } from '../simulation'
import type { Tape } from '../tape'
import { square } from './solve'

/** Commands of a tape that come again to a simulated robot: what it is like shows in how it moves. */

/** Where a tape was made: what its commands come to again. */
export interface MadeAt { readonly arena: Arena, readonly seed: number }
export type TapeMade = MadeAt & { readonly tape: Tape }

/** How far apart two movements are: the sum of the squares of speeds, metres a second at the wheels, and how many of them. */
export interface Apart { readonly left: number, readonly count: number }

/** How far the commands of tapes move a robot otherwise than they moved the one of the tapes, by wheels and gyro: nothing where it has no wheels. */
export function movedApart(tapes: readonly TapeMade[], robot: Robot, facts: RobotFacts): Apart {
  const drive = driveOf(facts)
  const wheels = facts.devices.find(d => d.kind === WHEELS)
  if (drive === null || wheels === undefined) return { left: 0, count: 0 }
  const column = (name: string): number => wheels.first + wheels.readings.findIndex(r => r.name === name)
  // Speeds of what turns: those of the wheels as they are, a gyro's by what it turns from tick to tick.
  const speeds = [{ at: column('speed'), scale: 1 }, { at: column('_rate'), scale: drive.track / 2 }]
  const sums = facts.devices.filter(d => d.kind === 'gyro').map(d => ({ at: d.first + d.readings.findIndex(r => r.name === 'turned'), scale: drive.track / 2 / facts.tick }))
  let [left, count] = [0, 0]
  for (const { tape, arena, seed } of tapes) {
    const again = readAgain(tape, robot, arena, seed)
    for (let tick = 1; tick < tape.rows - tape.first; tick++) {
      const [row, before] = [tape.at(tape.first + tick), tape.at(tape.first + tick - 1)]
      const [here, last] = [tick * facts.readingCount, (tick - 1) * facts.readingCount]
      for (const { at, scale } of speeds) left += square((row[tape.layout.readings + at]! - again[here + at]!) * scale)
      for (const { at, scale } of sums) {
        const [turned, would] = [row[tape.layout.readings + at]! - before[tape.layout.readings + at]!, again[here + at]! - again[last + at]!]
        // Where the program set it to zero, that tick says nothing.
        if (Math.abs(turned * scale) < 4 * drive['top speed']) left += square((turned - would) * scale)
      }
      count += speeds.length + sums.length
    }
  }
  return { left, count }
}

/** The most power that a tape tells the wheels, as a share of all; 0 where it tells none. */
export function hardest(tape: Tape, facts: RobotFacts): number {
  const actuator = facts.actuators.find(a => a.name === WHEELS)
  if (actuator === undefined) return 0
  const told = tape.layout.commands + actuator.channel
  let most = 0
  for (let tick = tape.first; tick < tape.rows; tick++) {
    const row = tape.at(tick)
    if (row[told] === WHEEL_MODE.power) most = Math.max(most, Math.abs(row[told + 1]!), Math.abs(row[told + 2]!))
  }
  return most
}

const GOLDEN = (Math.sqrt(5) - 1) / 2

/** Where something is least between two places, by the golden section in so many steps. */
export function leastBetween(from: number, to: number, steps: number, of: (at: number) => number): number {
  let [low, high] = [from, to]
  let [a, b] = [high - GOLDEN * (high - low), low + GOLDEN * (high - low)]
  let [ofA, ofB] = [of(a), of(b)]
  for (let i = 0; i < steps; i++) {
    if (ofA < ofB) { high = b; b = a; ofB = ofA; a = high - GOLDEN * (high - low); ofA = of(a) } else { low = a; a = b; ofA = ofB; b = low + GOLDEN * (high - low); ofB = of(b) }
  }
  return (low + high) / 2
}

/** The standard error of what was found, by how what is left bends so far to either side of it; as far as that where it does not. */
export function errorAt(value: number, aside: number, apart: (at: number) => Apart): number {
  const { left, count } = apart(value)
  const bend = (apart(value - aside).left - 2 * left + apart(value + aside).left) / square(aside)
  return bend > 0 ? Math.sqrt(2 * left / count / bend) : aside
}
