import { PART_OF } from '../arena'
import { gapBetween } from '../task'
import type { ProblemIn } from './project'
import type { Simulation } from './simulation'

/** Surfaces nearer than this count as inside one another, metres: what stands against a wall may start there. */
const INSIDE = 1e-4

/** Why a run cannot begin: something that the seed puts up finds no room, or the robot would stand off every deck, or inside of what does not give way. null when it can. */
export function startProblem(simulation: Simulation): ProblemIn | null {
  const { layout, world, input } = simulation
  const { x, y } = layout.start
  const at = `${round(x)} m, ${round(y)} m`
  const problem = (message: string): ProblemIn => ({ document: 'arena', path: 'start', value: at, message })
  const [missing] = layout.noRoom
  if (missing !== undefined) return { document: 'arena', path: `${missing}.area`, value: `seed ${input.seed}`, message: 'this seed finds no room for it; allowed is an area with more room between the start and what else stands there' }
  if (!simulation.onDeck(x, y)) return problem(`the robot would start off every deck; allowed is a place on one${'area' in input.arena.start ? ` (seed ${input.seed} drew this one)` : ''}`)
  const hull = world.parts[0]!.solid!
  const loose = new Set(world.pieces.filter(p => p.body !== null).map(p => p.solid))
  const own = new Set(world.parts.map(p => p.solid))
  const others = world.scene.solids.filter(s => !own.has(s) && !loose.has(s) && !world.belts.some(b => b.solid === s))
  const hit = others.find(s => gapBetween(hull, s) < INSIDE)
  if (hit === undefined) return null
  const name = hit.id.split(PART_OF)[0]!.replace(/:\d+$/, '')
  return problem(`the robot would start inside of ${name}; allowed is a place with ${round(world.parts[0]!.shape.shape === 'box' ? world.parts[0]!.shape.hx : 0.1)} m free about its middle`)
}

const round = (metres: number): number => Math.round(metres * 1000) / 1000
