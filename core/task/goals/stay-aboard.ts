import { object } from 'yup'
import { heldGoal, settle, type GoalKind } from './goal'
import { onDeckBy } from './places'

/** As far from the edge is far enough, metres. */
const MUCH = 0.3
/** Who fell counts as so far over. */
const FELL = 0.05

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
  margin: {
    counts: () => 'least', unit: 'm', much: () => MUCH,
    now(_p, state, world) {
      if (state.status === 'failed') return -FELL
      const { x, y } = world.body.pose.position
      return Math.max(0, onDeckBy(world.onDeck, x, y, MUCH))
    },
  },
}
