import { object } from 'yup'
import { quantity } from '../../document'
import { openGoal, settle, defineGoal } from './goal'

const schema = object({ distance: quantity('length', { min: 0.01, max: 10000 }).required() })

/** The robot covers a way of some length, whichever way it goes. */
export const travels = defineGoal({
  goal: 'travels',
  summary: 'cover a way of some length',
  example: { distance: '3 m' },
  schema,
  sentence: p => `covers ${p.distance} m`,
  about: () => [],
  begin: openGoal,
  update(p, state, world) {
    if (state.status !== 'open') return
    state.progress = `${world.path.toFixed(1)} m`
    if (world.path >= p.distance) settle(state, 'met', world.time)
  },
  margin: { counts: () => 'best', unit: 'm', much: p => p.distance, now: (p, state, world) => state.status === 'met' ? null : world.path - p.distance },
})
