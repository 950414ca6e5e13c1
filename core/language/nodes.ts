import type { Block, Expression, Item, Program, Step } from './tree'

/** Whatever stands in the tree under a tag of its own. */
export type Node = Program | Item | Step | Expression

/**
 * What was found below a node, kept with it: a tree never changes, and some twenty checks walk it. Under signs that no copy, list of fields or JSON of a tree has; maps beside the
 * tree would have every collection of garbage go through them.
 */
const CHILDREN = Symbol('children')
const OWN_LINE = Symbol('children in its own line')
const BODIES = Symbol('bodies')
const STEPS = Symbol('all steps')
const ACTIVE = Symbol('active steps')
interface Kept {
  [CHILDREN]?: readonly Node[]
  [OWN_LINE]?: readonly Node[]
  [BODIES]?: readonly Body[]
  [STEPS]?: readonly Step[]
  [ACTIVE]?: ActiveSteps
}

/**
 * The nodes right below one, in the order of the text, whatever lies between them: blocks, branches, conditions, slots. One that
 * is told by a field of its own is found without a line here. `within`: false leaves out what stands in blocks of steps.
 */
export function childrenOf(node: Node, within = true): readonly Node[] {
  const kept = within ? CHILDREN : OWN_LINE
  const known = (node as Kept)[kept]
  if (known !== undefined) return known
  const found: Node[] = []
  // A tree is plain data: `in` finds its own fields alone, and makes no list of them.
  const into = (value: object): void => {
    for (const key in value) {
      const inner = (value as Record<string, unknown>)[key]
      if (typeof inner === 'object' && inner !== null && key !== 'range') look(inner)
    }
  }
  const look = (value: object): void => {
    if (Array.isArray(value)) into(value)
    else if ('tag' in value) found.push(value as Node)
    else if (within || !('steps' in value)) into(value)
  }
  into(node)
  found.sort((a, b) => a.range.from - b.range.from)
  ;(node as Kept)[kept] = found
  return found
}

/** Every item and step below a node, the outer before the inner; expressions are left out. */
export function* nodesIn(node: Program | Item | Step): Generator<Item | Step> {
  for (const child of childrenOf(node)) {
    if (isExpression(child) || child.tag === 'program') continue
    yield child
    yield* nodesIn(child)
  }
}

/** Calls with every node below one, expressions too, the outer before the inner. */
export function eachNode(node: Node, visit: (node: Node) => void): void {
  for (const child of childrenOf(node)) {
    visit(child)
    eachNode(child, visit)
  }
}

const isExpression = (node: Node): node is Expression => !('trivia' in node) && node.tag !== 'program'

/** An expression and every one within it, the outer before the inner. */
export function* expressionsIn(e: Expression): Generator<Expression> {
  yield e
  for (const child of childrenOf(e)) yield* expressionsIn(child as Expression)
}

/** A part of a tree with some of its objects replaced: those for which `change` gives another. */
export function rewritten<T>(part: T, change: (node: object) => object | null): T {
  if (Array.isArray(part)) return part.map((one: unknown) => rewritten(one, change)) as T
  if (typeof part !== 'object' || part === null) return part
  const other = change(part)
  if (other !== null) return other as T
  return Object.fromEntries(Object.entries(part).map(([key, value]) => [key, rewritten(value as unknown, change)])) as T
}

/** The expressions that stand in a line itself, not in the blocks under it. */
export function expressionsOf(node: Item | Step): readonly Expression[] {
  return childrenOf(node, false).filter(isExpression)
}

/** The conditions of a step's own line, and of the branches of an `if`. */
export function conditionsIn(step: Step): readonly Expression[] {
  switch (step.tag) {
    case 'if': return step.branches.flatMap(b => b.condition === null ? [] : [b.condition])
    case 'repeat': return step.test === null ? [] : [step.test.condition]
    case 'waitUntil': return [step.condition.expression]
    case 'action': return step.until === null ? [] : [step.until.expression]
    default: return []
  }
}

/** A block of steps under its heading, which begins at an offset. */
export interface Body { readonly at: number, readonly body: Block }

/** The blocks that stand right under a step, in the order of the text; that of an unread line is guesswork, and counts. */
export function bodiesOf(step: Step): readonly Body[] {
  const known = (step as Kept)[BODIES]
  if (known !== undefined) return known
  const found: Body[] = []
  const look = (value: unknown): void => {
    if (typeof value !== 'object' || value === null) return
    if (Array.isArray(value)) { for (const one of value as unknown[]) look(one); return }
    if ('body' in value && 'range' in value) found.push({ at: (value.range as { from: number }).from, body: value.body as Block })
  }
  look(step)
  for (const key in step) look(step[key as keyof Step])
  ;(step as Kept)[BODIES] = found
  return found
}

/** All steps of a block and of the blocks within it, the outer before the inner; of a step that is not entered, none within. */
export function flatSteps(body: Block, enters?: (step: Step) => boolean): readonly Step[] {
  if (enters !== undefined) return stepsIn(body, () => true, enters)
  const known = (body as Kept)[STEPS]
  if (known !== undefined) return known
  const found = stepsIn(body, () => true, () => true)
  ;(body as Kept)[STEPS] = found
  return found
}

function stepsIn(body: Block, counts: (step: Step) => boolean, enters: (step: Step) => boolean): readonly Step[] {
  const found: Step[] = []
  const take = (block: Block): void => {
    for (const step of block.steps) {
      if (!counts(step)) continue
      found.push(step)
      if (enters(step)) for (const inner of bodiesOf(step)) take(inner.body)
    }
  }
  take(body)
  return found
}

type ActiveSteps = readonly Exclude<Step, { tag: 'unread' }>[]

/** The steps of a block and of the blocks within it that are read and not switched off. */
export function activeSteps(body: Block): ActiveSteps {
  const known = (body as Kept)[ACTIVE]
  if (known !== undefined) return known
  const found = stepsIn(body, step => step.tag !== 'unread' && !step.off, () => true) as ActiveSteps
  ;(body as Kept)[ACTIVE] = found
  return found
}
