import type { Analysis } from '../analysis'
import type { Action, Step } from '../tree'
import { say } from '../wording'
import type { Check } from './index'
import { blocksOf, eachBlock } from './walk'

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
        if (rule !== null && isOnce(rule) && !stepped) findings.error(say.heldInOnce(), step.range)
      })
    })
    if (rule === null || !stepped) continue
    const steps = rule.body.steps.filter(s => s.tag === 'unread' || !s.off)
    const last = steps.at(-1)
    if (last !== undefined && steps.length > 1 && heldActuator(program, last) !== null && movedAtOnce(program, steps[0]!) === heldActuator(program, last)) {
      findings.error(say.heldLast(), last.range)
    }
  }
}

function isOnce(rule: { readonly once: boolean }): boolean {
  return rule.once
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
