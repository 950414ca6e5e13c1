import { clamp, wrapAngle } from '../maths'
import type { DeviceStep, NumberOf, PlannedSlot, ReadingSpec, StepMachine, StepPlan, StepRobot } from './device'
import { quantityReading, truthReading } from './reading'
import type { DriveSettings } from './drive'
import { choice, clause, flag, optionalValue, value, word } from './form'

/** The name under which programs know a robot's own two wheels. */
export const WHEELS = 'wheels'

/** What the wheels are told, in the first of their three channels; the others hold left and right. */
export const WHEEL_MODE = { brake: 0, coast: 1, speed: 2, power: 3 } as const
export const WHEEL_CHANNELS = 3

/** What the wheels' steps must know of the drive: metres, metres a second, radians a second. */
export interface WheelSettings {
  readonly track: number
  readonly cruise: number
  readonly turning: number
  readonly acceleration: number
  readonly topSpeed: number
}

/** A measure counts as reached within this much: about one encoder tick. */
export const NEAR = 0.0015
export const NEAR_ANGLE = 0.6 * Math.PI / 180
/** Standing, as far as the encoders can tell. */
const STANDING = 0.01
/** How hard the last stretch is closed, per second: as fast as the motors settle. */
const CLOSING = 7
/** The slowest approach, metres a second at the wheel: motors stick below. */
const CREEP = 0.02
/** Turning back towards a held heading, per second. */
const HEADING_GAIN = 4

export function wheelReadings(): readonly ReadingSpec[] {
  return [
    quantityReading('speed', 'speed', 'how fast the wheels roll, forward positive'),
    quantityReading('travel', 'length', 'how far the wheels have rolled since the last reset', { resettable: true }),
    truthReading('stalled', 'whether a driven wheel stands'),
    quantityReading('_turned', 'angle', '', { hidden: true }),
    quantityReading('_rate', 'turning speed', '', { hidden: true }),
  ]
}

/** Where the steps find what they measure by. */
interface Senses {
  readonly travel: number
  readonly speed: number
  /** Turned so far: by the gyro if there is one, else by the wheels. */
  readonly turned: number
  readonly rate: number
  readonly channel: number
  readonly settings: WheelSettings
}

const known = new WeakMap<StepRobot, Senses>()

function sensesOf(robot: StepRobot): Senses {
  let senses = known.get(robot)
  if (senses === undefined) {
    senses = findSenses(robot)
    known.set(robot, senses)
  }
  return senses
}

function findSenses(robot: StepRobot): Senses {
  const gyro = robot.hasDevice('gyro')
  return {
    travel: robot.readingIndex(WHEELS, 'travel'),
    speed: robot.readingIndex(WHEELS, 'speed'),
    turned: gyro === null ? robot.readingIndex(WHEELS, '_turned') : robot.readingIndex(gyro, 'turned'),
    rate: robot.readingIndex(WHEELS, '_rate'),
    channel: robot.channel(WHEELS),
    settings: wheelSettingsOf(robot),
  }
}

/** What the wheels' steps must know of the drive. Throws where the robot has none. */
export function wheelSettingsOf(robot: StepRobot): WheelSettings {
  const drive = robot.parametersOf(WHEELS) as DriveSettings
  return { track: drive.track, cruise: drive['cruise speed'], turning: drive['turning speed'], acceleration: drive.acceleration, topSpeed: drive['top speed'] }
}

/** Commands a forward speed (m/s) with a turn to the right (rad/s). */
function steer(m: StepMachine, s: Senses, speed: number, right: number): void {
  const bend = right * s.settings.track / 2
  m.commands[s.channel] = WHEEL_MODE.speed
  m.commands[s.channel + 1] = speed + bend
  m.commands[s.channel + 2] = speed - bend
}

const constant = (x: number): NumberOf => () => x

function numberIn(slots: ReadonlyMap<string, PlannedSlot>, name: string, otherwise: number): NumberOf {
  return slots.get(name)?.value ?? constant(otherwise)
}

