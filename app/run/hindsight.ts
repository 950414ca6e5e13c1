import { lookInto, Simulation, type Insight } from '~~/core/simulation'
import type { Past } from './past'

/**
 * A second simulation beside a run's own, which goes back to its instants while the run stays where it is: for what no tape tells.
 * It is made when somebody first asks.
 */
export class Hindsight {
  private again: Simulation | null = null

  constructor(private readonly of: Simulation, private readonly past: Past) {}

  /** What was behind a tick; null where the run has not come so far, or its tick was of a run that it went on from. */
  lookInto(tick: number): Insight | null {
    const { past, of } = this
    if (tick < of.tape.first || tick >= of.tape.rows) return null
    const simulation = this.again ??= new Simulation({ ...of.input, keeping: 'events' })
    simulation.restore(past.before(tick))
    while (simulation.tape.rows < tick) {
      this.handsBeforeNext(simulation)
      simulation.advance()
    }
    this.handsBeforeNext(simulation)
    return lookInto(simulation, of.tape)
  }

  private handsBeforeNext(simulation: Simulation): void { for (const poke of this.past.handsBefore(simulation.tape.rows)) simulation.poke(poke) }

  free(): void { this.again?.free() }
}
