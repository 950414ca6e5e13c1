import { activeSteps, numberOf, type Analysis } from '../analysis'
import type { Block, Expression, Reading, Rule, Step } from '../tree'

/** Every block of steps that a program can run, with the rule it belongs to (null for start and routines). */
export function* blocksOf(program: Analysis): Generator<{ readonly body: Block, readonly rule: Rule | null, readonly lane: string }> {
  for (const lane of program.lanes) {
    if (lane.start !== null) yield { body: lane.start.body, rule: null, lane: lane.name }
    for (const rule of lane.above) yield { body: rule.body, rule, lane: lane.name }
    for (const mode of lane.modes) {
      if (mode.start !== null) yield { body: mode.start.body, rule: null, lane: lane.name }
      for (const rule of mode.rules) yield { body: rule.body, rule, lane: lane.name }
    }
  }
}

/** Calls with each block and each block within it. */
export function eachBlock(body: Block, visit: (body: Block) => void): void {
  visit(body)
  for (const step of body.steps) for (const inner of innerBlocks(step)) eachBlock(inner, visit)
}

export function innerBlocks(step: Step): readonly Block[] {
  switch (step.tag) {
    case 'if': return [...step.branches.map(b => b.body), ...(step.otherwise === null ? [] : [step.otherwise.body])]
    case 'choose': return [...step.cases.map(c => c.body), ...(step.otherwise === null ? [] : [step.otherwise.body])]
    case 'repeat': return [step.body]
    default: return []
  }
}

/** Every condition and test of a program, with what is asked only once at a time: those of rules, steps and loops. */
export function conditionsOf(program: Analysis): readonly Expression[] {
  const bodies = [...[...blocksOf(program)].map(b => b.body), ...[...program.routines.values()].map(r => r.body)]
  const rules = [...blocksOf(program)].flatMap(b => b.rule === null ? [] : [b.rule.when, b.rule.until]).flatMap(c => c === null ? [] : [c.expression])
  return [...rules, ...bodies.flatMap(activeSteps).flatMap((step): readonly Expression[] => {
    switch (step.tag) {
      case 'if': return step.branches.flatMap(b => b.condition === null ? [] : [b.condition])
      case 'repeat': return step.test === null ? [] : [step.test.condition]
      case 'waitUntil': return [step.condition.expression]
      case 'action': return step.until === null ? [] : [step.until.expression]
      default: return []
    }
  })]
}

/** Whether a block has a step that is asked for, itself or in the routines that it does; each routine is gone through once. */
export function reaches(program: Analysis, body: Block, wanted: (step: Exclude<Step, { tag: 'unread' }>) => boolean, seen = new Set<string>()): boolean {
  return activeSteps(body).some((step) => {
    if (wanted(step)) return true
    if (step.tag !== 'do' || seen.has(step.routine.text)) return false
    seen.add(step.routine.text)
    const routine = program.routines.get(step.routine.text)
    return routine !== undefined && reaches(program, routine.body, wanted, seen)
  })
}

/** Every reading that an expression uses. */
export function readingsIn(e: Expression): readonly Reading[] {
  const inner = Object.values(e).flatMap((part: unknown): Expression[] => {
    const list = Array.isArray(part) ? part as unknown[] : [part]
    return list.filter((x): x is Expression => typeof x === 'object' && x !== null && 'tag' in x)
  })
  return [...(e.tag === 'reading' ? [e] : []), ...inner.flatMap(readingsIn)]
}

/** The values and tests that a step works out as it begins. */
export function askedBy(step: Step): readonly Expression[] {
  switch (step.tag) {
    case 'if': return step.branches.flatMap(b => b.condition === null ? [] : [b.condition])
    case 'choose': return [step.value]
    case 'set': return [step.value]
    case 'note': return [step.text]
    case 'do': return step.given
    case 'action': return step.slots.flatMap(s => s.value === null ? [] : [s.value])
    default: return []
  }
}

/** Calls with each comparison of an expression. */
export function eachPart(e: Expression, visit: (e: Expression) => void): void {
  visit(e)
  switch (e.tag) {
    case 'logic': e.operands.forEach(o => eachPart(o, visit)); return
    case 'not': eachPart(e.of, visit); return
    case 'bracket': eachPart(e.inner, visit); return
    default: return
  }
}

/** What a value is before the program runs, in SI: a number, or a dial as it is written. null for anything else. */
export function fixedValue(program: Analysis, e: Expression): number | null {
  if (e.tag !== 'name') return numberOf(e)
  const dial = program.dials.get(e.name)
  return dial === undefined ? null : numberOf(dial.node.value)
}
