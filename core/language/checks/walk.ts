import type { Analysis } from '../analysis'
import { numberOf } from '../constants'
import { activeSteps, bodiesOf, conditionsIn, expressionsIn } from '../nodes'
import type { Block, Expression, Reading, Rule, Step } from '../tree'

interface RunBlock { readonly body: Block, readonly rule: Rule | null, readonly lane: string }

/** What was found in an analysis, as long as it lives: it never changes, and most checks ask for it. */
const BLOCKS = new WeakMap<Analysis, readonly RunBlock[]>()
const BODIES = new WeakMap<Analysis, readonly Block[]>()
const CONDITIONS = new WeakMap<Analysis, readonly Expression[]>()

function found<T>(known: WeakMap<Analysis, readonly T[]>, program: Analysis, find: () => readonly T[]): readonly T[] {
  let all = known.get(program)
  if (all === undefined) known.set(program, all = find())
  return all
}

/** Every block of steps that a program can run, with the rule it belongs to (null for start and routines). */
export const blocksOf = (program: Analysis): readonly RunBlock[] => found(BLOCKS, program, () => [...blocks(program)])

function* blocks(program: Analysis): Generator<RunBlock> {
  for (const lane of program.lanes) {
    if (lane.start !== null) yield { body: lane.start.body, rule: null, lane: lane.name }
    for (const rule of lane.above) yield { body: rule.body, rule, lane: lane.name }
    for (const mode of lane.modes) {
      if (mode.start !== null) yield { body: mode.start.body, rule: null, lane: lane.name }
      for (const rule of mode.rules) yield { body: rule.body, rule, lane: lane.name }
    }
  }
}

const SHARED = new WeakMap<Analysis['facts'], ReadonlySet<string>>()
/** The actuators of a robot that any lane may speak to. */
export function sharedActuators({ facts }: Analysis): ReadonlySet<string> {
  let shared = SHARED.get(facts)
  if (shared === undefined) SHARED.set(facts, shared = new Set(facts.actuators.filter(a => a.shared).map(a => a.name)))
  return shared
}

/** The steps of every block that a program can run, those of its routines among them. */
export const allBodies = (program: Analysis): readonly Block[] => found(BODIES, program, () => [...blocksOf(program).map(b => b.body), ...program.routines.map(r => r.body)])

/** Calls with each block and each block within it. */
export function eachBlock(body: Block, visit: (body: Block) => void): void {
  visit(body)
  for (const step of body.steps) if (step.tag !== 'unread') for (const inner of bodiesOf(step)) eachBlock(inner.body, visit)
}

/** Every condition and test of a program, with what is asked only once at a time: those of rules, steps and loops. */
export const conditionsOf = (program: Analysis): readonly Expression[] => found(CONDITIONS, program, () => {
  const rules = blocksOf(program).flatMap(b => b.rule === null ? [] : [b.rule.when, b.rule.until]).flatMap(c => c === null ? [] : [c.expression])
  return [...rules, ...allBodies(program).flatMap(activeSteps).flatMap(conditionsIn)]
})

/** Whether a block has a step that is asked for, itself or in the routines that it does; each routine is gone through once. */
export function reaches(program: Analysis, body: Block, wanted: (step: Exclude<Step, { tag: 'unread' }>) => boolean, seen = new Set<string>()): boolean {
  return activeSteps(body).some((step) => {
    if (wanted(step)) return true
    if (step.tag !== 'do' || seen.has(step.routine.text)) return false
    seen.add(step.routine.text)
    const routine = program.routineOf(step)
    return routine !== undefined && reaches(program, routine.body, wanted, seen)
  })
}

/** Every reading that an expression uses. */
export function readingsIn(e: Expression): readonly Reading[] {
  return [...expressionsIn(e)].filter(part => part.tag === 'reading')
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
