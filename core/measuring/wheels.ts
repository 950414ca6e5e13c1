import { yawOf } from '../geometry'
import { cos, sin, wrapAngle } from '../maths'
import { driveOf, type RobotFacts } from '../robot'
import { WHEELS, WHEEL_MODE } from '../devices'
import type { Tape } from '../tape'
import { leastSquares, square } from './solve'

/** Where a robot stands, seen from where it began: metres forward and to its right, and radians to the right; null where that was not measured. */
export interface EndPose { readonly forward: number, readonly right: number, readonly heading: number | null }

/** A way that was driven: how far each wheel rolled from tick to tick, as the program believes (metres), and where it led. */
export interface Course { readonly left: Float64Array, readonly right: Float64Array, readonly end: EndPose }

/** What was found of a pair of wheels, by shares of what the robot's document says, each with its standard error. */
export interface WheelsFound {
  /** By what share both are larger, stand farther apart, and the left one is larger than the right one. */
  readonly radius: Found
  readonly track: Found
  readonly difference: Found
  /** How far the ways end from where they should: before and after, metres. */
  readonly before: number
  readonly after: number
  /** Of each way where it ended, where the document leads it, and where what was found does. */
  readonly ends: readonly { readonly end: EndPose, readonly believed: Place, readonly found: Place }[]
}
/** Metres forward and to the right of where a way began. */
export interface Place { readonly forward: number, readonly right: number }
export interface Found { readonly value: number, readonly error: number }

/** How far wheels rolled in each tick of a tape, by the program's belief. null where nothing rolls. */
export function rolledIn(tape: Tape, facts: RobotFacts): Pick<Course, 'left' | 'right'> | null {
  const drive = driveOf(facts)
  const wheels = facts.devices.find(d => d.kind === WHEELS)
  if (drive === null || wheels === undefined) return null
  const travel = tape.layout.readings + wheels.first + wheels.readings.findIndex(r => r.name === 'travel')
  const turned = tape.layout.readings + wheels.first + wheels.readings.findIndex(r => r.name === '_turned')
  const left = new Float64Array(Math.max(0, tape.rows - tape.first - 1))
  const right = new Float64Array(left.length)
  let before = tape.at(tape.first)
  for (let i = 0; i < left.length; i++) {
    const row = tape.at(tape.first + i + 1)
    const way = row[travel]! - before[travel]!
    const turn = row[turned]! - before[turned]!
    // Where the program reset one of them, that tick says nothing.
    const reset = Math.abs(way) > 2 * drive['top speed'] * facts.tick || Math.abs(turn) > 4 * drive['top speed'] * facts.tick / drive.track
    left[i] = reset ? 0 : way + turn * drive.track / 2
    right[i] = reset ? 0 : way - turn * drive.track / 2
    before = row
  }
  return { left, right }
}

/** Where the robot of a tape ended, as the tape has it: true of a simulated robot alone. */
export function endIn(tape: Tape): EndPose {
  const { body } = tape.layout
  const pose = (tick: number) => { const row = tape.at(tick); return { x: row[body]!, y: row[body + 1]!, yaw: yawOf({ x: row[body + 3]!, y: row[body + 4]!, z: row[body + 5]!, w: row[body + 6]! }) } }
  const [a, b] = [pose(tape.first), pose(tape.rows - 1)]
  const [dx, dy] = [b.x - a.x, b.y - a.y]
  return { forward: dx * cos(a.yaw) + dy * sin(a.yaw), right: dx * sin(a.yaw) - dy * cos(a.yaw), heading: wrapAngle(a.yaw - b.yaw) }
}

/** Where a way leads with wheels that are so much larger (shares, left and right) and so far apart (metres). */
function ledTo({ left, right }: Course, largerLeft: number, largerRight: number, track: number): { readonly forward: number, readonly right: number, readonly heading: number } {
  let [x, y, heading] = [0, 0, 0]
  for (let i = 0; i < left.length; i++) {
    const [l, r] = [left[i]! * largerLeft, right[i]! * largerRight]
    if (l === 0 && r === 0) continue
    const turn = (l - r) / track
    const way = (l + r) / 2
    // Along the chord: to the second order of the turn of a tick.
    x += way * cos(heading + turn / 2)
    y += way * sin(heading + turn / 2)
    heading += turn
  }
  return { forward: x, right: y, heading }
}

