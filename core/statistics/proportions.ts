import { exp, log } from '../maths'

/** An estimate with the interval that holds the true value in 95 of 100 samples, all from 0 to 1 (of a difference, from -1 to 1). */
export interface Estimate { readonly value: number, readonly low: number, readonly high: number }

/** Of the standard normal distribution, the points that 97.5 % and 80 % lie below (the package's own are good to three figures only). */
export const Z95 = 1.959963984540054
/** How sure one wants to be to see a difference that there is. */
const POWER = 0.8416212335729143

/**
 * The share that `met` of `of` say, with Wilson's score interval (E. B. Wilson, "Probable inference, the law of succession, and statistical
 * inference", Journal of the American Statistical Association 22, 1927). Of no trials: anything may be.
 */
export function wilson(met: number, of: number): Estimate {
  if (of === 0) return { value: 0, low: 0, high: 1 }
  const z2 = Z95 * Z95
  const p = met / of
  const middle = (p + z2 / (2 * of)) / (1 + z2 / of)
  const half = Z95 * Math.sqrt(p * (1 - p) / of + z2 / (4 * of * of)) / (1 + z2 / of)
  // At the ends the sum is 0 or 1 but for the last bits.
  return { value: p, low: met === 0 ? 0 : middle - half, high: met === of ? 1 : middle + half }
}

/** How often two did the same things: both, only the first, only the second, neither. */
export interface Pairs { readonly both: number, readonly onlyA: number, readonly onlyB: number, readonly neither: number }

/**
 * By how much the second share is larger than the first where both did the same things, with its interval (R. G. Newcombe, "Improved
 * confidence intervals for the difference between binomial proportions based on paired data", Statistics in Medicine 17, 1998, method 10).
 */
export function pairedDifference({ both, onlyA, onlyB, neither }: Pairs): Estimate {
  const n = both + onlyA + onlyB + neither
  if (n === 0) return { value: 0, low: -1, high: 1 }
  const [a, b] = [wilson(both + onlyA, n), wilson(both + onlyB, n)]
  const value = (onlyB - onlyA) / n
  const product = both * neither - onlyA * onlyB
  const spread = (both + onlyA) * (onlyB + neither) * (both + onlyB) * (onlyA + neither)
  // A positive correlation is taken with a correction for continuity.
  const phi = spread === 0 ? 0 : (product > 0 ? Math.max(0, product - n / 2) : product) / Math.sqrt(spread)
  const part = (x: number, y: number): number => Math.sqrt(Math.max(0, x * x - 2 * phi * x * y + y * y))
  return { value, low: value - part(b.value - b.low, a.high - a.value), high: value + part(b.high - b.value, a.value - a.low) }
}

/** How often something was met. */
export interface Share { readonly met: number, readonly runs: number }

/**
 * By how much the second share is larger than the first, of runs that have nothing to do with one another (R. G. Newcombe, "Interval
 * estimation for the difference between independent proportions", Statistics in Medicine 17, 1998, method 10).
 */
export function differenceOf(first: Share, second: Share): Estimate {
  const [a, b] = [wilson(first.met, first.runs), wilson(second.met, second.runs)]
  const value = b.value - a.value
  const part = (x: number, y: number): number => Math.sqrt(x * x + y * y)
  return { value, low: value - part(b.value - b.low, a.high - a.value), high: value + part(b.high - b.value, a.value - a.low) }
}

/**
 * The probability of a split at least as uneven as this, were both sides as likely (the exact sign test, two-sided; of pairs that differ it
 * is McNemar's exact test). 1 where nothing was split.
 */
export function signTest(one: number, other: number): number {
  const n = one + other
  const few = Math.min(one, other)
  if (n === 0 || 2 * few === n) return 1
  return Math.min(1, 2 * binomialBelow(few, n))
}

/** The probability of at most `k` heads in `n` throws of a fair coin. */
export function binomialBelow(k: number, n: number): number {
  // In logarithms: half to the power of n is 0 in doubles from some thousand throws on.
  let term = -n * Math.LN2
  let sum = exp(term)
  for (let i = 1; i <= k; i++) {
    term += log((n - i + 1) / i)
    sum += exp(term)
  }
  return Math.min(1, sum)
}

/**
 * About how many pairs more would tell the two apart four times in five, if they differ as much as they seem to (R. J. Connor, "Sample
 * size for testing differences in proportions for the paired-sample design", Biometrics 43, 1987). null where nothing differs so far.
 */
export function pairsMore({ both, onlyA, onlyB, neither }: Pairs): number | null {
  const n = both + onlyA + onlyB + neither
  const apart = (onlyA + onlyB) / n
  const by = Math.abs(onlyA - onlyB) / n
  if (n === 0 || by === 0) return null
  const root = (Z95 * Math.sqrt(apart) + POWER * Math.sqrt(Math.max(0, apart - by * by))) / by
  return Math.max(1, Math.ceil(root * root) - n)
}
