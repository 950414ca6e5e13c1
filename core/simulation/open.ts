import { REALISMS, type RealismName, type RunRealism } from '../devices'
import type { ProgramData } from '../program'
import type { Carried } from '../vm'
import { checkProgram, compileProgram, type Analysis, type Diagnostic } from '../language'
import { loadPhysics } from '../physics'
import { factsOf, measuredRobot, type Robot } from '../robot'
import type { Keeping } from '../tape'
import { DEFAULT_LIMIT } from '../task'
import { readProject, type ProblemIn, type ProjectDocuments, type ProjectParts } from './project'
import { Simulation, type SimulationSnapshot } from './simulation'
import { readWire } from './wire'
import { readPokes, type TimedPoke } from './pokes'
import { readDials, readVariation, variedArena, variedRobot, type RunSettings } from './settings'
import { startProblem } from './start'

/** All that a run is made of: the same inputs give the same run everywhere. Documents as they came in, the program as text. */
export interface RunInputs extends ProjectDocuments, RunSettings {
  readonly program: string
  /** `measured`: the robot errs as its document says that it was measured, and in nothing else. */
  readonly realism: RunRealism
  readonly seed: number
  /** Seconds after which it ends; null: as the task says, else the usual. */
  readonly limit: number | null
  /** What hands do in it, in the order of its ticks. */
  readonly pokes?: readonly TimedPoke[]
  /** What is recorded; everything where it is left out. */
  readonly keeping?: Keeping
  /** The run that it goes on from, at an instant of it; null for one that begins at the start. */
  readonly from?: Origin | null
}

/** What a run goes on from: a run in the same robot, arena, task, realism, seed, world and limit, as far as it had come. */
export interface Origin extends RunSettings {
  readonly program: string
  readonly pokes: readonly TimedPoke[]
  /** How many ticks of it were run. */
  readonly ticks: number
  /** The fingerprint that it had then. */
  readonly fingerprint: string
  readonly from: Origin | null
}

/** The state that an origin leads to, where somebody has it at hand: it need not be run again. */
export interface Known { readonly program: ProgramData | null, readonly state: SimulationSnapshot }

export interface OpenedRun {
  readonly ok: true
  readonly simulation: Simulation
  readonly analysis: Analysis
  readonly parts: ProjectParts
  /** Of a run that goes on from another with another program: what of its state goes on, and what begins anew. */
  readonly carried: readonly Carried[]
}
/** Why a run cannot be: what is wrong with its documents or its start, or its program's diagnostics. */
export interface RefusedRun { readonly ok: false, readonly problems: readonly ProblemIn[], readonly diagnostics: readonly Diagnostic[] }

/** Reads, checks, compiles and loads: a simulation before its first tick. A program without a rule or start leaves the robot to sense. */
export async function openRun(inputs: RunInputs, known: Known | null = null): Promise<OpenedRun | RefusedRun> {
  const read = readProject(inputs)
  if (!read.ok) return { ok: false, problems: read.problems, diagnostics: [] }
  const world = readVariation(inputs.world, read.value.arena)
  if (!world.ok) return { ok: false, problems: world.problems.map(p => ({ ...p, path: `world.${p.path}`, document: 'run' })), diagnostics: [] }
  const pokes = readPokes(inputs.pokes ?? [])
  if (!pokes.ok) return { ok: false, problems: pokes.problems.map(p => ({ ...p, document: 'run' })), diagnostics: [] }
  const asked = inRealism(read.value.robot, inputs.realism)
  if (asked === null) return { ok: false, problems: [{ document: 'run', path: 'realism', value: 'measured', message: notMeasured(read.value.robot.name) }], diagnostics: [] }
  const parts = { ...read.value, robot: variedRobot(asked.robot, world.value), arena: variedArena(read.value.arena, world.value) }
  const { runs, diagnostics, analysis } = checkProgram(inputs.program, factsOf(parts.robot))
  if (!runs) return { ok: false, problems: [], diagnostics }
  await loadPhysics()
  const program = analysis.lanes.length === 0 ? null : compileProgram(analysis)
  const dials = readDials(inputs.dials ?? {}, program)
  if (!dials.ok) return { ok: false, problems: dials.problems.map(p => ({ ...p, document: 'run' })), diagnostics: [] }
  const heard = readWire(inputs.wire, factsOf(parts.robot))
  if (!heard.ok) return { ok: false, problems: heard.problems.map(p => ({ ...p, document: 'run' })), diagnostics: [] }
  const simulation = new Simulation({ program, ...parts, realism: asked.realism, called: inputs.realism, seed: inputs.seed, limit: inputs.limit ?? parts.task?.limit ?? DEFAULT_LIMIT, pokes: pokes.value, keeping: inputs.keeping ?? 'all', heard: heard.value })
  const wrong = startProblem(simulation)
  if (wrong !== null) {
    simulation.free()
    return { ok: false, problems: [wrong], diagnostics: [] }
  }
  let carried: readonly Carried[] = []
  if (inputs.from != null) {
    const at = known === null ? await stateOf(inputs, inputs.from) : { ok: true as const, ...known }
    if (!at.ok) {
      simulation.free()
      return at
    }
    carried = simulation.goOn(at.program, at.state)
  }
  for (const [name, value] of dials.value) simulation.setDial(name, value)
  return { ok: true, simulation, analysis, parts, carried }
}

/** Why a robot cannot be run as it was measured. */
export const notMeasured = (robot: string): string => `${robot} was not measured: its document has no "measured"; allowed is ${REALISMS.join(', ')}`

/** A robot as it is made in a realism; null where it was not measured and is to be as it was. */
function inRealism(robot: Robot, realism: RunRealism): { readonly robot: Robot, readonly realism: RealismName } | null {
  if (realism !== 'measured') return { robot, realism }
  const measured = measuredRobot(robot)
  return measured === null ? null : { robot: measured, realism: 'ideal' }
}

/** Runs an origin as far as it had come. */
async function stateOf(inputs: RunInputs, { program, dials = {}, pokes, ticks, from, wire = null }: Origin): Promise<({ readonly ok: true } & Known) | RefusedRun> {
  const opened = await openRun({ ...inputs, program, dials, pokes, from, wire, keeping: inputs.keeping === 'events' ? 'events' : 'fingerprint' })
  if (!opened.ok) return opened
  const { simulation } = opened
  while (simulation.tape.rows < ticks && simulation.end === null) simulation.advance()
  const { rows } = simulation.tape
  const state = simulation.snapshot()
  simulation.free()
  if (rows === ticks && state.end === null) return { ok: true, program: simulation.input.program, state }
  return { ok: false, problems: [{ document: 'run', path: 'from.ticks', value: String(ticks), message: `the run that it goes on from is over after ${rows} ticks; allowed is a whole number below that` }], diagnostics: [] }
}
