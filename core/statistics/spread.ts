import { quantileSorted } from 'simple-statistics'
import { binomialBelow, type Estimate } from './proportions'

/** A middle value and how far others lie from it, in the unit of what was given. */
export interface Spread { readonly n: number, readonly least: number, readonly lower: number, readonly median: number, readonly upper: number, readonly most: number }

/** Quartiles, by the mean where two are the middle. null of nothing. */
export function spreadOf(values: readonly number[]): Spread | null {
  if (values.length === 0) return null
  const sorted = [...values].sort((a, b) => a - b)
  const at = (share: number): number => quantileSorted(sorted, share)
  return { n: sorted.length, least: sorted[0]!, lower: at(0.25), median: at(0.5), upper: at(0.75), most: sorted.at(-1)! }
}

/**
 * The median with an interval that holds the true one in at least 95 of 100 samples, whatever the values are distributed like: the
 * order statistics that the sign test leaves (W. J. Conover, "Practical Nonparametric Statistics", 3rd edition, 1999, 3.2). null of fewer than six values, which no such interval has.
 */
export function medianOf(values: readonly number[]): Estimate | null {
  const n = values.length
  if (n < 6) return null
  const sorted = [...values].sort((a, b) => a - b)
  let rank = 0
  while (binomialBelow(rank, n) <= 0.025) rank++
  return { value: quantileSorted(sorted, 0.5), low: sorted[rank - 1]!, high: sorted[n - rank]! }
}
