import { object } from 'yup'
import { quantity } from '../../document'
import { defineGoal, heldGoal, settle } from './goal'

const schema = object({
  /** As bright as this and brighter counts as light. */
  light: quantity('number', { min: 0, max: 4 }).default(0.3),
  /** So long after the light came it may still move. */
  grace: quantity('time', { min: 0, max: 60 }).default(2),
})

/** Faster than this counts as moving, metres a second. */
const MOVING = 0.02

/** The robot stands while it is light. */
export const rests = defineGoal({
  goal: 'rests',
  summary: 'stand while it is light',
  schema,
  sentence: p => `stands while it is lighter than ${Math.round(p.light * 100)} %, from ${p.grace} s on`,
  about: () => [],
  // Since when it is light; -1 while it is dark.
  begin: () => ({ ...heldGoal(), memo: [-1] }),
  update(p, state, world) {
    if (state.status !== 'held') return
    if (world.light < p.light) { state.memo[0] = -1; return }
    if (state.memo[0]! < 0) state.memo[0] = world.time
    const { x, y } = world.body.velocity
    if (world.time - state.memo[0]! < p.grace || x * x + y * y < MOVING * MOVING) return
    state.progress = `moved at ${world.time.toFixed(1)} s`
    settle(state, 'failed', world.time)
  },
  margin: {
    counts: () => 'least', unit: 's', much: p => Math.max(1, p.grace),
    now(p, state, { time, body: { velocity: { x, y } } }) {
      // How long before the end of its grace it still moves; past it, how long after, when it was lost.
      if (state.status === 'failed') return p.grace - (state.at! - state.memo[0]!)
      return state.memo[0]! < 0 || x * x + y * y < MOVING * MOVING ? null : p.grace - (time - state.memo[0]!)
    },
  },
})
