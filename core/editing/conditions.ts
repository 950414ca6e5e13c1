import type { Tree } from '../language'
import { itemAt, stepAt } from './places'
import { merged, type Edit } from './structure'
import { applyChanges, sheetOf, type Change, type Sheet } from './sheet'

/** Edits of a rule's heading. Its rule is told by the offset at which it begins. */

function ruleAt(sheet: Sheet, at: number): Tree.Rule | null {
  const found = itemAt(sheet, at)?.item
  return found?.tag === 'rule' ? found : null
}

/** Puts another text where a piece stands. null when a line could not be read then that could before. */
export function replacePiece(sheet: Sheet, from: number, to: number, text: string): Edit {
  const written = text.trim()
  if (written === '' || written.includes('\n') || written.includes('#') && !written.includes('"')) return null
  const changes = [{ from, to, insert: written }]
  return sheetOf(applyChanges(sheet.text, changes)).problems > sheet.problems ? null : changes
}

/** Makes another rule of `otherwise`, or gives a rule another condition altogether. */
export function setCondition(sheet: Sheet, at: number, condition: string): Edit {
  const rule = ruleAt(sheet, at)
  if (rule === null) return null
  if (rule.when !== null) return [{ ...rule.when.range, insert: condition }]
  const from = sheet.text.indexOf('otherwise', at)
  return [{ from, to: from + 'otherwise'.length, insert: `when ${condition}` }]
}

/** Adds a part to a rule's condition, or to that of an `if`. `and` beside `or` gets brackets, and `not` stays with what it was before. */
export function addPart(sheet: Sheet, at: number, operator: 'and' | 'or', part: string): Edit {
  const expression = conditionAt(sheet, at)
  if (expression === null) return null
  const { range } = expression
  const bracketed = expression.tag === 'logic' && expression.operator !== operator
  const changes: Change[] = bracketed ? [{ from: range.from, to: range.from, insert: '(' }] : []
  return [...changes, { from: range.to, to: range.to, insert: `${bracketed ? ')' : ''} ${operator} ${part}` }]
}

/** The expression of a rule's condition, or of the `if` whose step begins at an offset. */
function conditionAt(sheet: Sheet, at: number): Tree.Expression | null {
  const rule = ruleAt(sheet, at)
  if (rule !== null) return rule.when?.expression ?? null
  const step = stepAt(sheet, at)?.step
  return step?.tag === 'if' ? step.branches[0]?.condition ?? null : null
}

/** Parts of an `and` or `or`, wherever it stands in an expression. */
function* logicsIn(e: Tree.Expression): Generator<Extract<Tree.Expression, { tag: 'logic' }>> {
  switch (e.tag) {
    case 'logic':
      yield e
      for (const o of e.operands) yield* logicsIn(o)
      return
    case 'not': yield* logicsIn(e.of); return
    case 'bracket': yield* logicsIn(e.inner)
  }
}

/** The part of an `and` or `or` of a rule's or `if`'s condition in which an offset stands; null where there is only one. */
function partAt(sheet: Sheet, at: number, offset: number): { readonly logic: Extract<Tree.Expression, { tag: 'logic' }>, readonly index: number } | null {
  const expression = conditionAt(sheet, at)
  if (expression === null) return null
  let found: ReturnType<typeof partAt> = null
  for (const logic of logicsIn(expression)) {
    const index = logic.operands.findIndex(o => o.range.from <= offset && offset < o.range.to)
    if (index !== -1) found = { logic, index }
  }
  return found
}

/** Takes the part of a condition in which an offset stands out, with its `and` or `or`. */
export function removePart(sheet: Sheet, at: number, offset: number): Edit {
  const found = partAt(sheet, at, offset)
  if (found === null) return null
  const { logic, index } = found
  const { operands } = logic
  const change = index === 0
    ? { from: operands[0]!.range.from, to: operands[1]!.range.from, insert: '' }
    : { from: operands[index - 1]!.range.to, to: operands[index]!.range.to, insert: '' }
  // Brackets around a single comparison say nothing, but do no harm either.
  return guarded(sheet, [change])
}

/** Turns the part in which an offset stands into its opposite, or back. */
export function toggleNot(sheet: Sheet, at: number, offset: number): Edit {
  const whole = conditionAt(sheet, at)
  if (whole === null) return null
  const found = partAt(sheet, at, offset)
  const part = found === null ? whole : found.logic.operands[found.index]!
  if (part.tag === 'not') return guarded(sheet, [{ from: part.range.from, to: part.of.range.from, insert: '' }])
  if (part.tag === 'logic') return guarded(sheet, [{ from: part.range.from, to: part.range.from, insert: 'not (' }, { from: part.range.to, to: part.range.to, insert: ')' }])
  return guarded(sheet, [{ from: part.range.from, to: part.range.from, insert: 'not ' }])
}

/** Sets how long a rule's condition must hold; null for at once. */
export function setHeld(sheet: Sheet, at: number, time: string | null): Edit {
  const when = ruleAt(sheet, at)?.when
  if (when == null) return null
  return guarded(sheet, [{ from: when.expression.range.to, to: when.range.to, insert: time === null ? '' : ` for ${time}` }])
}

/** Sets the condition that ends a rule's wanting; null for none. */
export function setUntil(sheet: Sheet, at: number, condition: string | null): Edit {
  const rule = ruleAt(sheet, at)
  if (rule?.when == null) return null
  const from = rule.when.range.to
  return guarded(sheet, [{ from, to: rule.until?.range.to ?? from, insert: condition === null ? '' : ` until ${condition}` }])
}

/** Makes a rule act once each time its condition comes true, or as long as it is. */
export function toggleOnce(sheet: Sheet, at: number): Edit {
  const rule = ruleAt(sheet, at)
  if (rule?.when == null) return null
  const end = rule.until?.range.to ?? rule.when.range.to
  if (!rule.once) return [{ from: end, to: end, insert: ' once' }]
  const length = /^\s*once/.exec(sheet.text.slice(end))?.[0].length ?? 0
  return [{ from: end, to: end + length, insert: '' }]
}

/** The changes, unless a line could not be read then that could before. */
function guarded(sheet: Sheet, changes: readonly Change[]): Edit {
  const after = applyChanges(sheet.text, changes)
  return sheetOf(after).problems > sheet.problems ? null : changes.length === 1 ? changes : merged(sheet.text, after)
}
