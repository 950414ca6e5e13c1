import type { Analysis } from '../analysis'
import { activeSteps } from '../nodes'
import type { Expression, Rule } from '../tree'
import { isMoment } from '../moments'
import { say } from '../wording'
import type { Check } from './index'
import { blocksOf, eachPart, sharedActuators } from './walk'

/** Habits that go wrong on a robot: always the same turn, a rule that blocks for nothing, one that cuts itself off. */
export const habits: Check = (program, findings) => {
  sameTurn(program, findings)
  for (const lane of program.lanes) {
    for (const mode of lane.modes) {
      const rules = [...lane.above, ...mode.rules]
      rules.forEach((rule, i) => cutsItself(program, rule, rules.slice(0, i), findings))
      let movesBelow = false
      for (const rule of rules.toReversed()) {
        if (movesBelow) blocksForNothing(program, rule, findings)
        movesBelow ||= moves(program, rule)
      }
    }
  }
}

/** Every reaction to something near turns the same way by the same angle: corners catch it. */
function sameTurn(program: Analysis, findings: Parameters<Check>[1]): void {
  const turns: { side: string, range: { from: number, to: number } }[] = []
  let varied = false
  let wanders = false
  for (const { rule } of blocksOf(program)) {
    if (rule === null) continue
    if (rule.when === null) wanders ||= activeSteps(rule.body).some(s => s.tag === 'action' && s.form === 'drive')
    for (const step of activeSteps(rule.body)) {
      if (step.tag === 'local' && step.value.tag === 'random') varied = true
      if (step.tag !== 'action') continue
      if (step.slots.some(s => s.value?.tag === 'random')) varied = true
      if (step.form !== 'turn' || program.planOf(step)?.plan.timing !== 'timed' || rule.when === null || !meets(rule.when.expression)) continue
      turns.push({ side: step.slots.find(s => s.name === 'side')?.word ?? '', range: step.range })
    }
  }
  const [first] = turns
  if (first === undefined || varied || !wanders || turns.some(t => t.side !== first.side)) return
  findings.hint(say.sameTurn(first.side), first.range)
}

/** Whether a condition is of something near or touched. */
function meets(e: Expression): boolean {
  let found = false
  eachPart(e, (part) => {
    if (part.tag === 'compare' && part.operator.startsWith('<') && part.left.tag === 'reading' && part.left.reading.text === 'distance') found = true
    if (part.tag === 'reading' && part.reading.text === 'pressed') found = true
  })
  return found
}

/** A live rule that moves nothing stands above one that moves: while it holds, the robot stands. */
function blocksForNothing(program: Analysis, rule: Rule, findings: Parameters<Check>[1]): void {
  if (rule.when === null || rule.once || rule.body.steps.some(s => program.takesTime(s))) return
  const steps = activeSteps(rule.body)
  if (steps.length === 0 || moves(program, rule) || steps.some(s => s.tag === 'go' || s.tag === 'finish') || isMoment(rule.when.expression)) return
  findings.hint(say.blocksForNothing(), rule.when.range)
}

/** Whether a rule commands what belongs to one lane alone, itself or, for all that is known here, in a routine. */
function moves(program: Analysis, rule: Rule): boolean {
  const shared = sharedActuators(program)
  return activeSteps(rule.body).some(s => s.tag === 'do' || (s.tag === 'action' && (program.planOf(s)?.moves ?? []).some(a => !shared.has(a))))
}

/** A step sets a memory that a rule above waits for, with steps still to come: those are dropped. */
function cutsItself(program: Analysis, rule: Rule, above: readonly Rule[], findings: Parameters<Check>[1]): void {
  const steps = rule.body.steps.filter(s => s.tag === 'unread' || !s.off)
  steps.forEach((step, i) => {
    if (step.tag !== 'set' || !steps.slice(i + 1).some(s => program.takesTime(s))) return
    const name = step.name.text
    const cutting = above.find(r => r.when !== null && names(r.when.expression).has(name))
    if (cutting !== undefined) findings.warning(say.cutsItself(name, program.line(cutting.range)), step.range)
  })
}

function names(e: Expression): Set<string> {
  const found = new Set<string>()
  eachPart(e, (part) => {
    const sides = part.tag === 'compare' ? [part.left, part.right] : part.tag === 'between' || part.tag === 'is' ? [part.value] : [part]
    for (const side of sides) if (side.tag === 'name') found.add(side.name)
  })
  return found
}
