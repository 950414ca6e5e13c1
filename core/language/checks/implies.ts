import type { Analysis } from '../analysis'
import { expr } from '../formatter'
import type { Compare, Expression } from '../tree'
import { fixedValue } from './walk'

/** Whether the second is true whenever the first is, as far as one can tell by reading them: never wrongly yes. */
export function implies(program: Analysis, first: Expression, second: Expression): boolean {
  const [a, b] = [plain(first), plain(second)]
  if (expr(a) === expr(b)) return true
  if (b.tag === 'logic') return b.operator === 'or' ? b.operands.some(o => implies(program, a, o)) : b.operands.every(o => implies(program, a, o))
  if (a.tag === 'logic') return a.operator === 'and' ? a.operands.some(o => implies(program, o, b)) : a.operands.every(o => implies(program, o, b))
  if (a.tag === 'compare' && b.tag === 'compare') return narrower(program, a, b)
  if (a.tag === 'is' && b.tag === 'is' && !a.negated && !b.negated && expr(a.value) === expr(b.value)) return a.options.every(o => b.options.some(p => expr(o) === expr(p)))
  return false
}

const plain = (e: Expression): Expression => e.tag === 'bracket' ? plain(e.inner) : e

/** A comparison with what is compared at the left. */
function turned(e: Compare): { readonly what: string, readonly less: boolean, readonly open: boolean, readonly bound: Expression } {
  const flipped = e.right.tag === 'reading' && e.left.tag !== 'reading'
  const less = e.operator.startsWith('<') !== flipped
  return { what: expr(flipped ? e.right : e.left), less, open: !e.operator.endsWith('='), bound: flipped ? e.left : e.right }
}

/** `x < 10` is narrower than `x < 40`, and than `x <= 10`. Values of dials count as they are written. */
function narrower(program: Analysis, a: Compare, b: Compare): boolean {
  const [p, q] = [turned(a), turned(b)]
  if (p.what !== q.what || p.less !== q.less) return false
  const [x, y] = [fixedValue(program, p.bound), fixedValue(program, q.bound)]
  // Two dials may be moved past one another; then nothing can be said.
  if (x === null || y === null || (p.bound.tag === 'name') !== (q.bound.tag === 'name')) return false
  if (p.bound.tag === 'name' && q.bound.tag === 'name') return p.bound.name === q.bound.name && (p.open || !q.open)
  return p.less ? x < y || (x === y && (p.open || !q.open)) : x > y || (x === y && (p.open || !q.open))
}
