import { object } from 'yup'
import { text } from '../../document'
import { gapBetween, heldGoal, settle, defineGoal } from './goal'

const schema = object({ kind: text().default('') })

/** As far from everything is far enough; a touch counts as so much too near. Metres. */
const MUCH = 1
const TOUCHED = 0.01

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
  margin: {
    counts: () => 'least', unit: 'm', much: () => MUCH,
    now(p, state, world) {
      if (state.status === 'failed') return -TOUCHED
      const about = p.kind === '' ? world.others : [...world.pieces, ...world.visitors].filter(x => x.kind === p.kind).map(x => x.solid)
      // Only what may be near is measured: its bound says so.
      let least = MUCH
      for (const solid of about) {
        const [dx, dy] = [solid.px - world.hull.px, solid.py - world.hull.py]
        if (Math.sqrt(dx * dx + dy * dy) - solid.bound - world.hull.bound < least) least = Math.min(least, gapBetween(world.hull, solid))
      }
      return least
    },
  },
})
