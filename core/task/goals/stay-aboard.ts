import { object } from 'yup'
import { cos, sin } from '../../maths'
import { heldGoal, settle, type GoalKind } from './goal'

/** As far from the edge is far enough; the edge is looked for in so many directions, so finely. Metres. */
const MUCH = 0.3
const WAYS = 16
const FINE = 0.01
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
    counts: 'least', unit: 'm', much: () => MUCH,
    now(_p, state, world) {
      if (state.status === 'failed') return -FELL
      const { x, y } = world.body.pose.position
      let edge = MUCH
      for (let i = 0; i < WAYS; i++) {
        const [dx, dy] = [cos(2 * Math.PI * i / WAYS), sin(2 * Math.PI * i / WAYS)]
        for (let r = 0; r < edge; r += FINE) if (!world.onDeck(x + r * dx, y + r * dy)) edge = r
      }
      return edge
    },
  },
}
