import { flatSteps, type Analysis } from '../analysis'
import type { Block } from '../tree'
import { say } from '../wording'
import type { Check } from './index'
import { blocksOf } from './walk'

/** A moving actuator belongs to one lane. */
export const lanesAndActuators: Check = (program, findings) => {
  const owners = new Map<string, { lane: string, line: number }>()
  for (const { body, lane } of blocksOf(program)) {
    for (const { actuator, range } of movesOf(program, body, new Set())) {
      const owner = owners.get(actuator)
      if (owner === undefined) owners.set(actuator, { lane, line: program.line(range) })
      else if (owner.lane !== lane) findings.error(say.twoLanes(actuator, owner.lane, owner.line), range)
    }
  }
}

function movesOf(program: Analysis, body: Block, within: Set<string>): { actuator: string, range: { from: number, to: number } }[] {
  const shared = new Set(program.facts.actuators.filter(a => a.shared).map(a => a.name))
  return flatSteps(body).flatMap(step => {
    if (step.tag === 'action') {
      const found = program.planOf(step)
      return (found?.moves ?? []).flatMap(actuator => shared.has(actuator) ? [] : [{ actuator, range: step.range }])
    }
    if (step.tag === 'do' && !within.has(step.routine.text)) {
      const routine = program.routines.get(step.routine.text)
      if (routine === undefined) return []
      return movesOf(program, routine.body, new Set([...within, step.routine.text])).map(m => ({ ...m, range: step.range }))
    }
    return []
  })
}
