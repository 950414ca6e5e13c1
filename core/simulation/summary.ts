import { screenWords } from '../devices'
import type { RunEnd, Simulation } from './simulation'

/** What a run came to: what the command line prints. */
export interface RunSummary {
  readonly ended: RunEnd['ended']
  readonly reason: string
  readonly time_s: number
  readonly seed: number
  readonly realism: string
  readonly goals: readonly { readonly name: string, readonly met: boolean, readonly at_s: number | null }[]
  /** Metres that the robot's middle moved in all. */
  readonly path_m: number
  /** Where it ended: metres east and north, heading in degrees, 0 east, right positive. */
  readonly pose: { readonly x_m: number, readonly y_m: number, readonly heading_deg: number }
  readonly dials: Readonly<Record<string, number>>
  readonly events: readonly { readonly t_s: number, readonly type: string, readonly about: string, readonly text: string }[]
  readonly contacts: number
  readonly falls: number
  readonly notes: readonly { readonly t_s: number, readonly text: string }[]
  readonly hash: string
}

/** Sums up a run that is over; throws while it is not. */
export function summarise(simulation: Simulation): RunSummary {
  const { end, input, tape, facts } = simulation
  if (end === null) throw new Error('the run is not over')
  const { x, y, yaw } = simulation.pose()
  const figure = (value: number): number => Math.round(value * 1e4) / 1e4
  const seconds = (tick: number): number => Math.round(tick * facts.tick * 1e6) / 1e6
  return {
    ended: end.ended,
    reason: end.reason,
    time_s: Math.round(end.time * 1e6) / 1e6,
    seed: input.seed,
    realism: input.called ?? input.realism,
    goals: (input.task?.goals ?? []).map((goal, i) => {
      const state = simulation.goals[i]!
      return { name: goal.sentence, met: state.status === 'met', at_s: state.at === null ? null : Math.round(state.at * 1e6) / 1e6 }
    }),
    path_m: figure(simulation.pathLength),
    pose: { x_m: figure(x), y_m: figure(y), heading_deg: figure(-yaw * 180 / Math.PI) },
    dials: simulation.dials(),
    events: tape.events.map(e => ({ t_s: seconds(e.tick), type: e.type, about: e.about, text: e.type === 'show' ? screenWords(e.text) : e.text })),
    contacts: simulation.contacts,
    falls: simulation.falls,
    notes: tape.events.filter(e => e.type === 'note').map(e => ({ t_s: seconds(e.tick), text: e.text })),
    hash: tape.digest(),
  }
}
