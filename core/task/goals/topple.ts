import { object } from 'yup'
import { plainNumber, text } from '../../document'
import { openGoal, settle, defineGoal, manyOf, type GoalState, type GoalWorld } from './goal'

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
    const all = world.pieces.filter(x => x.kind === p.kind)
    // The height at which each stood, taken at the first tick.
    if (state.memo.length === 0) state.memo = all.map(x => x.solid.pz)
    const [down, wanted] = [downOf(all, state), p.count ?? all.length]
    state.progress = `${down} of ${wanted}`
    if (wanted > 0 && down >= wanted) settle(state, 'met', world.time)
  },
  margin: {
    counts: () => 'last', unit: 'pieces', much: p => p.count ?? 1,
    now(p, state, world) {
      const all = world.pieces.filter(x => x.kind === p.kind)
      return state.status === 'met' || state.memo.length === 0 ? null : downOf(all, state) - (p.count ?? all.length)
    },
  },
})

/** How many lie, or fell from where they stood. */
const downOf = (all: GoalWorld['pieces'], { memo }: GoalState): number => all.filter((x, i) => x.solid.matrix[8]! < LEANS || x.solid.pz < memo[i]! - SUNK).length