/** The turn, right positive, that the clauses of `drive` ask for beside its speed. */
function bendOf(slots: ReadonlyMap<string, PlannedSlot>, s: Senses): { begin?: StepPlan['begin'], rate(m: StepMachine, at: number): number } {
  const turning = slots.get('bend')?.value
  const side = slots.get('side')?.word === 'left' ? -1 : 1
  const held = slots.has('held')
  const target = slots.get('heading')?.value
  return {
    begin: !held
      ? undefined
      : (m, at) => {
          const now = m.raw[s.turned]!
          m.cells[at] = target == null ? now : now + wrapAngle(target(m) - wrapAngle(now))
          return true
        },
    rate(m, at) {
      let rate = turning == null ? 0 : side * turning(m)
      if (held) rate += clamp((m.cells[at]! - m.raw[s.turned]!) * HEADING_GAIN, -2, 2)
      return rate
    },
  }
}

/**
 * The speed at which what remains is closed: fast, then braking at the drive's own rate, then
 * gently, but never so slowly that the motors stick.
 */
function closingSpeed(remaining: number, fastest: number, braking: number, slowest: number): number {
  const size = Math.abs(remaining)
  const speed = Math.min(Math.abs(fastest), Math.max(slowest, Math.min(Math.sqrt(2 * braking * size), size * CLOSING)))
  return remaining < 0 ? -speed : speed
}

const drive: DeviceStep = {
  form: {
    id: 'drive',
    parts: [
      word('drive'), flag('back'), value('amount', 'length', 'speed'),
      clause(word('at'), value('speed', 'speed')),
      clause(word('turning'), choice('side', 'left', 'right'), value('bend', 'turning speed')),
      clause(word('holding'), choice('held', 'heading'), optionalValue('heading', 'angle')),
    ],
    mayLast: true,
    summary: 'roll a distance, or at a speed',
    example: 'drive 20 cm at 15 cm/s',
  },
  needs: [WHEELS],
  moves: () => [WHEELS],
  plan(slots, robot) {
    const s = sensesOf(robot)
    const amount = slots.get('amount')!
    const sign = slots.has('back') ? -1 : 1
    const bend = bendOf(slots, s)
    if (amount.kind!.time !== 0) {
      return {
        timing: 'held', cells: 1, begin: bend.begin,
        apply(m, at) { steer(m, s, sign * amount.value!(m), bend.rate(m, at)) },
        done: () => false,
      }
    }
    const fastest = numberIn(slots, 'speed', s.settings.cruise)
    // Cells: held heading, where it ends (as travel), 1 once it was reached.
    return {
      timing: 'timed', cells: 3,
      begin(m, at) {
        const distance = sign * amount.value!(m)
        bend.begin?.(m, at)
        m.cells[at + 1] = m.raw[s.travel]! + distance
        m.cells[at + 2] = 0
        return Math.abs(distance) > 0
      },
      apply(m, at) {
        const remaining = m.cells[at + 1]! - m.raw[s.travel]!
        const speed = fastest(m)
        if (Math.abs(remaining) <= NEAR) m.cells[at + 2] = 1
        if (m.cells[at + 2] === 1) steer(m, s, 0, 0)
        else steer(m, s, closingSpeed(remaining, speed, s.settings.acceleration, CREEP), bend.rate(m, at))
      },
      done: (m, at) => m.cells[at + 2] === 1 && Math.abs(m.raw[s.speed]!) < STANDING,
    }
  },
}

/** A turn by an angle that `angleOf` takes when it begins. */
function boundedTurn(s: Senses, angleOf: NumberOf, fastest: NumberOf): StepPlan {
  // Cells: where it ends (as turned), 1 once it was reached.
  return {
    timing: 'timed', cells: 2,
    begin(m, at) {
      const angle = angleOf(m)
      m.cells[at] = m.raw[s.turned]! + angle
      m.cells[at + 1] = 0
      return Math.abs(angle) > 0
    },
    apply(m, at) {
      const remaining = m.cells[at]! - m.raw[s.turned]!
      if (Math.abs(remaining) <= NEAR_ANGLE) m.cells[at + 1] = 1
      if (m.cells[at + 1] === 1) steer(m, s, 0, 0)
      else steer(m, s, 0, closingSpeed(remaining, fastest(m), 2 * s.settings.acceleration / s.settings.track, 2 * CREEP / s.settings.track))
    },
    done: (m, at) => m.cells[at + 1] === 1 && Math.abs(m.raw[s.rate]!) * s.settings.track < 2 * STANDING,
  }
}

