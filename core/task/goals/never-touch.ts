import { object } from 'yup'
import { text } from '../../document'
import { heldGoal, settle, type GoalKind } from './goal'

const schema = object({ kind: text().default('') })
interface Parameters { kind: string }

/** The robot touches nothing, or nothing of one kind. */
export const neverTouch: GoalKind<Parameters> = {
  goal: 'never-touch',
  schema: schema as unknown as GoalKind<Parameters>['schema'],
  sentence: p => p.kind === '' ? 'touches nothing' : `never touches a ${p.kind}`,
  about: p => p.kind === '' ? [] : [p.kind],
  begin: heldGoal,
  update(p, state, world) {
    const hit = world.touched.find(t => p.kind === '' || t.kind === p.kind)
    if (hit === undefined) return
    state.progress = `touched ${hit.name}`
    settle(state, 'failed', world.time)
  },
}
