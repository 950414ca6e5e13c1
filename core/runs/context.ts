import { checkProgram, compileProgram, mapOf, type Analysis, type ProgramMap } from '../language'
import type { ProgramData } from '../program'
import { factsOf, type RobotFacts } from '../robot'
import type { Tape } from '../tape'
import type { Compared } from './difference'
import { readProject, type ProblemIn, type RunRecord } from '../simulation'

/** What the numbers on a run's tape mean: its robot and its program, read and compiled again from its record. No physics is made. */
export interface RunContext {
  readonly facts: RobotFacts
  readonly analysis: Analysis
  /** null for a run without rules. */
  readonly program: ProgramData | null
  readonly map: ProgramMap | null
}

/** A run's tape with its meaning, to be compared. */
export const comparedOf = ({ tape, context: { facts, map } }: { readonly tape: Tape, readonly context: RunContext }): Compared => ({ tape, facts, program: map })

/** Reads what a record says of its run; what is wrong with a document where this engine cannot read it. */
export function contextOf({ robot, arena, task, program }: Pick<RunRecord, 'robot' | 'arena' | 'task' | 'program'>): { readonly ok: true, readonly value: RunContext } | { readonly ok: false, readonly problems: readonly ProblemIn[] } {
  const read = readProject({ robot, arena, task })
  if (!read.ok) return read
  const facts = factsOf(read.value.robot)
  const { runs, analysis, diagnostics } = checkProgram(program, facts)
  if (!runs) return { ok: false, problems: [{ document: 'run', path: 'program', value: `${program.length} characters`, message: diagnostics.find(d => d.severity === 'error')?.message ?? 'it cannot be run' }] }
  const compiled = analysis.lanes.length === 0 ? null : compileProgram(analysis)
  return { ok: true, value: { facts, analysis, program: compiled, map: compiled === null ? null : mapOf(compiled, program) } }
}
