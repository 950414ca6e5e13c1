import type { Analysis } from './analysis'
import { bodiesOf, childrenOf, expressionsOf, nodesIn } from './nodes'
import type { Block, Expression, Routine, Step } from './tree'

/** The longest program after routines were put in place, in instructions. */
export const MAX_CODE = 20_000

/** Instructions that a step of its own takes at most, without what stands in it. */
function own(step: Step): number {
  switch (step.tag) {
    case 'if': return 2 * step.branches.length
    case 'choose': return 2 * step.cases.length
    case 'repeat': return 4
    // What begins and what waits, and the way around an `else` under `at most`.
    case 'action':
    case 'do':
    case 'wait':
    case 'waitUntil': return 3
    default: return 1
  }
}

/** How many instructions a program compiles to at most, with every routine in its place. Each routine is counted once. */
export function codeSize(program: Analysis): number {
  const routines = new Map<Routine, number>()
  const sizeOf = (body: Block): number => body.steps.reduce((sum, step) => {
    if (step.tag === 'unread' || step.off) return sum
    return sum + own(step) + bodiesOf(step).reduce((inner, b) => inner + sizeOf(b.body), 0) + (step.tag === 'do' ? routineSize(program.routineOf(step)) : 0)
  }, 0)
  const routineSize = (routine: Routine | undefined): number => {
    if (routine === undefined) return 0
    const known = routines.get(routine)
    if (known !== undefined) return known
    routines.set(routine, 0)
    const size = sizeOf(routine.body)
    routines.set(routine, size)
    return size
  }
  const bodies = program.lanes.flatMap(lane => [
    ...lane.start === null ? [] : [lane.start.body], ...lane.above.map(r => r.body),
    ...lane.modes.flatMap(m => [...m.start === null ? [] : [m.start.body], ...m.rules.map(r => r.body)]),
  ])
  return bodies.reduce((sum, body) => sum + sizeOf(body) + 1, 0)
}

/** The parts of an expression, and of what each parameter stands for: as often as it is used. */
interface Parts { readonly own: number, readonly of: ReadonlyMap<string, number> }

/** How many parts the expressions of a program have at most, with every function in the place of its calls. */
export function partsOf(program: Analysis): number {
  const functions = new Map<string, Parts>()
  const parts = (e: Expression, parameters: readonly string[]): Parts => {
    if (e.tag === 'name' && parameters.includes(e.name)) return { own: 1, of: new Map([[e.name, 1]]) }
    const made = e.tag === 'call' ? program.functions.get(e.name.text) : undefined
    const inner = childrenOf(e).map(child => parts(child as Expression, parameters))
    if (made === undefined) return inner.reduce((sum, p) => added(sum, p, 1), { own: 1, of: new Map() } as Parts)
    const known = functions.get(made.node.name.text) ?? { own: 1, of: new Map() }
    return made.parameters.reduce((sum, name, i) => added(sum, inner[i] ?? { own: 0, of: new Map() }, known.of.get(name) ?? 0), { own: known.own, of: new Map() } as Parts)
  }
  // In the order of the text: each uses those above it only.
  for (const [name, made] of program.functions) functions.set(name, parts(made.node.value, made.parameters))
  let sum = 0
  for (const node of nodesIn(program.tree)) if (node.tag !== 'let' || node.parameters.length === 0) for (const e of expressionsOf(node)) sum += parts(e, []).own
  return sum
}

function added(a: Parts, b: Parts, times: number): Parts {
  if (times === 0) return a
  const of = new Map(a.of)
  for (const [name, n] of b.of) of.set(name, (of.get(name) ?? 0) + times * n)
  return { own: a.own + times * b.own, of }
}
