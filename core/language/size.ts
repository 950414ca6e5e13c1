import type { Analysis } from './analysis'
import { bodiesOf } from './nodes'
import type { Block, Step } from './tree'

/** The longest program after routines were put in place, in instructions. */
export const MAX_CODE = 20_000

/** Instructions that a step of its own takes at most, without what stands in it. */
function own(step: Step): number {
  switch (step.tag) {
    case 'if': return 2 * step.branches.length
    case 'choose': return 2 * step.cases.length
    case 'repeat': return 3
    case 'action':
    case 'wait':
    case 'waitUntil': return 2
    default: return 1
  }
}

/** How many instructions a program compiles to at most, with every routine in its place. Each routine is counted once. */
export function codeSize(program: Analysis): number {
  const routines = new Map<string, number>()
  const sizeOf = (body: Block): number => body.steps.reduce((sum, step) => {
    if (step.tag === 'unread' || step.off) return sum
    return sum + own(step) + bodiesOf(step).reduce((inner, b) => inner + sizeOf(b.body), 0) + (step.tag === 'do' ? routineSize(step.routine.text) : 0)
  }, 0)
  const routineSize = (name: string): number => {
    const known = routines.get(name)
    if (known !== undefined) return known
    routines.set(name, 0)
    const routine = program.routines.get(name)
    const size = routine === undefined ? 0 : sizeOf(routine.body)
    routines.set(name, size)
    return size
  }
  const bodies = program.lanes.flatMap(lane => [
    ...lane.start === null ? [] : [lane.start.body], ...lane.above.map(r => r.body),
    ...lane.modes.flatMap(m => [...m.start === null ? [] : [m.start.body], ...m.rules.map(r => r.body)]),
  ])
  return bodies.reduce((sum, body) => sum + sizeOf(body) + 1, 0)
}
