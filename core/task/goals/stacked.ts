import { object } from 'yup'
import { plainNumber, text } from '../../document'
import { count, countsFields, countsWords, openGoal, defineGoal } from './goal'
import { slow } from './places'

const schema = object({ kind: text().required(), high: plainNumber().integer().min(2).max(20).default(2), ...countsFields('held', 1) })

/** One stands on another where their heights fit within this, and their middles by no more than half of the smaller one, metres. */
const FITS = 0.006

/** So many pieces of a kind stand on one another, let go. */
export const stacked = defineGoal({
  goal: 'stacked',
  summary: 'pieces on one another',
  schema,
  sentence: p => `${p.high} ${p.kind} on one another${countsWords(p)}`,
  about: p => [p.kind],
  begin: () => ({ ...openGoal(), memo: [-1] }),
  update(p, state, world) {
    const all = world.pieces.filter(x => x.kind === p.kind && !world.holds(x.name)).map(x => x.solid)
    const on = (upper: typeof all[number], lower: typeof all[number]): boolean => {
      const reach = Math.min(upper.bound, lower.bound) / 2
      const [dx, dy] = [upper.px - lower.px, upper.py - lower.py]
      return dx * dx + dy * dy < reach * reach && Math.abs(upper.pz - lower.pz - upper.shape.hz - lower.shape.hz) < FITS
    }
    // How many stand on one another up to each, from below.
    const height = new Map<typeof all[number], number>()
    for (const solid of [...all].sort((a, b) => a.pz - b.pz)) {
      height.set(solid, 1 + Math.max(0, ...all.filter(x => on(solid, x)).map(x => height.get(x) ?? 0)))
    }
    const most = Math.max(0, ...height.values())
    state.progress = `${most} of ${p.high}`
    count(state, p, most >= p.high && slow(world), world.time)
  },
})
