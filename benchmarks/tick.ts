import { Simulation } from '../core/simulation'
import type { Keeping } from '../core/tape'
import { pusher, withLoose } from './scene'

/** Simulated seconds that are measured, after as many to warm up. */
const SECONDS = 60

function make(count: number, keeping: Keeping = 'all'): Simulation {
  const parts = withLoose(count)
  return new Simulation({ ...parts, program: pusher(parts), realism: 'typical', seed: 3, limit: 3 * SECONDS, keeping })
}

/** How often the library's own step asks what time it is, by its clock that stands here (counted; the same on an empty deck and on a full one). */
const CLOCK_READINGS = 36

/** Ticks of the one and of the other that follow one another: what else the machine does meanwhile touches both. */
const SLICE = 100

/**
 * The time of whole ticks over the time that the physics library's own steps take on the same course, seconds of it, after as
 * long a course to warm up. Two runs alike go side by side: one as it is, and one whose physics are stepped by the library's own
 * call, of which alone the time counts.
 */
export function wholeToPhysics(make: () => Simulation, seconds: number): number {
  const ours = make()
  const bare = make()
  const inLibrary = stepByLibrary(bare)
  const slices = seconds / ours.facts.tick / SLICE
  const ratios: number[] = []
  for (let slice = 0; slice < 2 * slices; slice++) {
    const begin = performance.now()
    for (let i = 0; i < SLICE; i++) ours.advance()
    const whole = performance.now() - begin
    const before = inLibrary()
    for (let i = 0; i < SLICE; i++) bare.advance()
    if (slice >= slices) ratios.push(whole / (inLibrary() - before))
  }
  if (ours.tape.digest() !== bare.tape.digest()) throw new Error('the two runs are not the same')
  ours.free()
  bare.free()
  return ratios.sort((a, b) => a - b)[ratios.length >> 1]!
}

/** Has a simulation step its physics by the library's own call; the milliseconds spent in it so far. */
function stepByLibrary({ world: { physics } }: Simulation): () => number {
  const library = Reflect.get(physics, 'world') as { step(events: object): void, readonly physicsPipeline: { readonly raw: { stepWithEvents(...all: unknown[]): void } } }
  const events = Reflect.get(physics, 'events') as object
  const { raw } = library.physicsPipeline
  const real = raw.stepWithEvents.bind(raw)
  let within = false
  let spent = 0
  raw.stepWithEvents = (...all) => {
    if (within) { real(...all); return }
    within = true
    const begin = performance.now()
    for (let i = 0; i < CLOCK_READINGS; i++) performance.now()
    library.step(events)
    spent += performance.now() - begin
    within = false
  }
  return () => spent
}

/** With so many loose pieces, and so much of the run kept. */
export const tickRatio = (count: number, keeping: Keeping = 'all'): number => wholeToPhysics(() => make(count, keeping), SECONDS)

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
