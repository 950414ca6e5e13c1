import { COLORS } from '../colors'
import { WHEELS, WHEEL_CHANNELS, wheelReadings, type Gesture, type ReadingSpec, type StepRobot } from '../devices'
import type { WheelSettings } from '../devices/wheels'
import { lookBudget } from './budget'
import { floorViews, hiddenViews, type HiddenView } from './self-view'
import type { Robot } from './robot'

/** What a program can know of one device. */
export interface DeviceFacts {
  readonly name: string
  readonly kind: string
  readonly title: string
  readonly port: string
  /** Seconds between two looks when it looks alone. */
  readonly period: number
  /** Seconds between two of its looks as this robot's controller takes them: alone, sharing the air, or in turn with all. */
  readonly round: number
  readonly latency: number
  /** From how far on it sees the level floor instead of things, metres; null where it does not. */
  readonly floorFrom: number | null
  /** The joint whose link carries it; null for the chassis. */
  readonly on: string | null
  /** Places of joints, in SI, from and to which a part of the robot stands before it. */
  readonly hidden: readonly HiddenView[]
  readonly readings: readonly ReadingSpec[]
  /** Index of its first reading among all of the robot. */
  readonly first: number
  /** Its settings in SI units. */
  readonly parameters: object
}

/** Something that programs command. */
export interface ActuatorFacts {
  readonly name: string
  readonly channel: number
  readonly channels: number
  /** Any lane may set it. */
  readonly shared: boolean
  /** Per channel, whether what it was told outlives its rule. */
  readonly stays: readonly boolean[]
  /** What it is told before anybody does. */
  readonly initial: readonly number[]
}

/** What the language knows of a robot: plain data, the same on the page and in the simulation. */
export interface RobotFacts {
  readonly robot: string
  readonly devices: readonly DeviceFacts[]
  readonly readingCount: number
  readonly actuators: readonly ActuatorFacts[]
  readonly tick: number
  /** null for a robot without a drive. */
  readonly wheels: WheelSettings | null
  /** Names of colours by their number: the common ones, then those that the robot was taught. */
  readonly colors: readonly string[]
  readonly gestures: Readonly<Record<string, Gesture>>
  readonly clips: readonly { readonly name: string, readonly length: number }[]
}

/** The facts of a robot: its wheels first, then its devices as the document lists them. */
export function factsOf(robot: Robot): RobotFacts {
  const devices: DeviceFacts[] = []
  const actuators: ActuatorFacts[] = []
  let first = 0
  let channel = 0
  const add = (facts: Omit<DeviceFacts, 'first'>): void => {
    devices.push({ ...facts, first })
    first += facts.readings.length
  }
  const act = (name: string, channels: number, shared: boolean, stays: readonly boolean[], initial: readonly number[]): void => {
    actuators.push({ name, channel, channels, shared, stays, initial })
    channel += channels
  }
  if (robot.drive !== null) {
    add({ name: WHEELS, kind: 'wheels', title: 'pair of wheels', port: robot.drivePorts.join(' '), period: robot.tick, round: robot.tick, latency: 0, floorFrom: null, on: null, hidden: [], readings: wheelReadings(), parameters: {} })
    act(WHEELS, WHEEL_CHANNELS, false, [false, false, false], [0, 0, 0])
  }
  const hidden = hiddenViews(robot)
  const floors = new Map(floorViews(robot).map(f => [f.device, f.distance]))
  const rounds = new Map(lookBudget(robot).map(l => [l.device, l.round]))
  for (const d of robot.devices) {
    const { period, latency } = d.kind.timing(d.parameters, 'typical')
    add({ name: d.name, kind: d.kind.kind, title: d.kind.title, port: d.port, period: Math.max(period, 0) || robot.tick, round: rounds.get(d.name) ?? robot.tick, latency, floorFrom: floors.get(d.name) ?? null, on: d.on, hidden: hidden.filter(h => h.device === d.name), readings: d.kind.readings(d.parameters), parameters: d.parameters })
    const spec = d.kind.actuator?.(d.parameters)
    if (spec === undefined) continue
    const { stays } = spec
    act(d.name, spec.channels, spec.shared, typeof stays === 'boolean' ? spec.initial.map(() => stays) : stays, spec.initial)
  }
  return {
    robot: robot.name, devices, readingCount: first, tick: robot.tick, wheels: robot.wheels, actuators,
    colors: [...COLORS, ...robot.taught.map(t => t.name)], gestures: Object.fromEntries(robot.gestures), clips: robot.clips.map(c => ({ name: c.name, length: c.length })),
  }
}

/** How many numbers all actuators are told. */
export function channelCount(facts: RobotFacts): number {
  return facts.actuators.reduce((n, a) => n + a.channels, 0)
}

/** The robot as steps see it when they are planned. */
export function stepRobotOf(facts: RobotFacts): StepRobot {
  const find = (device: string): DeviceFacts => {
    const d = facts.devices.find(x => x.name === device)
    if (d === undefined) throw new Error(`no device ${device}`)
    return d
  }
  return {
    readingIndex(device, reading) {
      const d = find(device)
      const at = d.readings.findIndex(r => r.name === reading)
      if (at === -1) throw new Error(`no reading ${device}.${reading}`)
      return d.first + at
    },
    firstReading: device => find(device).first,
    hasDevice: kind => facts.devices.find(d => d.kind === kind)?.name ?? null,
    kindOf: device => facts.devices.find(d => d.name === device)?.kind ?? null,
    channel(device) {
      const actuator = facts.actuators.find(a => a.name === device)
      if (actuator === undefined) throw new Error(`no actuator ${device}`)
      return actuator.channel
    },
    parametersOf: device => find(device).parameters,
    wheelSettings() {
      if (facts.wheels === null) throw new Error('no drive')
      return facts.wheels
    },
    gesture: name => Object.hasOwn(facts.gestures, name) ? facts.gestures[name]! : null,
    clip(name) {
      const index = facts.clips.findIndex(c => c.name === name)
      return index === -1 ? null : { index, length: facts.clips[index]!.length }
    },
    textIndex: device => facts.devices.filter(d => d.kind === 'display').findIndex(d => d.name === device),
  }
}
