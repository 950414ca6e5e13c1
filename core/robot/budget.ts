import type { Robot } from './robot'

/** When one device looks: seconds. */
export interface LookLine {
  readonly device: string
  readonly title: string
  /** Between two looks of it alone, and between two as this robot's controller takes them. */
  readonly period: number
  readonly round: number
  readonly latency: number
  /** From something happening to the program knowing, at worst: a round, the latency and the tick. */
  readonly worst: number
}

/** How long the robot's looks take, device by device; what has no period of its own is looked at in every tick. */
export function lookBudget(robot: Robot): readonly LookLine[] {
  const looking = robot.devices.map(d => ({ d, ...d.kind.timing(d.parameters, 'typical') })).filter(l => l.period > 0)
  const sum = looking.reduce((all, l) => all + l.period, 0)
  return looking.map(({ d, period, latency }) => {
    const sharing = d.kind.takesTurns ? looking.filter(l => l.d.kind === d.kind).length : 1
    const round = robot.looksInTurn ? sum : period * sharing
    return { device: d.name, title: d.kind.title, period, round, latency, worst: Math.max(round, robot.tick) + latency + robot.tick }
  })
}
