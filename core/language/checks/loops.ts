import type { Analysis } from '../analysis'
import { flatSteps } from '../nodes'
import type { Block, Step } from '../tree'
import { say } from '../wording'
import type { Check } from './index'
import { allBodies } from './walk'

/** A `repeat` for ever in which nothing takes time. */
export const loopsWithoutTime: Check = (program, findings) => {
  const bodies = allBodies(program)
  for (const body of bodies) {
    for (const step of flatSteps(body)) {
      if (step.tag !== 'repeat' || step.off || step.times !== null || step.each !== null) continue
      if (step.body.steps.some(s => program.takesTime(s))) {
        if (step.test === null && !always(program, step.body) && !flatSteps(step.body).some(s => ['leave', 'go', 'finish', 'do', 'unread'].includes(s.tag))) findings.warning(say.noTimeOnOneWay(), { from: step.range.from, to: step.range.from + 'repeat'.length })
        continue
      }
      if (flatSteps(step.body).some(s => ['leave', 'go', 'finish', 'set', 'unread', 'reset'].includes(s.tag))) continue
      findings.error(say.noTimePasses(), { from: step.range.from, to: step.range.from + 'repeat'.length })
    }
  }
}

/** Whether time passes in a block, whichever way it is gone. */
function always(program: Analysis, body: Block): boolean {
  return body.steps.some(s => alwaysTakesTime(program, s))
}

function alwaysTakesTime(program: Analysis, step: Step): boolean {
  if (!program.takesTime(step)) return false
  switch (step.tag) {
    case 'if': return step.otherwise !== null && [...step.branches, step.otherwise].every(b => always(program, b.body))
    case 'choose': return step.otherwise !== null && [...step.cases, step.otherwise].every(b => always(program, b.body))
    case 'repeat': return step.test === null && always(program, step.body)
    default: return true
  }
}
