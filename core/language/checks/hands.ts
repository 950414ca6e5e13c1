import type { Analysis } from '../analysis'
import { activeSteps } from '../nodes'
import type { Action, Block, Routine, Rule, Step } from '../tree'
import { say } from '../wording'
import type { Check } from './index'
import { blocksOf, eachPart } from './walk'

/** Claws and magnets: what is never let go, and what may be dropped on the way. */
export const hands: Check = (program, findings) => {
  const routines: Known = new Map()
  const all = blocksOf(program).flatMap(b => handStepsOf(program, b.body, routines))
  const close = new Map<string, Action>()
  for (const step of all) {
    const device = grips(step)
    if (device !== null && !close.has(device)) close.set(device, step as Action)
  }
  for (const [device, step] of close) if (!all.some(s => releases(s) === device)) findings.warning(say.neverReleased(device, step.form === 'close'), step.range)
  /** Whether a rule lets go itself, or goes to a mode that begins with it. */
  const letsGo = (rule: Rule, device: string): boolean => handStepsOf(program, rule.body, routines).some(s => releases(s) === device)
    || activeSteps(rule.body).some(s => s.tag === 'go' && program.lanes.some(l => l.modes.some(m => m.name === s.mode.text && m.start !== null && handStepsOf(program, m.start.body, routines).some(x => releases(x) === device))))
  for (const { body } of blocksOf(program)) mayKeep(program, body, routines, findings)
  for (const lane of program.lanes) {
    for (const mode of lane.modes) {
      const rules = [...lane.above, ...mode.rules]
      rules.forEach((rule, i) => {
        const steps = handStepsOf(program, rule.body, routines)
        const at = steps.findIndex(s => grips(s) !== null)
        const device = at === -1 ? null : grips(steps[at]!)
        if (device === null || !steps.slice(at + 1).some(s => releases(s) === device)) return
        const cutting = rules.slice(0, i).find(r => senses(r) && !endsAll(r) && !letsGo(r, device))
        if (cutting !== undefined) findings.warning(say.mayDrop(device, program.line(cutting.range)), steps[at]!.range)
      })
    }
  }
}

/** A block that grips and lets go on some of its ways only: on the others it goes on with what it holds. */
function mayKeep(program: Analysis, body: Block, routines: Known, findings: Parameters<Check>[1]): void {
  body.steps.forEach((step, i) => {
    const device = step.tag !== 'unread' && step.off ? null : grips(step)
    if (device === null) return
    const after = { ...body, steps: body.steps.slice(i + 1) }
    const lets = handStepsOf(program, after, routines).some(s => releases(s) === device)
    // What is asked is whether it holds: that way needs no letting go.
    const asks = activeSteps(after).some(s => s.tag === 'if' && s.branches.some(b => b.condition !== null && program.text.slice(b.range.from, b.range.to).includes(`${device}.holding`)))
    if (lets && !asks && !always(program, after, device, routines)) findings.hint(say.mayKeep(device), step.range)
  })
}

/** Whether a block lets go on each of its ways, or ends otherwise: in another mode, or with the run. */
function always(program: Analysis, body: Block, device: string, routines: Known): boolean {
  return body.steps.some((step) => {
    if (step.tag === 'unread' || step.off) return false
    switch (step.tag) {
      case 'if': return step.otherwise !== null && [...step.branches, step.otherwise].every(b => always(program, b.body, device, routines))
      case 'choose': return step.otherwise !== null && [...step.cases.map(c => c.body), step.otherwise.body].every(b => always(program, b, device, routines))
      case 'repeat': return always(program, step.body, device, routines)
      case 'go':
      case 'finish': return true
      case 'do': {
        const routine = program.routineOf(step)
        return routine !== undefined && handStepsOf(program, routine.body, routines).some(s => releases(s) === device)
      }
      default: return releases(step) === device
    }
  })
}

/** The gripping and releasing steps of each routine. */
type Known = Map<Routine, readonly Step[]>

/** The steps of a block that grip or release, in order, those of the routines that it does in their place; of what comes again and again, the first and the last. */
function handStepsOf(program: Analysis, body: Block, known: Known): readonly Step[] {
  const all = activeSteps(body).flatMap((step): readonly Step[] => {
    if (step.tag !== 'do') return grips(step) !== null || releases(step) !== null ? [step] : []
    const routine = program.routineOf(step)
    if (routine === undefined) return []
    let steps = known.get(routine)
    if (steps === undefined) {
      known.set(routine, [])
      steps = handStepsOf(program, routine.body, known)
      known.set(routine, steps)
    }
    return steps
  })
  return all.filter((step, i) => all.indexOf(step) === i || all.lastIndexOf(step) === i)
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
