import type { RealismName } from '../devices'
import type { Robot, RobotDevice } from './robot'

/** When one device looks: seconds. */
export interface LookTime {
  readonly device: RobotDevice
  /** Between two looks of it alone; 0 for what is read in every tick. */
  readonly period: number
  /** Between two looks as this robot's controller takes them: alone, sharing the air, or in turn with all. */
  readonly round: number
  readonly latency: number
  /** Its first look. */
  readonly due: number
}

/** The look round of a robot: all that is fitted to it, in order. */
export function lookRound(robot: Robot, realism: RealismName): readonly LookTime[] {
  const looking = robot.fitted.map(device => ({ device, ...device.kind.timing(device.parameters, realism) }))
  // A controller that asks its devices in turn takes the sum of what each takes.
  const sum = looking.reduce((all, l) => all + l.period, 0)
  let place = 0
  return looking.map(({ device, period, latency: usual }, i) => {
    const latency = usual + (robot.make.errs[device.name]?.latency ?? 0)
    const alike = looking.filter(l => device.kind.takesTurns && l.device.kind === device.kind)
    const before = looking.slice(0, i).filter(l => alike.includes(l)).length
    const due = period === 0 ? 0 : robot.looksInTurn ? place : before * period
    place += period
    const round = period === 0 ? robot.tick : robot.looksInTurn ? sum : period * Math.max(1, alike.length)
    return { device, period, round, latency, due }
  })
}

/** A line of the look budget. */
export interface LookLine {
  readonly device: string
  readonly title: string
  readonly period: number
  readonly round: number
  readonly latency: number
  /** From something happening to the program knowing, at worst: a round, the latency and the tick. */
  readonly worst: number
}

/** How long the robot's looks take, device by device, of those that have a period of their own. */
export function lookBudget(robot: Robot): readonly LookLine[] {
  return lookRound(robot, 'typical').filter(l => l.period > 0).map(({ device, period, round, latency }) => ({
    device: device.name, title: device.kind.title, period, round, latency, worst: Math.max(round, robot.tick) + latency + robot.tick,
  }))
}
