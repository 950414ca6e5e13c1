import { COLORS } from '../colors'
import { WHEELS, type DriveSettings, type Gesture, type KeptKind, type ReadingSpec, type StepRobot } from '../devices'
import { lookRound } from './budget'
import { floorViews, hiddenViews, type HiddenView } from './self-view'
import type { RobotPicture } from './pictures'
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
  /** Names of colours by their number: the common ones, then those that the robot was taught. */
  readonly colors: readonly string[]
  readonly gestures: Readonly<Record<string, Gesture>>
  readonly clips: readonly { readonly name: string, readonly length: number }[]
  readonly pictures: readonly RobotPicture[]
}

/** The facts of a robot: its wheels first, then its devices as the document lists them. */
export function factsOf(robot: Robot): RobotFacts {
  const devices: DeviceFacts[] = []
  const actuators: ActuatorFacts[] = []
  const hidden = hiddenViews(robot)
  const floors = new Map(floorViews(robot).map(f => [f.device, f.distance]))
  let first = 0
  let channel = 0
  for (const { device: d, period, round, latency } of lookRound(robot, 'typical')) {
    const { name, kind, port, on, parameters } = d
    const readings = kind.readings(parameters)
    devices.push({
      name, kind: kind.kind, title: kind.title, port, period: period === 0 ? robot.tick : period, round, latency, floorFrom: floors.get(name) ?? null, on,
      hidden: hidden.filter(h => h.device === name), readings, first, parameters,
    })
    first += readings.length
    const acts = kind.actuator?.(parameters)
    if (acts === undefined) continue
    const { channels, shared, stays, initial } = acts
    actuators.push({ name, channel, channels, shared, stays: typeof stays === 'boolean' ? initial.map(() => stays) : stays, initial })
    channel += channels
  }
  return {
    robot: robot.name, devices, readingCount: first, tick: robot.tick, actuators,
    colors: [...COLORS, ...robot.taught.map(t => t.name)], gestures: Object.fromEntries(robot.gestures), clips: robot.clips.map(c => ({ name: c.name, length: c.length })),
    pictures: robot.pictures,
  }
}

/** The settings of the robot's wheels; null for one without. */
export function driveOf(facts: RobotFacts): DriveSettings | null {
  return (facts.devices.find(d => d.kind === WHEELS)?.parameters ?? null) as DriveSettings | null
}

/** How many numbers all actuators are told. */
export function channelCount(facts: RobotFacts): number {
  return facts.actuators.reduce((n, a) => n + a.channels, 0)
}

/** Names of what a robot keeps for programs. */
export function namesKept(facts: RobotFacts, what: KeptKind): readonly string[] {
  switch (what) {
    case 'gesture': return Object.keys(facts.gestures)
    case 'clip': return facts.clips.map(c => c.name)
    case 'picture': return facts.pictures.map(p => p.name)
  }
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
    kept: what => namesKept(facts, what),
    gesture: name => Object.hasOwn(facts.gestures, name) ? facts.gestures[name]! : null,
    clip(name) {
      const index = facts.clips.findIndex(c => c.name === name)
      return index === -1 ? null : { index, length: facts.clips[index]!.length }
    },
    textIndex: device => facts.devices.filter(d => d.kind === 'display').findIndex(d => d.name === device),
  }
}

/** A reading without its device, as programs write it: `sees(orange)`. */
export const readingLabel = (spec: ReadingSpec): string => spec.of === null ? spec.name : `${spec.name}(${spec.of.replace(/^tag (.*)$/, 'tag($1)')})`

/** The same with it: `cam.sees(orange)`. */
export const readingName = (device: Pick<DeviceFacts, 'name'>, spec: ReadingSpec): string => `${device.name}.${readingLabel(spec)}`
