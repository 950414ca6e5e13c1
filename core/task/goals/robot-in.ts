import { object } from 'yup'
import { quantity, text } from '../../document'
import { openGoal, settle, type GoalKind } from './goal'
import { areaOf } from './places'

const schema = object({ area: text().required(), hold: quantity('time', { min: 0, max: 600 }).default(0) })
interface Parameters { area: string, hold: number }

/** The robot's middle is in an area, for a while. */
export const robotIn: GoalKind<Parameters> = {
  goal: 'robot-in',
  schema: schema as unknown as GoalKind<Parameters>['schema'],
  sentence: p => `the robot in ${p.area}${p.hold > 0 ? ` for ${p.hold} s` : ''}`,
  about: () => [],
  places: p => [p.area],
  begin: () => ({ ...openGoal(), memo: [-1] }),
  update(p, state, world) {
    if (state.status !== 'open') return
    const { position } = world.body.pose
    if (areaOf(world.arena, p.area)?.holds(position.x, position.y, 0) !== true) { state.memo[0] = -1; return }
    if (state.memo[0]! < 0) state.memo[0] = world.time
    if (world.time - state.memo[0]! >= p.hold - 1e-9) settle(state, 'met', world.time)
  },
}
