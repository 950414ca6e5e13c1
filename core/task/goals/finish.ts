import { object } from 'yup'
import { openGoal, settle, type GoalKind } from './goal'

/** The program ends the run itself. */
export const finish: GoalKind = {
  goal: 'finish',
  summary: 'end by itself',
  schema: object({}),
  sentence: () => 'finishes by itself',
  about: () => [],
  begin: openGoal,
  update(_p, state, world) {
    if (world.finished) settle(state, 'met', world.time)
  },
}
