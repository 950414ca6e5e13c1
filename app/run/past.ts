import type { Poke, Simulation, SimulationSnapshot } from '~~/core/simulation'

/** Ticks between two states that are kept at first, and how many states are kept at most: then every other goes. */
const EVERY = 50
const MOST = 240

/** How a run came to where it is: states in between and what hands did, so that any instant of it is soon gone back to. */
export class Past {
  private states: { readonly tick: number, readonly state: SimulationSnapshot }[] = []
  private readonly hands: { readonly tick: number, readonly poke: Poke }[] = []
  private every = EVERY

  constructor(private readonly simulation: Simulation) { this.keep() }

  private keep(): void { this.states.push({ tick: this.simulation.tape.rows, state: this.simulation.snapshot() }) }

  /** A tick, with a state kept where it is time for one. */
  advance(): void {
    const { simulation } = this
    simulation.advance()
    if (simulation.tape.rows % this.every !== 0 || simulation.end !== null || this.states.at(-1)!.tick >= simulation.tape.rows) return
    this.keep()
    if (this.states.length <= MOST) return
    this.every *= 2
    this.states = this.states.filter(({ tick }, i) => i === 0 || tick % this.every === 0)
  }

  /** Lets a hand in before the next tick. */
  poke(poke: Poke): void {
    this.hands.push({ tick: this.simulation.tape.rows, poke })
    this.simulation.poke(poke)
  }

  /** The latest state that is kept of where it had run no more than so many ticks. */
  before(ticks: number): SimulationSnapshot { return this.states.findLast(s => s.tick <= ticks)!.state }

  /** What hands did before a tick. */
  handsBefore(tick: number): readonly Poke[] { return this.hands.filter(h => h.tick === tick).map(h => h.poke) }

  /** To where it had run so many ticks, no fewer than it began with; hands do again what they did. What came after is gone. */
  goTo(ticks: number): void {
    const { simulation } = this
    if (simulation.tape.rows > ticks) {
      // States of what came after are of a tape that is gone.
      this.states = this.states.filter(s => s.tick <= ticks)
      simulation.restore(this.states.at(-1)!.state)
    }
    while (simulation.tape.rows < ticks && simulation.end === null) {
      for (const poke of this.handsBefore(simulation.tape.rows)) simulation.poke(poke)
      this.advance()
    }
  }
}
