import { object } from 'yup'
import { plainNumber, text } from '../../document'
import { count, countsFields, countsWords, marginCounts, openGoal, settle, defineGoal, tally } from './goal'
import { FAR_OFF, areaOf } from './places'

const schema = object({ area: text().required(), times: plainNumber().integer().min(2).max(1000), ...countsFields(undefined, 0) })

/** The robot's middle is in an area: once, for a while, at the end, or coming in several times. */
export const robotIn = defineGoal({
  goal: 'robot-in',
  summary: 'the robot in an area',
  schema,
  sentence: p => p.times !== undefined ? `the robot comes into ${p.area} ${p.times} times` : `the robot in ${p.area}${countsWords(p)}`,
  about: () => [],
  places: p => [p.area],
  begin: () => ({ ...openGoal(), memo: [-1, 0, 0] }),
  update(p, state, world) {
    const { position } = world.body.pose
    const inside = areaOf(world.arena, p.area)?.holds(position.x, position.y, 0) === true
    if (p.times === undefined) return count(state, p, inside, world.time)
    // How often it came in, and whether it is in.
    if (inside && state.memo[2] === 0) state.memo[1] = state.memo[1]! + 1
    state.memo[2] = inside ? 1 : 0
    state.progress = tally(state.memo[1]!, p.times)
    if (state.memo[1]! >= p.times) settle(state, 'met', world.time)
  },
  margin: {
    counts: marginCounts, unit: 'm', much: () => FAR_OFF,
    now(p, _state, { arena, body: { pose: { position } } }) {
      // One that is counted lacks no way.
      return p.times !== undefined ? null : areaOf(arena, p.area)?.within(position.x, position.y) ?? null
    },
  },
})
