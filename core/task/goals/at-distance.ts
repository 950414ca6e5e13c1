import { object } from 'yup'
import { quantity, text } from '../../document'
import { findUnit, formatQuantity } from '../../units'
import { count, countsFields, countsWords, gapBetween, openGoal, defineGoal } from './goal'

const schema = object({
  of: text().required(),
  distance: quantity('length', { min: 0, max: 20 }).required(),
  within: quantity('length', { min: 0.001, max: 5 }).required(),
  ...countsFields('held', 1),
})

/** Slower than this counts as standing, metres a second. */
const STANDING = 0.01

/** The robot stands at a distance from a piece, for a while. */
export const atDistance = defineGoal({
  goal: 'at-distance',
  summary: 'stand at a distance from something',
  example: { distance: '12 cm', within: '2 cm' },
  schema,
  sentence: p => `stands ${cm(p.distance)} from ${p.of}, within ${cm(p.within)}${countsWords(p)}`,
  about: p => [p.of],
  begin: () => ({ ...openGoal(), memo: [-1] }),
  update(p, state, world) {
    // Of several of a kind, the nearest one counts.
    const gaps = [...world.pieces, ...world.visitors].filter(x => x.name === p.of || x.kind === p.of).map(x => gapBetween(world.hull, x.solid))
    if (gaps.length === 0 || state.status === 'met') return
    const gap = Math.min(...gaps)
    state.progress = cm(gap)
    const v = world.body.velocity
    const speed = Math.sqrt(v.x * v.x + v.y * v.y)
    count(state, p, Math.abs(gap - p.distance) <= p.within && speed <= STANDING, world.time)
  },
})

const cm = (x: number): string => formatQuantity(x, findUnit('cm')!)
