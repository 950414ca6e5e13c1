import type { Simulation } from '../simulation'

/** How nearly a run met its goals, or how far it was from that. */
export interface Nearness {
  /** Of each goal in its own unit, by its place; null where only met or not can be told. */
  readonly goals: readonly (number | null)[]
  /** Of each by what is much for it: 1 is much, below zero is missed. */
  readonly weighed: readonly number[]
  /** The least of all, each by what is much for it: below zero where not all were met. */
  readonly least: number
}

/** A goal that was missed by nobody knows how much. */
const MISSED = -1
/** The least that a missed goal is below zero, and a met one above. */
const EDGE = 1e-3

/** Looks at the margins of a run's goals as it goes, and says how near it was. */
export class Margins {
  private readonly kept: (number | null)[]

  constructor(private readonly simulation: Simulation) { this.kept = simulation.goals.map(() => null) }

  /** At an instant. */
  look(): void {
    const goals = this.simulation.input.task?.goals ?? []
    for (const [i, now] of this.simulation.margins().entries()) {
      if (now === null) continue
      const before = this.kept[i]
      const { kind, parameters } = goals[i]!
      const counts = kind.margin!.counts(parameters)
      this.kept[i] = before == null || counts === 'last' ? now : counts === 'least' ? Math.min(before, now) : Math.max(before, now)
    }
  }

  /** Of the whole run, which took so long, seconds, and met its goals or not: a goal without a margin of its own has the time that was left when it was met. */
  all(time: number, met: boolean): Nearness {
    const { goals, input: { task, limit } } = this.simulation
    const weighed = goals.map((state, i) => {
      const { kind, parameters } = task!.goals[i]!
      const own = this.kept[i]
      const weight = own == null || kind.margin === undefined ? null : own / kind.margin.much(parameters)
      if (state.status !== 'met') return weight === null ? MISSED : Math.min(-EDGE, weight)
      // One that was met in a moment tells of that moment's margin only where it has one.
      return Math.max(EDGE, weight !== null && weight > 0 ? weight : 1 - (state.at ?? time) / limit)
    })
    return { goals: this.kept, weighed, least: weighed.length === 0 ? met ? 1 : MISSED : Math.min(...weighed) }
  }
}