const turn: DeviceStep = {
  form: {
    id: 'turn',
    parts: [word('turn'), choice('side', 'left', 'right'), value('amount', 'angle', 'turning speed'), clause(word('at'), value('speed', 'turning speed'))],
    mayLast: true,
    summary: 'turn on the spot by an angle, or at a turning speed',
    example: 'turn left 90 deg',
  },
  needs: [WHEELS],
  moves: () => [WHEELS],
  plan(slots, robot) {
    const s = sensesOf(robot)
    const sign = slots.get('side')!.word === 'left' ? -1 : 1
    const amount = slots.get('amount')!
    const given = amount.value!
    if (amount.kind!.time !== 0) {
      return {
        timing: 'held', cells: 0,
        apply(m) { steer(m, s, 0, sign * given(m)) },
        done: () => false,
      }
    }
    return boundedTurn(s, m => sign * given(m), numberIn(slots, 'speed', s.settings.turning))
  },
}

const turnTo: DeviceStep = {
  form: {
    id: 'turnTo',
    parts: [word('turn'), word('to'), value('heading', 'angle'), clause(word('at'), value('speed', 'turning speed'))],
    mayLast: false,
    summary: 'turn the shorter way to a heading',
    example: 'turn to 0 deg',
  },
  needs: [WHEELS],
  moves: () => [WHEELS],
  plan(slots, robot) {
    const s = sensesOf(robot)
    const heading = slots.get('heading')!.value!
    return boundedTurn(s, m => wrapAngle(heading(m) - wrapAngle(m.raw[s.turned]!)), numberIn(slots, 'speed', s.settings.turning))
  },
}

const wheelsStep: DeviceStep = {
  form: {
    id: 'wheels',
    parts: [word('wheels'), word('left'), value('left', 'share', 'speed'), word('right'), value('right', 'share', 'speed')],
    mayLast: true,
    summary: 'each wheel by itself, as power or speed',
    example: 'wheels left 40 % right 10 %',
  },
  needs: [WHEELS],
  moves: () => [WHEELS],
  problem(slots) {
    const speed = (side: string): boolean => slots.get(side)?.kind?.time !== 0
    if (speed('left') === speed('right')) return null
    return `The left wheel is told ${speed('left') ? 'a speed' : 'a share of power'} and the right one ${speed('right') ? 'a speed' : 'a share of power'}. Give both in %, or both as speeds`
  },
  plan(slots, robot) {
    const { channel } = sensesOf(robot)
    const left = slots.get('left')!
    const right = slots.get('right')!
    const mode = left.kind!.time !== 0 ? WHEEL_MODE.speed : WHEEL_MODE.power
    return {
      timing: 'held', cells: 0,
      apply(m) {
        m.commands[channel] = mode
        m.commands[channel + 1] = left.value!(m)
        m.commands[channel + 2] = right.value!(m)
      },
      done: () => false,
    }
  },
}

function resting(id: 'halt' | 'coast', mode: number, summary: string): DeviceStep {
  return {
    form: { id, parts: [word(id)], mayLast: false, summary, example: id },
    needs: [WHEELS],
  moves: () => [WHEELS],
    plan(_slots, robot) {
      const channel = robot.channel(WHEELS)
      return {
        timing: 'instant', cells: 0,
        apply(m) { m.commands[channel] = mode; m.commands[channel + 1] = 0; m.commands[channel + 2] = 0 },
        done: () => true,
      }
    },
  }
}

export const wheelSteps: readonly DeviceStep[] = [
  drive, turn, turnTo, wheelsStep,
  resting('halt', WHEEL_MODE.brake, 'brake and stand'),
  resting('coast', WHEEL_MODE.coast, 'let the wheels roll freely'),
]
