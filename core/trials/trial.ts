import type { Arena } from '../arena'
import { openRun, type ProjectDocuments, type RunEnd, type Simulation } from '../simulation'
import type { GoalState } from '../task'
import { drawnOf, settingAt, worldFrom, type DialValue, type Job } from './jobs'
import { Margins, type Nearness } from './margins'
import type { TrialPlan } from './plan'
import type { Drawn } from './varied'

/** What all runs of a plan are made of. */
export interface TrialBasis {
  readonly documents: ProjectDocuments
  /** With the values of the plan's dials for each. */
  readonly programs: readonly { readonly name: string, readonly text: string, readonly values: readonly (readonly DialValue[])[] }[]
  readonly plan: TrialPlan
  /** Whether it is told how nearly goals were met. */
  readonly margins?: boolean
}

/** How a trial went. SI. */
export interface Trial {
  /** Of its job. */
  readonly number: number
  readonly ended: RunEnd['ended']
  readonly reason: string
  readonly time: number
  readonly goals: readonly { readonly status: GoalState['status'], readonly at: number | null }[]
  /** Whether it met all goals; without any, whether the program came to its end. */
  readonly met: boolean
  /** Seconds until the last goal was met, or until it finished; null where it did not meet them all. */
  readonly took: number | null
  readonly path: number
  readonly contacts: number
  readonly falls: number
  /** Where it was decided that it would not meet all goals: when the first was lost, or where it ended. null where it met them. */
  readonly lost: Lost | null
  /** How nearly it was, where that was asked for: below zero where it did not meet its goals. */
  readonly margin?: Nearness
}

export interface Lost {
  /** Place of the goal among those of the task; null where none was lost for good before the end. */
  readonly goal: number | null
  readonly time: number
  readonly x: number
  readonly y: number
  /** The line of the rule in control of the first lane then, and its mode; null where none was. */
  readonly line: number | null
  readonly mode: string
  /** For so long it had been within a step of the same place, seconds. */
  readonly stood: number
}

/** Nearer than this is the same place, metres. */
const STEP = 0.12
/** Ticks between two looks at how it goes. */
const LOOK = 5

/** What came of a run, with what it was made of. */
export interface Ran {
  /** Of the whole plan. */
  readonly number: number
  readonly basis: TrialBasis
  /** Of its basis; another than that of the plan where something is looked for. */
  readonly job: number
  /** A string says why it could not be run. */
  readonly answer: Trial | string
}

/** By how much the world of a job's run differs from the arena. */
export const differenceOf = ({ plan }: TrialBasis, { seed, known }: Job): Drawn => known === null ? drawnOf(plan, seed) : plan.cases[known]!.world

/** The inputs of a job's run, to open it anywhere. Nothing but what happened is kept of it, where `keeping` says no more. */
export function inputsOf(basis: TrialBasis, job: Job, arena: Arena) {
  const { documents, programs, plan } = basis
  const { program, realism, setting, seed } = job
  const world = worldFrom(differenceOf(basis, job), arena, seed)
  const { text, values } = programs[program]!
  const dials = Object.fromEntries(settingAt(values, setting).map(d => [d.name, d.text]))
  return { ...documents, program: text, realism, seed, limit: plan.limit, dials, world }
}

/** Does a job. A string says why it could not be done: a start in a wall, a document that cannot be. */
export async function runTrial(basis: TrialBasis, job: Job, arena: Arena): Promise<Trial | string> {
  const opened = await openRun({ ...inputsOf(basis, job, arena), keeping: 'events' })
  if (!opened.ok) return [...opened.problems.map(p => `${p.path}: found ${p.value}; ${p.message}`), ...opened.diagnostics.filter(d => d.severity === 'error').map(d => d.message)].join('; ')
  const { simulation } = opened
  try {
    return follow(simulation, job.number, basis.margins === true)
  } finally {
    simulation.free()
  }
}

function follow(simulation: Simulation, number: number, asked: boolean): Trial {
  const { goals } = simulation
  let lost: Lost | null = null
  let place = simulation.pose()
  let since = 0
  const here = (goal: number | null): Lost => {
    const { x, y } = simulation.pose()
    const { program } = simulation.input
    const [lane] = simulation.lanes()
    const rule = lane === undefined || lane.rule < 0 ? null : program!.rules[lane.rule]!
    return { goal, time: simulation.time, x, y, line: rule?.line ?? null, mode: lane === undefined || lane.mode < 0 ? '' : program!.lanes[0]!.modes[lane.mode]!.name, stood: simulation.time - since }
  }
  const margins = asked ? new Margins(simulation) : null
  let end: RunEnd | null = null
  for (let tick = 1; end === null; tick++) {
    simulation.advance()
    ;({ end } = simulation)
    if (tick % LOOK !== 0 && end === null) continue
    margins?.look()
    const { x, y } = simulation.pose()
    const [dx, dy] = [x - place.x, y - place.y]
    if (Math.sqrt(dx * dx + dy * dy) > STEP) { place = simulation.pose(); since = simulation.time }
    const failed = lost === null ? goals.findIndex(g => g.status === 'failed') : -1
    if (failed !== -1) lost = here(failed)
  }
  const met = goals.length === 0 ? end.ended === 'finished' : goals.every(g => g.status === 'met')
  const took = !met ? null : goals.length === 0 ? end.time : Math.max(0, ...goals.map(g => g.at ?? 0))
  return {
    number, ended: end.ended, reason: end.reason, time: end.time, goals: goals.map(({ status, at }) => ({ status, at })), met, took,
    path: simulation.pathLength, contacts: simulation.contacts, falls: simulation.falls, lost: met ? null : lost ?? here(null), ...margins === null ? {} : { margin: margins.all(end.time, met) },
  }
}
