import { object } from 'yup'
import { distanceToSegment } from '../../arena'
import { quantity, text } from '../../document'
import { findUnit, formatQuantity } from '../../units'
import { openGoal, settle, defineGoal } from './goal'

const schema = object({ line: text().required(), within: quantity('length', { min: 0.005, max: 2 }).default(0.12) })

/** How near to the end counts as there, and how far ahead of where it was a place may be to count as next, metres. */
const THERE = 0.1
const AHEAD = 0.4

/** The robot follows a painted line from its beginning to its end and never strays far from it. */
export const follow = defineGoal({
  goal: 'follow',
  summary: 'a line followed to its end',
  schema,
  sentence: p => `follows ${p.line} to its end, within ${formatQuantity(p.within, findUnit('cm')!)}`,
  about: () => [],
  lines: p => [p.line],
  begin: () => ({ ...openGoal(), memo: [0, 0] }),
  update(p, state, world) {
    const line = world.arena.lines.find(l => l.name === p.line)
    if (line === undefined || state.status !== 'open') return
    const { x, y } = world.body.pose.position
    // It begins wherever on the line the robot stands at first.
    const begins = state.memo[1] === 0
    state.memo[1] = 1
    let before = 0
    let nearest = Infinity
    let way = state.memo[0]!
    for (let i = 1; i < line.points.length; i++) {
      const a = line.points[i - 1]!
      const b = line.points[i]!
      const { distance, along } = distanceToSegment(x, y, a, b)
      const at = before + along
      // Where lines cross, only the stretch that comes next counts.
      if (distance < nearest && (begins || Math.abs(at - state.memo[0]!) <= AHEAD)) { nearest = distance; way = at }
      before += Math.sqrt((b[0] - a[0]) * (b[0] - a[0]) + (b[1] - a[1]) * (b[1] - a[1]))
    }
    if (nearest > p.within && state.memo[0]! > 0) {
      state.progress = `strayed after ${(state.memo[0]! * 100).toFixed(0)} cm`
      settle(state, 'failed', world.time)
      return
    }
    if (nearest <= p.within && way > state.memo[0]!) state.memo[0] = way
    state.progress = `${(100 * Math.min(1, state.memo[0]! / before)).toFixed(0)} %`
    if (state.memo[0]! >= before - THERE) settle(state, 'met', world.time)
  },
  margin: {
    counts: () => 'least', unit: 'm', much: p => p.within,
    now(p, state, world) {
      const line = world.arena.lines.find(l => l.name === p.line)
      // Until it has found the line, and when it is at its end, it cannot stray.
      if (line === undefined || state.status === 'met' || state.memo[0] === 0) return null
      const { x, y } = world.body.pose.position
      return p.within - Math.min(...line.points.slice(1).map((b, i) => distanceToSegment(x, y, line.points[i]!, b).distance))
    },
  },
})
