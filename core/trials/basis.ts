import type { Problem } from '../document'
import { checkProgram, compileProgram, placeOf } from '../language'
import type { ProgramData } from '../program'
import { factsOf } from '../robot'
import { notMeasured, readProject, unmovable, type ProblemIn, type ProjectDocuments, type ProjectParts } from '../simulation'
import { dialValues } from './jobs'
import { LEAST_RUNS } from './search'
import { MOST_RUNS, runsOf, type TrialPlan } from './plan'
import type { TrialBasis } from './trial'
import { variationOf } from './varied'

/** The most programs that a plan compares. */
export const MOST_PROGRAMS = 12

/** A plan with all that it is tried on, checked. */
export interface CheckedPlan {
  readonly basis: TrialBasis
  readonly parts: ProjectParts
  /** Its programs as they run; null for one without a rule. */
  readonly compiled: readonly (ProgramData | null)[]
}

/** What is wrong with a plan, its documents or its programs. Of a program, the path is its name, line and column; of a dial, its name. */
export type PlanProblem = Problem & { readonly document: ProblemIn['document'] | 'program' | 'plan' }

/** Checks all that a plan's runs are made of before the first of them. */
export function readBasis(documents: ProjectDocuments, given: readonly { readonly name: string, readonly text: string }[], plan: TrialPlan): { readonly ok: true, readonly value: CheckedPlan } | { readonly ok: false, readonly problems: readonly PlanProblem[] } {
  const read = readProject(documents)
  if (!read.ok) return read
  if (given.length === 0 || given.length > MOST_PROGRAMS) return { ok: false, problems: [{ document: 'plan', path: 'programs', value: String(given.length), message: `allowed are 1 to ${MOST_PROGRAMS} programs` }] }
  const runs = runsOf(plan, given.length)
  if (runs > MOST_RUNS) return { ok: false, problems: [{ document: 'plan', path: 'seeds', value: JSON.stringify(plan.seeds), message: `with its programs, dials and realisms this plan has ${runs} runs; allowed are up to ${MOST_RUNS}` }] }
  const { arena } = read.value
  const missing = (world: object, path: string): readonly PlanProblem[] => Object.keys(world).flatMap((name): PlanProblem[] => {
    const { thing, what } = variationOf(name)!
    const message = thing === null ? null : unmovable(arena, thing, what === 'turn')
    return message === null ? [] : [{ document: 'plan', path: `${path}.${name}`, value: thing!, message }]
  })
  const nowhere = [...missing(plan.world, 'world'), ...plan.cases.flatMap(({ world }, i) => missing(world, `cases[${i}].world`))]
  if (nowhere.length > 0) return { ok: false, problems: nowhere }
  if (plan.realisms.includes('measured') && read.value.robot.measured === null) return { ok: false, problems: [{ document: 'plan', path: 'realisms', value: 'measured', message: notMeasured(read.value.robot.name) }] }
  const facts = factsOf(read.value.robot)
  const problems: PlanProblem[] = []
  const compiled: (ProgramData | null)[] = []
  const programs = given.map(({ name, text }) => {
    const { runs, analysis, diagnostics } = checkProgram(text, facts)
    const program = runs && analysis.lanes.length > 0 ? compileProgram(analysis) : null
    compiled.push(program)
    if (!runs) {
      for (const { range, message } of diagnostics.filter(d => d.severity === 'error')) {
        const { line, column } = placeOf(text, range.from)
        problems.push({ document: 'program', path: `${name}:${line}:${column}`, value: text.slice(range.from, range.to).split('\n')[0]!, message })
      }
    }
    const values = dialValues(plan, program)
    if (!values.ok && runs) problems.push(...values.problems.map(p => ({ ...p, document: 'plan' as const })))
    return { name, text, values: values.ok ? values.value : [] }
  })
  if (problems.length === 0) problems.push(...searchProblems(plan, compiled))
  if (problems.length > 0) return { ok: false, problems }
  return { ok: true, value: { basis: { documents, programs, plan }, parts: read.value, compiled } }
}

/** Why nothing can be looked for as a plan says it. */
function searchProblems({ search, realisms, dials, world }: TrialPlan, programs: readonly (ProgramData | null)[]): readonly PlanProblem[] {
  if (search === null) return []
  const problem = (path: string, value: string, message: string): PlanProblem => ({ document: 'plan', path, value, message })
  const least = LEAST_RUNS[search.for]
  const varied = Object.keys(world)
  return [
    ...search.runs < least ? [problem('search.runs', String(search.runs), `allowed is ${least} or more: fewer find nothing that can be told`)] : [],
    ...programs.length !== 1 ? [problem('programs', String(programs.length), 'a search is for one program')] : [],
    ...realisms.length !== 1 ? [problem('realisms', realisms.join(', '), 'a search is in one realism')] : [],
    ...search.for === 'values'
      ? [...dials.length === 0 ? [problem('dials', 'none', 'good values are looked for of one dial or more')] : [], ...programs[0] === null ? [problem('programs', 'no rule', 'this program has no rule')] : []]
      : [...dials.length > 0 ? [problem('dials', dials.map(d => d.name).join(', '), 'where it fails is looked for with the dials as they are written')] : [], ...varied.length === 0 ? [problem('world', 'nothing', 'something of the world varies where it may fail')] : []],
  ]
}
