import { object } from 'yup'
import { heldGoal, settle, type GoalKind } from './goal'

/** The robot does not fall off the deck. */
export const stayAboard: GoalKind = {
  goal: 'stay-aboard',
  summary: 'do not fall off the deck',
  schema: object({}),
  sentence: () => 'stays aboard',
  about: () => [],
  begin: heldGoal,
  update(_p, state, world) {
    if (world.fell) settle(state, 'failed', world.time)
  },
}
