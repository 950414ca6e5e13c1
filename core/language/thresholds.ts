import { numberOf } from './constants'
import type { Threshold } from '../program'
import type { Expression, Reading } from './tree'
import { readingName } from './types'

/** Whose condition it is, and where dials and memories live. */
interface Where { readonly rule: number, readonly mode: string, cellOf(name: string): number | null }

/** The values with which a condition compares readings, for the traces. */
export function thresholdsIn(e: Expression, where: Where): Threshold[] {
  const { rule, mode } = where
  const at = (reading: Reading, bound: Expression, operator: string): Threshold => ({
    reading: readingName(reading), rule, mode, value: numberOf(bound), cell: bound.tag === 'name' ? where.cellOf(bound.name) : null, operator,
  })
  switch (e.tag) {
    case 'logic': return e.operands.flatMap(o => thresholdsIn(o, where))
    case 'not': return thresholdsIn(e.of, where)
    case 'bracket': return thresholdsIn(e.inner, where)
    case 'compare': {
      if (e.left.tag === 'reading') return [at(e.left, e.right, e.operator)]
      return e.right.tag === 'reading' ? [at(e.right, e.left, ({ '<': '>', '>': '<', '<=': '>=', '>=': '<=' } as const)[e.operator])] : []
    }
    case 'between': {
      const { value } = e
      return value.tag === 'reading' ? [e.low, e.high].map(bound => at(value, bound, 'between')) : []
    }
    default: return []
  }
}
