import { object } from 'yup'
import { plainNumber, text } from '../../document'
import { openGoal, settle, defineGoal, manyOf, tally, type GoalState, type GoalWorld } from './goal'

const schema = object({ kind: text().required(), count: plainNumber().integer().min(1).max(1000) })

/** Cosine of the lean beyond which a piece lies, and how far it must have sunk from where it stood, metres. */
const LEANS = 0.7
const SUNK = 0.01

/** Pieces of a kind lie, or fell from the stack on which they stood. */
export const topple = defineGoal({
  goal: 'topple',
  summary: 'pieces knocked over',
  schema,
  sentence: p => `${manyOf(p.count, p.kind)} knocked over, once`,
  about: p => [p.kind],
  begin: openGoal,
  update(p, state, world) {
    if (state.status !== 'open') return
    // The height at which each stood, taken at the first tick.
    if (state.memo.length === 0) state.memo = world.pieces.flatMap(x => x.kind === p.kind ? [x.solid.pz] : [])
    const down = downOf(world, p.kind, state)
    const wanted = p.count ?? allOf(world, p.kind)
    state.progress = tally(down, wanted)
    if (wanted > 0 && down >= wanted) settle(state, 'met', world.time)
  },
  margin: {
    counts: () => 'last', unit: 'pieces', much: p => p.count ?? 1,
    now(p, state, world) {
      return state.status === 'met' || state.memo.length === 0 ? null : downOf(world, p.kind, state) - (p.count ?? allOf(world, p.kind))
    },
  },
})

/** How many there are of a kind. */
function allOf({ pieces }: GoalWorld, of: string): number {
  let all = 0
  for (const { kind } of pieces) if (kind === of) all++
  return all
}

/** How many of a kind lie, or fell from where they stood. */
function downOf({ pieces }: GoalWorld, of: string, { memo }: GoalState): number {
  let [at, down] = [0, 0]
  for (const { kind, solid } of pieces) {
    if (kind !== of) continue
    if (solid.matrix[8]! < LEANS || solid.pz < memo[at]! - SUNK) down++
    at++
  }
  return down
}
