import {
  addElse, addHeading, conditionChoices, defaultStep, duplicate, freeName, insertRule, moveItem, moveStep, removeItem, removeStep, setHeld, setUntil, toggleNot, toggleOff, toggleOnce, wrapStep,
  type Card, type Edit, type RuleRow, type Sheet, type StepLine,
} from '~~/core/editing'
import type { RobotFacts } from '~~/core/robot'

/** Something that can be done to a rule or a step: the same for the menu and for its key. */
export interface Action {
  readonly title: string
  /** As `KeyboardEvent` names it, with modifiers: "alt+ArrowUp". */
  readonly key: string
  /** The edit; null where it may not be. */
  edit(sheet: Sheet): Edit
  /** What has the focus then: how many rows or steps on. */
  readonly moves: number
}

const action = (title: string, key: string, edit: Action['edit'], moves = 0): Action => ({ title, key, edit, moves })

/** How long a condition holds at first. */
const FIRST_HELD = '0.2 s'

export function rowActions(row: RuleRow, facts: RobotFacts, tree: Sheet['tree']): readonly Action[] {
  const { at } = row
  if (row.what !== 'rule' && row.what !== 'otherwise') return [action('Remove', 'Delete', s => removeItem(s, at))]
  const held = row.when.some(p => p.role === 'word' && /(^|\s|\))for$/.test(p.text))
  const other = conditionChoices(facts, tree)[0]?.text ?? 'mode.time > 2 s'
  return [
    action('More urgent', 'alt+ArrowUp', s => moveItem(s, at, -1), -1),
    action('Less urgent', 'alt+ArrowDown', s => moveItem(s, at, 1), 1),
    action(row.off ? 'Switch on' : 'Switch off', 'alt+o', s => toggleOff(s, at)),
    action('Duplicate', 'ctrl+d', s => duplicate(s, at), 1),
    action(held ? 'At once' : 'Only when it holds for a while', 'alt+f', s => setHeld(s, at, held ? null : FIRST_HELD)),
    action(row.until.length > 0 ? 'Without until' : 'Until another condition', 'alt+u', s => setUntil(s, at, row.until.length > 0 ? null : other)),
    action(row.once ? 'As long as it is true' : 'Once each time', 'alt+1', s => toggleOnce(s, at)),
    action('Remove', 'Delete', s => removeItem(s, at)),
  ]
}

export function stepActions(step: StepLine, facts: RobotFacts, tree: Sheet['tree']): readonly Action[] {
  const { at } = step
  if (!step.isStep) return []
  const simple = defaultStep(facts)
  const condition = conditionChoices(facts, tree)[0]?.text ?? 'run.time > 5 s'
  return [
    action('Up', 'alt+ArrowUp', s => moveStep(s, at, -1), -1),
    action('Down', 'alt+ArrowDown', s => moveStep(s, at, 1), 1),
    action(step.off ? 'Switch on' : 'Switch off', 'alt+o', s => toggleOff(s, at)),
    action('Duplicate', 'ctrl+d', s => duplicate(s, at), 1),
    action('Only if', 'alt+i', s => wrapStep(s, at, `if ${condition}`)),
    action('Again and again', 'alt+r', s => wrapStep(s, at, 'repeat 3 times')),
    ...(step.what === 'if' || step.what === 'choose' ? [action('Else', 'alt+e', (s: Sheet) => addElse(s, at, simple))] : []),
    action('Remove', 'Delete', s => removeStep(s, at)),
  ]
}

/** Turns the part of a condition where a piece stands into its opposite. */
export const notOf = (row: RuleRow, offset: number) => (s: Sheet): Edit => toggleNot(s, row.at, offset)

/** A new rule in a card, above a row or last: its step is the plainest until one is chosen. */
export function newRule(card: Card, before: number | null, condition: string | null, facts: RobotFacts) {
  const step = defaultStep(facts)
  const lines = condition === null ? `otherwise\n  ${step}` : `when ${condition}\n  ${step}`
  return (s: Sheet): Edit => insertRule(s, card.at, before, lines)
}

export function newMode(facts: RobotFacts) {
  return (s: Sheet): Edit => addHeading(s, `mode ${freeName(s.tree, s.tree.items.some(i => i.tag === 'mode') ? 'next' : 'search')}\n  otherwise\n    ${defaultStep(facts)}`)
}
export function newLane(facts: RobotFacts) {
  return (s: Sheet): Edit => addHeading(s, `lane ${freeName(s.tree, 'beside')}\n  when ${conditionChoices(facts, s.tree)[0]?.text ?? 'run.time > 5 s'} once\n    note "here"`)
}
export function newRoutine(facts: RobotFacts) {
  return (s: Sheet): Edit => addHeading(s, `routine ${freeName(s.tree, 'retreat')}\n  ${defaultStep(facts)}`)
}


/** The name of a pressed key with its modifiers, as actions give it. */
export function keyName(event: KeyboardEvent): string {
  return `${event.ctrlKey || event.metaKey ? 'ctrl+' : ''}${event.altKey ? 'alt+' : ''}${event.key.length === 1 ? event.key.toLowerCase() : event.key}`
}
