import { findUnit } from '../units'
import type { Expression } from './tree'

/** A number written out, in SI; null for anything else. */
export function numberOf(e: Expression): number | null {
  switch (e.tag) {
    case 'number': return e.unit === null ? e.value : e.value * (findUnit(e.unit)?.scale ?? Number.NaN)
    case 'minus': {
      const n = numberOf(e.of)
      return n === null ? null : -n
    }
    case 'bracket': return numberOf(e.inner)
    default: return null
  }
}

/** What is known before the program runs: a number, a truth or a word. */
export function isConstant(e: Expression): boolean {
  return numberOf(e) !== null || e.tag === 'truth' || e.tag === 'name'
}
