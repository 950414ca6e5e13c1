import { object } from 'yup'
import { plainNumber, text } from '../../document'
import type { Solid } from '../../geometry'
import { count, countsFields, countsWords, marginCounts, openGoal, defineGoal, manyOf, tally, type GoalWorld } from './goal'
import { FAR_OFF, slow } from './places'

const schema = object({ kind: text().required(), high: plainNumber().integer().min(2).max(20).default(2), ...countsFields('held', 1) })

/** One stands on another where their heights fit within this, and their middles by no more than half of the smaller one, metres. */
const FITS = 0.006

/** The solids of a kind that are not held, from below. */
const looseOf = ({ pieces, holds }: GoalWorld, kind: string): Solid[] => pieces.filter(x => x.kind === kind && !holds(x.name)).map(x => x.solid).sort((a, b) => a.pz - b.pz)

/** By how much one stands on another, metres: below zero by as far as it would have to go to stand there. */
function standsBy(upper: Solid, lower: Solid): number {
  const reach = Math.min(upper.bound, lower.bound) / 2
  const [dx, dy] = [upper.px - lower.px, upper.py - lower.py]
  const aside = Math.sqrt(dx * dx + dy * dy)
  const above = Math.abs(upper.pz - lower.pz - upper.shape.hz - lower.shape.hz)
  if (aside < reach && above < FITS) return Math.min(reach - aside, FITS - above)
  const [far, off] = [Math.max(0, aside - reach), Math.max(0, above - FITS)]
  return -Math.sqrt(far * far + off * off)
}

/** So many pieces of a kind stand on one another, let go. */
export const stacked = defineGoal({
  goal: 'stacked',
  summary: 'pieces on one another',
  schema,
  sentence: p => `${manyOf(p.high, p.kind)} on one another${countsWords(p)}`,
  about: p => [p.kind],
  begin: () => ({ ...openGoal(), memo: [-1] }),
  update(p, state, world) {
    // How many stand on one another up to each, from below.
    const height = new Map<Solid, number>()
    for (const solid of looseOf(world, p.kind)) {
      height.set(solid, 1 + Math.max(0, ...[...height].filter(([lower]) => standsBy(solid, lower) > 0).map(([, high]) => high)))
    }
    const most = Math.max(0, ...height.values())
    state.progress = tally(most, p.high)
    count(state, p, most >= p.high && slow(world), world.time)
  },
  margin: {
    counts: marginCounts, unit: 'm', much: () => FAR_OFF,
    now(p, _state, world) {
      const all = looseOf(world, p.kind)
      // The best way to each as the top of one more: as good as the worst of its steps.
      let best = all.map(() => Infinity)
      for (let high = 2; high <= p.high; high++) best = all.map((upper, i) => Math.max(-Infinity, ...all.slice(0, i).map((lower, k) => Math.min(best[k]!, standsBy(upper, lower)))))
      const most = Math.max(-Infinity, ...best)
      return Number.isFinite(most) ? most : null
    },
  },
})
