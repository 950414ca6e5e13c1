import { object } from 'yup'
import { quantity, text } from '../../document'
import { findUnit, formatQuantity } from '../../units'
import { gapBetween, openGoal, settle, type GoalKind } from './goal'

const schema = object({
  of: text().required(),
  distance: quantity('length', { min: 0, max: 20 }).required(),
  within: quantity('length', { min: 0.001, max: 5 }).required(),
  hold: quantity('time', { min: 0, max: 600 }).default(1),
})
interface Parameters { of: string, distance: number, within: number, hold: number }

/** Slower than this counts as standing, metres a second. */
const STANDING = 0.01

/** The robot stands at a distance from a piece, for a while. */
export const atDistance: GoalKind<Parameters> = {
  goal: 'at-distance',
  schema: schema as unknown as GoalKind<Parameters>['schema'],
  sentence: p => `stands ${cm(p.distance)} from ${p.of}, within ${cm(p.within)}, for ${p.hold} s`,
  about: p => [p.of],
  begin: () => ({ ...openGoal(), memo: [-1] }),
  update(p, state, world) {
    const target = world.pieces.find(x => x.name === p.of || x.kind === p.of)
    if (target === undefined || state.status !== 'open') return
    const gap = gapBetween(world.hull, target.solid)
    state.progress = cm(gap)
    const v = world.body.velocity
    const speed = Math.sqrt(v.x * v.x + v.y * v.y)
    if (Math.abs(gap - p.distance) > p.within || speed > STANDING) { state.memo[0] = -1; return }
    if (state.memo[0]! < 0) state.memo[0] = world.time
    if (world.time - state.memo[0]! >= p.hold - 1e-9) settle(state, 'met', world.time)
  },
}

const cm = (x: number): string => formatQuantity(x, findUnit('cm')!)
