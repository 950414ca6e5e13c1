import type { RealismName } from '../devices'
import { checkProgram, compileProgram, type Analysis, type Diagnostic } from '../language'
import { loadPhysics } from '../physics'
import { factsOf } from '../robot'
import type { Keeping } from '../tape'
import { DEFAULT_LIMIT } from '../task'
import { readProject, type ProblemIn, type ProjectDocuments, type ProjectParts } from './project'
import { Simulation } from './simulation'
import { readPokes, type TimedPoke } from './pokes'
import { readDials, readVariation, variedArena, type RunSettings } from './settings'
import { startProblem } from './start'

/** All that a run is made of: the same inputs give the same run everywhere. Documents as they came in, the program as text. */
export interface RunInputs extends ProjectDocuments, RunSettings {
  readonly program: string
  readonly realism: RealismName
  readonly seed: number
  /** Seconds after which it ends; null: as the task says, else the usual. */
  readonly limit: number | null
  /** What hands do in it, in the order of its ticks. */
  readonly pokes?: readonly TimedPoke[]
  /** What is recorded; everything where it is left out. */
  readonly keeping?: Keeping
}

export interface OpenedRun {
  readonly ok: true
  readonly simulation: Simulation
  readonly analysis: Analysis
  readonly parts: ProjectParts
}
/** Why a run cannot be: what is wrong with its documents or its start, or its program's diagnostics. */
export interface RefusedRun { readonly ok: false, readonly problems: readonly ProblemIn[], readonly diagnostics: readonly Diagnostic[] }

/** Reads, checks, compiles and loads: a simulation before its first tick. A program without a rule or start leaves the robot to sense. */
export async function openRun(inputs: RunInputs): Promise<OpenedRun | RefusedRun> {
  const read = readProject(inputs)
  if (!read.ok) return { ok: false, problems: read.problems, diagnostics: [] }
  const world = readVariation(inputs.world)
  if (!world.ok) return { ok: false, problems: world.problems.map(p => ({ ...p, path: `world.${p.path}`, document: 'run' })), diagnostics: [] }
  const pokes = readPokes(inputs.pokes ?? [])
  if (!pokes.ok) return { ok: false, problems: pokes.problems.map(p => ({ ...p, document: 'run' })), diagnostics: [] }
  const parts = { ...read.value, arena: variedArena(read.value.arena, world.value) }
  const { runs, diagnostics, analysis } = checkProgram(inputs.program, factsOf(parts.robot))
  if (!runs) return { ok: false, problems: [], diagnostics }
  await loadPhysics()
  const program = analysis.lanes.length === 0 ? null : compileProgram(analysis)
  const dials = readDials(inputs.dials ?? {}, program)
  if (!dials.ok) return { ok: false, problems: dials.problems.map(p => ({ ...p, document: 'run' })), diagnostics: [] }
  const simulation = new Simulation({ program, ...parts, realism: inputs.realism, seed: inputs.seed, limit: inputs.limit ?? parts.task?.limit ?? DEFAULT_LIMIT, pokes: pokes.value, keeping: inputs.keeping ?? 'all' })
  for (const [name, value] of dials.value) simulation.setDial(name, value)
  const wrong = startProblem(simulation)
  if (wrong === null) return { ok: true, simulation, analysis, parts }
  simulation.free()
  return { ok: false, problems: [wrong], diagnostics: [] }
}