/**
 * Sizes and distance of the wheels by ways that were driven and where they led: a square to the left and one to the right, as published for it (J. Borenstein and L. Feng,
 * "Measurement and correction of systematic odometry errors in mobile robots", IEEE Transactions on Robotics and Automation 12(6), 1996). There
 * formulas of the first order tell the errors of track and diameters by the middle of the ends of several squares of each kind; here all that is on the tapes is fitted at once by least
 * squares, so that the size of both wheels is found as well, and any ways do that turn both ways. null where the ways do not tell them apart.
 */
export function findWheels(courses: readonly Course[], track: number): WheelsFound | null {
  const residuals = ([radius, apart, difference]: readonly number[]): readonly number[] => courses.flatMap((course) => {
    const { end } = course
    const led = ledTo(course, (1 + radius!) * (1 + difference! / 2), (1 + radius!) * (1 - difference! / 2), track * (1 + apart!))
    return [led.forward - end.forward, led.right - end.right, ...end.heading === null ? [] : [wrapAngle(led.heading - end.heading) * track]]
  })
  const ledBy = (course: Course, [radius, apart, difference]: readonly number[]): Place => { const { forward, right } = ledTo(course, (1 + radius!) * (1 + difference! / 2), (1 + radius!) * (1 - difference! / 2), track * (1 + apart!)); return { forward, right } }
  const found = courses.length === 0 ? null : leastSquares([0, 0, 0], residuals)
  if (found === null) return null
  const [radius, apart, difference] = found.values.map((value, k): Found => ({ value, error: found.errors[k]! }))
  const ends = courses.map(course => ({ end: course.end, believed: ledBy(course, [0, 0, 0]), found: ledBy(course, found.values) }))
  const off = (which: 'believed' | 'found'): number => ends.reduce((sum, { end, ...led }) => sum + Math.sqrt(square(led[which].forward - end.forward) + square(led[which].right - end.right)), 0) / ends.length
  return { radius: radius!, track: apart!, difference: difference!, before: off('believed'), after: off('found'), ends }
}

/** A power is looked at that stayed the same for so long, seconds; slower than this share of the top speed a wheel stands. */
const STEADY = 0.3
const STANDS = 0.01

/** The share of power below which the wheels do not turn, between the most that did not move them and the least that did; null where no power was tried on both sides of it. */
export function findDeadZone(tape: Tape, facts: RobotFacts): Found | null {
  const drive = driveOf(facts)
  const wheels = facts.devices.find(d => d.kind === WHEELS)
  const actuator = facts.actuators.find(a => a.name === WHEELS)
  if (drive === null || wheels === undefined || actuator === undefined) return null
  const { layout } = tape
  const speed = layout.readings + wheels.first + wheels.readings.findIndex(r => r.name === 'speed')
  const told = layout.commands + actuator.channel
  const long = Math.ceil(STEADY / facts.tick)
  let [still, moves, since, power] = [0, Infinity, 0, NaN]
  for (let tick = tape.first; tick < tape.rows; tick++) {
    const row = tape.at(tick)
    const now = row[told] === WHEEL_MODE.power && row[told + 1] === row[told + 2] ? Math.abs(row[told + 1]!) : NaN
    if (now !== power) { power = now; since = tick }
    if (Number.isNaN(power) || power === 0 || tick - since < long) continue
    if (Math.abs(row[speed]!) > STANDS * drive['top speed'] * power) moves = Math.min(moves, power)
    else still = Math.max(still, power)
  }
  return still > 0 && moves < Infinity && still < moves ? { value: (still + moves) / 2, error: (moves - still) / 2 } : null
}
