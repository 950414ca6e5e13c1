import { formatQuantity, unitsOfKind } from '../../units'
import type { Analysis } from '../analysis'
import { expr } from '../formatter'
import type { Expression, Rule } from '../tree'
import { readingName } from '../types'
import { say } from '../wording'
import type { Check } from './index'
import { fixedValue } from './walk'

/** One bound that a rule's whole condition sets on a reading or a memory. */
interface Bound { readonly rule: Rule, readonly reading: string, readonly operator: '<' | '>' | '<=' | '>=', readonly value: number, readonly written: string }

/**
 * Two rules that split one reading between them and leave a gap, or both want control in between, with
 * nothing to catch the rest; and two that undo one another at one threshold.
 */
export const thresholdPairs: Check = (program, findings) => {
  for (const lane of program.lanes) {
    for (const mode of lane.modes) {
      const rules = [...lane.above, ...mode.rules]
      const bounds = rules.flatMap(r => boundOf(program, r))
      for (const below of bounds) {
        for (const above of bounds) {
          if (below.rule === above.rule || below.reading !== above.reading || !below.operator.startsWith('<') || !above.operator.startsWith('>')) continue
          const open = rules.every(r => r.when !== null)
          const range = rules.indexOf(below.rule) > rules.indexOf(above.rule) ? below.rule.when!.range : above.rule.when!.range
          if (open && below.value < above.value) findings.warning(say.gap(below.reading, below.written, above.written), range)
          else if (open && below.value === above.value && below.operator === '<' && above.operator === '>') findings.hint(say.leftOut(below.reading, below.written), range)
          else if (below.value > above.value && open) findings.hint(say.overlap(below.reading, above.written, below.written), range)
        }
      }
      undoing(program, rules, bounds, findings)
    }
  }
}

function boundOf(program: Analysis, rule: Rule): Bound[] {
  const e = rule.when?.expression
  if (e === undefined || rule.until !== null || e.tag !== 'compare') return []
  const held = (side: Expression): boolean => side.tag === 'reading' || (side.tag === 'name' && program.memories.has(side.name))
  const flipped = held(e.right)
  const reading = flipped ? e.right : e.left
  const limit = flipped ? e.left : e.right
  const value = fixedValue(program, limit)
  if (!held(reading) || value === null) return []
  const operator = flipped ? ({ '<': '>', '>': '<', '<=': '>=', '>=': '<=' } as const)[e.operator] : e.operator
  return [{ rule, reading: reading.tag === 'reading' ? readingName(reading) : expr(reading), operator, value, written: writtenOf(program, limit) }]
}

function writtenOf(program: Analysis, e: Expression): string {
  const value = fixedValue(program, e)
  const unit = e.tag === 'number' && e.unit !== null ? null : e.tag === 'name' ? program.dials.get(e.name)?.type : undefined
  if (unit?.type === 'quantity' && value !== null) {
    const usual = unitsOfKind(unit.kind)[0]
    if (usual !== undefined) return formatQuantity(value, usual)
  }
  return expr(e)
}

/** Which way a live rule moves the wheels: 1 forward, -1 back, 0 neither. */
function way(program: Analysis, rule: Rule): number {
  if (rule.body.steps.some(s => program.takesTime(s))) return 0
  for (const step of rule.body.steps) {
    if (step.tag !== 'action' || step.off || step.form !== 'drive') continue
    const amount = step.slots.find(s => s.name === 'amount')?.value ?? null
    const sign = amount === null ? 1 : Math.sign(fixedValue(program, amount) ?? 1)
    return step.slots.some(s => s.name === 'back') ? -sign : sign
  }
  return 0
}

/** Back when nearer, on again when not: the robot rocks at the threshold. */
function undoing(program: Analysis, rules: readonly Rule[], bounds: readonly Bound[], findings: Parameters<Check>[1]): void {
  for (const bound of bounds) {
    const here = way(program, bound.rule)
    if (here !== -1 || !/\.distance$/.test(bound.reading) || !bound.operator.startsWith('<') || bound.rule.when!.held !== null) continue
    const after = rules.slice(rules.indexOf(bound.rule) + 1).find(r => r.when === null || boundOf(program, r).some(b => b.reading === bound.reading && b.value === bound.value))
    if (after !== undefined && way(program, after) === 1) findings.hint(say.undoOneAnother(program.line(after.range), bound.reading, bound.written), bound.rule.when!.range)
  }
}
