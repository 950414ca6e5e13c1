import type { RobotFacts } from '../robot'
import { Declared, type DeclaredDial, type DeclaredLet, type DeclaredMemory, type LetFunction, type Uses } from './declared'
import { LineIndex, type Findings } from './diagnostics'
import { lanesOf, withoutOffModes, type LaneShape } from './lanes'
import { flatSteps } from './nodes'
import { StepAnalyser, type PlannedStep } from './step-analysis'
import type { Action, Do, Expression, Keep, Program, Range, Routine, Step } from './tree'
import type { Entry, Scope, Type } from './types'

/** What the task asks of a program. */
export interface Asked {
  /** It must end the run itself. */
  readonly finish: boolean
}

/** A program whose names and kinds are known. What checks and the compiler work on. */
export interface Analysis {
  readonly text: string
  readonly tree: Program
  readonly facts: RobotFacts
  readonly asked: Asked
  readonly lanes: readonly LaneShape[]
  readonly dials: ReadonlyMap<string, DeclaredDial>
  readonly memories: ReadonlyMap<string, DeclaredMemory>
  /** Named values, in the order of the text. */
  readonly lets: ReadonlyMap<string, DeclaredLet>
  readonly functions: ReadonlyMap<string, LetFunction>
  /** Every routine as it is done: one that is given devices is there once for each. */
  readonly routines: readonly Routine[]
  readonly uses: Readonly<Uses>
  line(range: Range): number
  /** What names mean in a block that has these of its own. */
  scope(locals: ReadonlyMap<string, Entry>): Scope
  /** How an action's step behaves; undefined when it was wrong. */
  planOf(step: Action): PlannedStep | undefined
  /** The routine that a step does, with the devices that it gives; undefined when there is none. */
  routineOf(step: Do): Routine | undefined
  /** What a step gives a routine for its parameters, but for devices. */
  valuesOf(step: Do): readonly Expression[]
  /** What a routine's own memory is. */
  keepOf(step: Keep): Entry
  /** The types of a routine's parameters. */
  typesOf(routine: Routine): readonly Type[]
  /** Whether a step can let time pass. */
  takesTime(step: Step): boolean
  /** Whether nothing after the step is ever reached in its block. */
  neverEnds(step: Step): boolean
}

/** Gives names and kinds their meaning, and says what is wrong with them. */
export function analyse(text: string, tree: Program, facts: RobotFacts, findings: Findings, asked: Asked): Analysis {
  const lines = new LineIndex(text)
  const line = (range: Range): number => lines.placeOf(range.from).line
  const declared = new Declared(tree, facts, findings, line)
  declared.read()
  const { all, offModes, parked } = lanesOf(tree, { findings, line, name: (name, what) => declared.name(name, what) })
  const byLane = new Map(all.map(lane => [lane.name, new Set(lane.modes.filter(m => m.node !== null).map(m => m.name))]))
  const steps = new StepAnalyser(facts, declared, { byLane, off: offModes }, findings)
  // What is switched off comes last: it takes no routine from those that use it.
  const lanes = all.filter(l => !l.off).map(withoutOffModes)
  for (const lane of [...lanes, ...all.filter(l => l.off)]) readLane(steps, lane)
  for (const lane of all.filter(l => !l.off)) {
    const modes = lane.modes.filter(m => m.node?.off === true)
    if (modes.length > 0) readLane(steps, { ...lane, start: null, above: [], modes })
  }
  for (const { lane, rule } of parked) {
    steps.lane = lane
    steps.rule(rule)
  }
  steps.unused()
  declared.finish()
  return {
    text, tree, facts, asked, lanes, line,
    dials: declared.dials, memories: declared.memories, lets: declared.lets, functions: declared.functions, uses: declared.uses,
    routines: steps.routines.all,
    scope: locals => declared.scope(locals),
    planOf: step => steps.planOf(step),
    routineOf: step => steps.routines.of(step),
    valuesOf: step => steps.routines.valuesOf(step),
    keepOf: step => steps.keepOf(step),
    typesOf: routine => steps.routines.typesOf(routine),
    takesTime: step => steps.takesTime(step),
    neverEnds,
  }
}

function readLane(steps: StepAnalyser, lane: LaneShape): void {
  steps.lane = lane.name
  if (lane.start !== null) steps.body(lane.start.body)
  for (const rule of lane.above) steps.rule(rule)
  for (const mode of lane.modes) {
    if (mode.start !== null) steps.body(mode.start.body)
    for (const rule of mode.rules) steps.rule(rule)
  }
}

/** Whether the block can never be left by its end. */
function neverEnds(step: Step): boolean {
  if (step.tag === 'unread' || step.off) return false
  if (step.tag === 'go' || step.tag === 'finish' || step.tag === 'leave') return true
  if (step.tag === 'repeat') return step.times === null && step.test === null && step.each === null && !flatSteps(step.body, s => s.tag !== 'repeat').some(s => s.tag === 'leave' && !s.off)
  return false
}
