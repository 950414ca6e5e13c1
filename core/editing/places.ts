import { bodiesOf, type Tree } from '../language'
import type { Sheet } from './sheet'

/** A list of siblings that stand in one block, and what owns them. */
export interface RuleList {
  readonly owner: Tree.Program | Tree.Mode | Tree.Lane
  readonly items: readonly Tree.Item[]
}

/** Rules, starts and headings of a program, with the list that each stands in. */
export function* ruleLists(tree: Tree.Program): Generator<RuleList> {
  yield { owner: tree, items: tree.items }
  for (const item of tree.items) {
    if (item.tag === 'mode') yield { owner: item, items: item.items }
    if (item.tag !== 'lane') continue
    yield { owner: item, items: item.items }
    for (const inner of item.items) if (inner.tag === 'mode') yield { owner: inner, items: inner.items }
  }
}

/** The item that begins at an offset, and its list; null where none does. */
export function itemAt(sheet: Sheet, at: number): { readonly item: Tree.Item, readonly list: RuleList, readonly index: number } | null {
  for (const list of ruleLists(sheet.tree)) {
    const index = list.items.findIndex(i => i.range.from === at)
    if (index !== -1) return { item: list.items[index]!, list, index }
  }
  return null
}

/** What has steps: a heading with the block below it. `at` is where the heading begins. */
export interface StepList {
  readonly at: number
  readonly body: Tree.Block
  /** The step that the heading belongs to; null for rules, starts and routines. */
  readonly step: Tree.Step | null
}

/** Every block of steps of a program, the outer before the inner. */
export function* stepLists(tree: Tree.Program): Generator<StepList> {
  for (const list of ruleLists(tree)) {
    for (const item of list.items) {
      if ('body' in item) yield* within({ at: item.range.from, body: item.body, step: null })
    }
  }
}

function* within(list: StepList): Generator<StepList> {
  yield list
  for (const step of list.body.steps) for (const { at, body } of bodiesOf(step)) yield* within({ at, body, step })
}

/** The step that begins at an offset, and its block; null where none does. */
export function stepAt(sheet: Sheet, at: number): { readonly step: Tree.Step, readonly list: StepList, readonly index: number } | null {
  for (const list of stepLists(sheet.tree)) {
    const index = list.body.steps.findIndex(s => s.range.from === at)
    if (index !== -1) return { step: list.body.steps[index]!, list, index }
  }
  return null
}

/** The block of steps whose heading begins at an offset. */
export function stepListAt(sheet: Sheet, at: number): StepList | null {
  for (const list of stepLists(sheet.tree)) if (list.at === at) return list
  return null
}
