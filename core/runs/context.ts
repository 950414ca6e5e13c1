import { checkProgram, compileProgram, mapOf, type Analysis, type ProgramMap } from '../language'
import type { ProgramData } from '../program'
import { factsOf, type RobotFacts } from '../robot'
import type { Tape } from '../tape'
import type { Compared } from './difference'
import { readProject, readVariation, variedArena, type ProblemIn, type ProjectParts, type RunRecord } from '../simulation'

/** What the numbers on a run's tape mean: its robot and its program, read and compiled again from its record. No physics is made. */
export interface RunContext {
  readonly facts: RobotFacts
  /** Its robot, its arena as the run's world varied it, and its task. */
  readonly parts: ProjectParts
  readonly analysis: Analysis
  /** null for a run without rules. */
  readonly program: ProgramData | null
  readonly map: ProgramMap | null
}

/** A run's tape with its meaning, to be compared. */
export const comparedOf = ({ tape, context: { facts, map } }: { readonly tape: Tape, readonly context: RunContext }): Compared => ({ tape, facts, program: map })

/** Reads what a record says of its run; what is wrong with a document where this engine cannot read it. */
export function contextOf({ robot, arena, task, program, world }: Pick<RunRecord, 'robot' | 'arena' | 'task' | 'program'> & { readonly world?: unknown }): { readonly ok: true, readonly value: RunContext } | { readonly ok: false, readonly problems: readonly ProblemIn[] } {
  const read = readProject({ robot, arena, task })
  if (!read.ok) return read
  const varied = readVariation(world, read.value.arena)
  if (!varied.ok) return { ok: false, problems: varied.problems.map(p => ({ ...p, path: `world.${p.path}`, document: 'run' })) }
  const facts = factsOf(read.value.robot)
  const { runs, analysis, diagnostics } = checkProgram(program, facts)
  if (!runs) return { ok: false, problems: [{ document: 'run', path: 'program', value: `${program.length} characters`, message: diagnostics.find(d => d.severity === 'error')?.message ?? 'it cannot be run' }] }
  const compiled = analysis.lanes.length === 0 ? null : compileProgram(analysis)
  return { ok: true, value: { facts, parts: { ...read.value, arena: variedArena(read.value.arena, varied.value) }, analysis, program: compiled, map: compiled === null ? null : mapOf(compiled, program) } }
}
