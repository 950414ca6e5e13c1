import { flatSteps, type Analysis } from '../analysis'
import type { Action, Block, Rule, Step } from '../tree'
import { say } from '../wording'
import type { Check } from './index'
import { blocksOf, eachPart } from './walk'

/** Claws and magnets: what is never let go, and what may be dropped on the way. */
export const hands: Check = (program, findings) => {
  const all = [...blocksOf(program)].flatMap(b => stepsOf(program, b.body))
  const close = new Map<string, Action>()
  for (const step of all) {
    const device = grips(step)
    if (device !== null && !close.has(device)) close.set(device, step as Action)
  }
  for (const [device, step] of close) if (!all.some(s => releases(s) === device)) findings.warning(say.neverReleased(device, step.form === 'close'), step.range)
  for (const lane of program.lanes) {
    for (const mode of lane.modes) {
      const rules = [...lane.above, ...mode.rules]
      rules.forEach((rule, i) => {
        const steps = stepsOf(program, rule.body)
        const at = steps.findIndex(s => grips(s) !== null)
        const device = at === -1 ? null : grips(steps[at]!)
        if (device === null || !steps.slice(at + 1).some(s => releases(s) === device)) return
        const cutting = rules.slice(0, i).find(r => senses(r) && !endsAll(r))
        if (cutting !== undefined) findings.warning(say.mayDrop(device, program.line(cutting.range)), steps[at]!.range)
      })
    }
  }
}

/** All steps of a block, those of the routines that it calls in their place. */
function stepsOf(program: Analysis, body: Block, within: ReadonlySet<string> = new Set()): Step[] {
  return flatSteps(body).flatMap((step) => {
    if (step.tag === 'unread' || step.off) return []
    if (step.tag !== 'do' || within.has(step.routine.text)) return [step]
    const routine = program.routines.get(step.routine.text)
    return routine === undefined ? [] : stepsOf(program, routine.body, new Set([...within, step.routine.text]))
  })
}

const word = (step: Action, slot: string): string | null => step.slots.find(s => s.name === slot)?.word ?? null
function grips(step: Step): string | null {
  if (step.tag !== 'action') return null
  if (step.form === 'close') return word(step, 'device')
  return step.form === 'switch' && word(step, 'state') === 'on' ? word(step, 'device') : null
}
function releases(step: Step): string | null {
  if (step.tag !== 'action') return null
  if (step.form === 'open') return word(step, 'device')
  return step.form === 'switch' && word(step, 'state') === 'off' ? word(step, 'device') : null
}

/** Whether a rule's condition hears of the world, not of the program's own memories alone. */
function senses(rule: Rule): boolean {
  let found = false
  if (rule.when !== null) {
    eachPart(rule.when.expression, (e) => {
      const sides = e.tag === 'compare' ? [e.left, e.right] : e.tag === 'between' || e.tag === 'is' ? [e.value] : [e]
      if (sides.some(s => s.tag === 'reading' && s.device.text !== 'run' && s.device.text !== 'mode')) found = true
    })
  }
  return found
}

const endsAll = (rule: Rule): boolean => rule.body.steps.some(s => s.tag === 'finish' && !s.off)
