import { Simulation } from '../core/simulation'
import type { Keeping } from '../core/tape'
import { pusher, withLoose } from './scene'

/** Simulated seconds that are measured, after as many to warm up. */
const SECONDS = 60

function make(count: number, keeping: Keeping = 'all'): Simulation {
  const parts = withLoose(count)
  return new Simulation({ ...parts, program: pusher(parts), realism: 'typical', seed: 3, limit: 3 * SECONDS, keeping })
}

/** How often the library's own step asks what time it is (counted; the same on an empty deck and on a full one). */
const CLOCK_READINGS = 36

/**
 * The time of whole ticks over the time that the physics library's own steps would take, after as long a run to warm up. Its own
 * step asks the time at every stage and looks for new soft bodies at its end, which ours leaves out: both are timed beside the tick.
 */
export function wholeToPhysics(simulation: Simulation, seconds: number): number {
  const { physics } = simulation.world
  const step = physics.step.bind(physics)
  const library = Reflect.get(physics, 'world') as { mapNewSoftBodies(): void }
  let inside = 0
  let beside = 0
  physics.step = () => {
    const begin = performance.now()
    step()
    const done = performance.now()
    for (let i = 0; i < CLOCK_READINGS; i++) performance.now()
    library.mapNewSoftBodies()
    inside += done - begin
    beside += performance.now() - done
  }
  const ticks = seconds / simulation.facts.tick
  for (let i = 0; i < ticks; i++) simulation.advance()
  inside = beside = 0
  const begin = performance.now()
  for (let i = 0; i < ticks; i++) simulation.advance()
  const whole = performance.now() - begin - beside
  simulation.free()
  return whole / (inside + beside)
}

/** With so many loose pieces, and so much of the run kept. */
export const tickRatio = (count: number, keeping: Keeping = 'all'): number => wholeToPhysics(make(count, keeping), SECONDS)

/** Simulated seconds a second with so many loose pieces. */
export function realtime(count: number): number {
  const simulation = make(count)
  const ticks = SECONDS / simulation.facts.tick
  for (let i = 0; i < ticks; i++) simulation.advance()
  const begin = performance.now()
  for (let i = 0; i < ticks; i++) simulation.advance()
  const seconds = (performance.now() - begin) / 1000
  simulation.free()
  return SECONDS / seconds
}
