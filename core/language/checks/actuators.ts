import type { Analysis } from '../analysis'
import { activeSteps } from '../nodes'
import type { Block, Routine } from '../tree'
import { say } from '../wording'
import type { Check } from './index'
import { blocksOf, sharedActuators } from './walk'

interface Move { readonly actuator: string, readonly range: { readonly from: number, readonly to: number } }

/** A moving actuator belongs to one lane. */
export const lanesAndActuators: Check = (program, findings) => {
  const owners = new Map<string, { lane: string, line: number }>()
  const shared = sharedActuators(program)
  const routines = new Map<Routine, ReadonlySet<string>>()
  for (const { body, lane } of blocksOf(program)) {
    for (const { actuator, range } of movesOf(program, body, shared, routines)) {
      const owner = owners.get(actuator)
      if (owner === undefined) owners.set(actuator, { lane, line: program.line(range) })
      else if (owner.lane !== lane) findings.error(say.twoLanes(actuator, owner.lane, owner.line), range)
    }
  }
}

/** What a block moves, and where; a routine's motions stand at its `do`. Each routine is gone through once. */
function movesOf(program: Analysis, body: Block, shared: ReadonlySet<string>, routines: Map<Routine, ReadonlySet<string>>): Move[] {
  return activeSteps(body).flatMap((step): Move[] => {
    if (step.tag === 'action') {
      return (program.planOf(step)?.moves ?? []).filter(a => !shared.has(a)).map(actuator => ({ actuator, range: step.range }))
    }
    if (step.tag !== 'do') return []
    const routine = program.routineOf(step)
    if (routine === undefined) return []
    let moved = routines.get(routine)
    if (moved === undefined) {
      routines.set(routine, new Set())
      moved = new Set(movesOf(program, routine.body, shared, routines).map(m => m.actuator))
      routines.set(routine, moved)
    }
    return [...moved].map(actuator => ({ actuator, range: step.range }))
  })
}
