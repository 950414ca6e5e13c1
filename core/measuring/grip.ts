import type { Arena } from '../arena'
import { WHEELS, WHEEL_MODE } from '../devices'
import { driveOf, withDrive, type Robot, type RobotFacts } from '../robot'
import { readAgain } from '../simulation'
import type { Tape } from '../tape'
import { square } from './solve'
import type { Found } from './wheels'

/** Where a tape was made: what its commands come to again. */
export interface MadeAt { readonly arena: Arena, readonly seed: number }

/** Wheels may slip at this share of full power and more. */
const HARD = 0.5
/** So many grips are tried first, from the least on, each so many times the one before: to 1.65; then nearer, in so many steps of the golden section. */
const [LEAST, FACTOR, TRIED, NEARER] = [0.1, 1.29, 12, 12]
const GOLDEN = (Math.sqrt(5) - 1) / 2
/** A tape of which a simulated robot with the best grip leaves more than this share of what one leaves that never slips, does not tell it. */
const TELLS = 0.8
/** For the curve at the best grip, this share to either side. */
const ASIDE = 0.05

/**
 * How well the wheels grip the floor, as so many times what they carry: the commands of each tape come again to a simulated robot, with other and other grips, and that is taken
 * with which wheels and gyro turn in it as they do on the tape (least squares of their speeds). `robot` is as it was measured otherwise. Only tapes with hard power
 * are looked at, as when a robot spins on the spot at full power, to and fro; null where none is, or where the wheels never slip.
 */
export function findGrip(tapes: readonly (MadeAt & { readonly tape: Tape })[], robot: Robot, facts: RobotFacts): Found | null {
  const drive = driveOf(facts)
  const wheels = facts.devices.find(d => d.kind === WHEELS)
  if (drive === null || wheels === undefined) return null
  const hard = tapes.filter(({ tape }) => isHard(tape, facts))
  if (hard.length === 0) return null
  const column = (name: string): number => wheels.first + wheels.readings.findIndex(r => r.name === name)
  // Speeds of what turns: those of the wheels as they are, a gyro's by what it turns from tick to tick, all in metres a second at the wheels.
  const speeds = [{ at: column('speed'), scale: 1 }, { at: column('_rate'), scale: drive.track / 2 }]
  const sums = facts.devices.filter(d => d.kind === 'gyro').map(d => ({ at: d.first + d.readings.findIndex(r => r.name === 'turned'), scale: drive.track / 2 / facts.tick }))
  let count = 0
  const left = (grip: number): number => {
    const gripping = withDrive(robot, { grip })
    let sum = 0
    count = 0
    for (const { tape, arena, seed } of hard) {
      const again = readAgain(tape, gripping, arena, seed)
      for (let tick = 1; tick < tape.rows - tape.first; tick++) {
        const [row, before] = [tape.at(tape.first + tick), tape.at(tape.first + tick - 1)]
        const [here, last] = [tick * facts.readingCount, (tick - 1) * facts.readingCount]
        for (const { at, scale } of speeds) sum += square((row[tape.layout.readings + at]! - again[here + at]!) * scale)
        for (const { at, scale } of sums) {
          const [turned, would] = [row[tape.layout.readings + at]! - before[tape.layout.readings + at]!, again[here + at]! - again[last + at]!]
          // Where the program set it to zero, that tick says nothing.
          if (Math.abs(turned * scale) < 4 * drive['top speed']) sum += square((turned - would) * scale)
        }
        count += speeds.length + sums.length
      }
    }
    return sum
  }
  const tried: { readonly grip: number, readonly left: number }[] = []
  for (let grip = LEAST; tried.length < TRIED; grip *= FACTOR) tried.push({ grip, left: left(grip) })
  const best = tried.reduce((a, b) => b.left < a.left ? b : a)
  if (best.left > TELLS * tried[TRIED - 1]!.left || best === tried[0]) return null
  let [low, high] = [best.grip / FACTOR, best.grip * FACTOR]
  let [a, b] = [high - GOLDEN * (high - low), low + GOLDEN * (high - low)]
  let [leftA, leftB] = [left(a), left(b)]
  for (let i = 0; i < NEARER; i++) {
    if (leftA < leftB) { high = b; b = a; leftB = leftA; a = high - GOLDEN * (high - low); leftA = left(a) } else { low = a; a = b; leftA = leftB; b = low + GOLDEN * (high - low); leftB = left(b) }
  }
  const value = (low + high) / 2
  const here = left(value)
  const bend = (left(value * (1 - ASIDE)) - 2 * here + left(value * (1 + ASIDE))) / square(value * ASIDE)
  return { value, error: bend > 0 ? Math.sqrt(2 * here / count / bend) : value * ASIDE }
}

/** Whether a tape commands the wheels hard, by power: then they may slip. */
export function isHard(tape: Tape, facts: RobotFacts): boolean {
  const actuator = facts.actuators.find(a => a.name === WHEELS)
  if (actuator === undefined) return false
  const told = tape.layout.commands + actuator.channel
  for (let tick = tape.first; tick < tape.rows; tick++) {
    const row = tape.at(tick)
    if (row[told] === WHEEL_MODE.power && Math.max(Math.abs(row[told + 1]!), Math.abs(row[told + 2]!)) >= HARD) return true
  }
  return false
}
