import { object } from 'yup'
import { text } from '../../document'
import { heldGoal, settle, defineGoal } from './goal'

const schema = object({ kind: text().default('') })

/** The robot touches nothing, or nothing of one kind. */
export const neverTouch = defineGoal({
  goal: 'never-touch',
  summary: 'touch nothing, or nothing of a kind',
  schema,
  sentence: p => p.kind === '' ? 'touches nothing' : `never touches a ${p.kind}`,
  about: p => p.kind === '' ? [] : [p.kind],
  begin: heldGoal,
  update(p, state, world) {
    const hit = world.touched.find(t => p.kind === '' || t.kind === p.kind)
    if (hit === undefined) return
    state.progress = `touched ${hit.name}`
    settle(state, 'failed', world.time)
  },
})
