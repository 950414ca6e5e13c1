import { WHEELS, WHEEL_CHANNELS, wheelReadings, type ReadingSpec, type StepRobot } from '../devices'
import type { WheelSettings } from '../devices/wheels'
import type { Robot } from './robot'

/** What a program can know of one device. */
export interface DeviceFacts {
  readonly name: string
  readonly kind: string
  readonly title: string
  readonly port: string
  /** Seconds between two looks when it looks alone. */
  readonly period: number
  readonly readings: readonly ReadingSpec[]
  /** Index of its first reading among all of the robot. */
  readonly first: number
}

/** What the language knows of a robot: plain data, the same on the page and in the simulation. */
export interface RobotFacts {
  readonly robot: string
  readonly devices: readonly DeviceFacts[]
  readonly readingCount: number
  /** Actuators that a lane moves, with their first command channel. */
  readonly actuators: readonly { readonly name: string, readonly channel: number, readonly channels: number }[]
  readonly tick: number
  readonly wheels: WheelSettings
}

/** The facts of a robot: its wheels first, then its devices as the document lists them. */
export function factsOf(robot: Robot): RobotFacts {
  const devices: DeviceFacts[] = []
  let first = 0
  const add = (facts: Omit<DeviceFacts, 'first'>): void => {
    devices.push({ ...facts, first })
    first += facts.readings.length
  }
  add({ name: WHEELS, kind: 'wheels', title: 'pair of wheels', port: robot.drivePorts.join(' '), period: robot.tick, readings: wheelReadings() })
  for (const d of robot.devices) {
    add({
      name: d.name, kind: d.kind.kind, title: d.kind.title, port: d.port,
      period: d.kind.timing(d.parameters, 'typical').period, readings: d.kind.readings(d.parameters),
    })
  }
  return {
    robot: robot.name, devices, readingCount: first, tick: robot.tick, wheels: robot.wheels,
    actuators: [{ name: WHEELS, channel: 0, channels: WHEEL_CHANNELS }],
  }
}

/** The robot as steps see it when they are planned. */
export function stepRobotOf(facts: RobotFacts): StepRobot {
  return {
    readingIndex(device, reading) {
      const d = facts.devices.find(x => x.name === device)
      const at = d?.readings.findIndex(r => r.name === reading) ?? -1
      if (d === undefined || at === -1) throw new Error(`no reading ${device}.${reading}`)
      return d.first + at
    },
    hasDevice: kind => facts.devices.find(d => d.kind === kind)?.name ?? null,
    channel(device) {
      const actuator = facts.actuators.find(a => a.name === device)
      if (actuator === undefined) throw new Error(`no actuator ${device}`)
      return actuator.channel
    },
    wheelSettings: () => facts.wheels,
  }
}
