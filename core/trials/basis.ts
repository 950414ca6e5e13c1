import type { Problem } from '../document'
import { checkProgram, compileProgram, placeOf } from '../language'
import type { ProgramData } from '../program'
import { factsOf } from '../robot'
import { movableIn, readProject, type ProblemIn, type ProjectDocuments, type ProjectParts } from '../simulation'
import { dialValues } from './jobs'
import { MOST_RUNS, runsOf, variationOf, type TrialPlan } from './plan'
import type { TrialBasis } from './trial'

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
  const movable = movableIn(read.value.arena)
  const nowhere = Object.keys(plan.world).flatMap((name): PlanProblem[] => {
    const { thing, what } = variationOf(name)!
    if (thing === null || movable.get(thing) !== undefined && (what !== 'turn' || movable.get(thing)!.turns)) return []
    return [{ document: 'plan', path: `world.${name}`, value: thing, message: movable.has(thing) ? 'this does not turn' : `the arena has nothing of this name that can be moved; it has ${[...movable.keys()].join(', ') || 'none'}` }]
  })
  if (nowhere.length > 0) return { ok: false, problems: nowhere }
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
  if (problems.length > 0) return { ok: false, problems }
  return { ok: true, value: { basis: { documents, programs, plan }, parts: read.value, compiled } }
}
