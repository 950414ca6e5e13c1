import type { Analysis } from '../analysis'
import { activeSteps } from '../nodes'
import type { Action, Block, Range, Step } from '../tree'
import { actsOnce } from '../moments'
import { say } from '../wording'
import type { Check } from './index'
import { blocksOf, eachBlock, reaches } from './walk'

/** Motions without an end that something makes useless. */
export const heldMotions: Check = (program, findings) => {
  const seen = new Set<Step>()
  for (const { body, rule } of blocksOf(program)) {
    const stepped = rule === null || rule.body.steps.some(s => program.takesTime(s))
    eachBlock(body, block => {
      const steps = block.steps.filter(s => s.tag === 'unread' || !s.off)
      steps.forEach((step, i) => {
        const next = steps[i + 1]
        const actuator = heldActuator(program, step)
        if (actuator === null || seen.has(step)) return
        if (next !== undefined && movedAtOnce(program, next) === actuator) {
          seen.add(step)
          findings.warning(say.heldReplaced(), step.range)
        }
      })
    })
    if (rule !== null && actsOnce(rule) && !stepped) for (const range of heldIn(program, rule.body)) findings.error(say.heldInOnce(), range)
    if (rule === null || !stepped) continue
    const steps = rule.body.steps.filter(s => s.tag === 'unread' || !s.off)
    const last = steps.at(-1)
    if (last !== undefined && steps.length > 1 && heldActuator(program, last) !== null && movedAtOnce(program, steps[0]!) === heldActuator(program, last)) {
      findings.error(say.heldLast(), last.range)
    }
  }
}

/** Where a live block holds a motion: at the step, or at the `do` of the routine that does. */
function heldIn(program: Analysis, body: Block): Range[] {
  const holds = (step: Step): boolean => heldActuator(program, step) !== null
  return activeSteps(body).filter((step) => {
    const routine = step.tag === 'do' ? program.routineOf(step) : undefined
    return holds(step) || (routine !== undefined && reaches(program, routine.body, holds))
  }).map(step => step.range)
}

/** The actuator that the step goes on moving when it is over; null when it does not. */
function heldActuator(program: Analysis, step: Step): string | null {
  if (step.tag !== 'action' || step.lasting !== null || step.until !== null) return null
  const found = program.planOf(step)
  return found?.plan.timing === 'held' ? found.moves[0] ?? null : null
}

/** The actuator that a step moves in the tick in which it begins. */
function movedAtOnce(program: Analysis, step: Step): string | null {
  return step.tag === 'action' ? program.planOf(step as Action)?.moves[0] ?? null : null
}
