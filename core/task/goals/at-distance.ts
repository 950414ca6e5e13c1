import { object } from 'yup'
import { quantity, text } from '../../document'
import { findUnit, formatQuantity } from '../../units'
import { count, countsFields, countsWords, gapBetween, marginCounts, openGoal, defineGoal, type GoalWorld } from './goal'

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
    if (state.status === 'met') return
    const gap = gapTo(p.of, world)
    if (gap === null) return
    state.progress = cm(gap)
    count(state, p, Math.abs(gap - p.distance) <= p.within && stands(world), world.time)
  },
  margin: {
    counts: marginCounts, unit: 'm', much: p => p.within,
    now(p, _state, world) {
      const gap = stands(world) ? gapTo(p.of, world) : null
      return gap === null ? null : p.within - Math.abs(gap - p.distance)
    },
  },
})

/** How far it is to the nearest of a name or kind, metres; null when there is none. */
function gapTo(of: string, world: GoalWorld): number | null {
  const gaps = [...world.pieces, ...world.visitors].filter(x => x.name === of || x.kind === of).map(x => gapBetween(world.hull, x.solid))
  return gaps.length === 0 ? null : Math.min(...gaps)
}

function stands({ body: { velocity: { x, y } } }: GoalWorld): boolean { return Math.sqrt(x * x + y * y) <= STANDING }

const cm = (x: number): string => formatQuantity(x, findUnit('cm')!)
