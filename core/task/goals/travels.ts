import { object } from 'yup'
import { quantity } from '../../document'
import { openGoal, settle, type GoalKind } from './goal'

const schema = object({ distance: quantity('length', { min: 0.01, max: 10000 }).required() })
interface Parameters { distance: number }

/** The robot covers a way of some length, whichever way it goes. */
export const travels: GoalKind<Parameters> = {
  goal: 'travels',
  schema: schema as unknown as GoalKind<Parameters>['schema'],
  sentence: p => `covers ${p.distance} m`,
  about: () => [],
  begin: openGoal,
  update(p, state, world) {
    if (state.status !== 'open') return
    state.progress = `${world.path.toFixed(1)} m`
    if (world.path >= p.distance) settle(state, 'met', world.time)
  },
}
