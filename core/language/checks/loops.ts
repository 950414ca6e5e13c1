import { flatSteps } from '../analysis'
import { say } from '../wording'
import type { Check } from './index'
import { blocksOf } from './walk'

/** A `repeat` for ever in which nothing takes time. */
export const loopsWithoutTime: Check = (program, findings) => {
  const bodies = [...blocksOf(program)].map(b => b.body)
  for (const routine of program.routines.values()) bodies.push(routine.body)
  for (const body of bodies) {
    for (const step of flatSteps(body)) {
      if (step.tag !== 'repeat' || step.off || step.times !== null) continue
      if (step.body.steps.some(s => program.takesTime(s))) continue
      if (flatSteps(step.body).some(s => ['leave', 'go', 'finish', 'set', 'unread', 'reset'].includes(s.tag))) continue
      findings.error(say.noTimePasses(), { from: step.range.from, to: step.range.from + 'repeat'.length })
    }
  }
}
