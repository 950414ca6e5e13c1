import { differenceOf, wilson, type Estimate } from '../statistics'
import { drawnOf, jobOf } from './jobs'
import type { Trial, TrialBasis } from './trial'

/** A part of the range that a variation was drawn from, and how often goals were met there. */
export interface Part { readonly from: number, readonly to: number, readonly runs: number, readonly met: number, readonly share: Estimate }

/** What a variation of the world costs: its range in thirds, and how much more often goals are met in the best of them than in the worst. */
export interface Sensitivity {
  /** What varies, by its name. */
  readonly of: string
  /** From the smallest values to the largest. SI. */
  readonly parts: readonly Part[]
  readonly best: Part
  readonly worst: Part
  readonly costs: Estimate
}

/** Thirds of fewer runs than this say nothing. */
const FEWEST = 5

/** What each variation costs, the most costly first; nothing of too few runs. Each is looked at alone, whatever the others were. */
export function sensitivityOf({ plan, programs }: TrialBasis, trials: readonly Trial[]): readonly Sensitivity[] {
  // A world that is known to be hard was not drawn.
  const seeds = trials.flatMap(({ met, number }) => { const { seed, known } = jobOf(plan, programs.length, number); return known === null ? [{ met, drawn: drawnOf(plan, seed) }] : [] })
  return Object.entries(plan.world).flatMap(([of, [low, high]]): Sensitivity[] => {
    if (low === high) return []
    const third = (high - low) / 3
    const parts = [0, 1, 2].map((k): Part => {
      const [from, to] = [low + k * third, k === 2 ? high : low + (k + 1) * third]
      const within = seeds.filter(({ drawn }) => { const value = drawn[of]!; return value >= from && (k === 2 ? value <= to : value < to) })
      const met = within.filter(s => s.met).length
      return { from, to, runs: within.length, met, share: wilson(met, within.length) }
    })
    if (parts.some(p => p.runs < FEWEST)) return []
    const sorted = [...parts].sort((a, b) => b.share.value - a.share.value)
    const [best, , worst] = sorted as [Part, Part, Part]
    return [{ of, parts, best, worst, costs: differenceOf(worst, best) }]
  }).sort((a, b) => b.costs.low - a.costs.low)
}
