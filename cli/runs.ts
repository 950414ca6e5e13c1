import { standingOf, type Standing } from '../core/runs'
import { contextOf, type RunContext } from '../core/runs/context'
import { readKept } from '../core/runs/kept'
import { readRecord, replay, type Replayed, type RunRecord } from '../core/simulation'
import type { Tape } from '../core/tape'
import { jsonOf, readBytes } from './files'
import { errorLines, problemLines } from './project'
import { UsageError } from './usage'

/** A run as it stands in a file: with its tape, or by its inputs alone. */
export interface RunFile { readonly record: RunRecord, readonly context: RunContext, readonly tape: Tape | null, readonly standing: Standing | null }

/** A run with its tape, from its file or run again. */
export interface TapedRun extends RunFile { readonly tape: Tape }

const refuse = (path: string, problems: readonly { readonly path: string, readonly value: string, readonly message: string }[]): UsageError =>
  new UsageError(problems.map(p => `${path}: ${p.path}: found ${p.value}; ${p.message}`).join('\n'))

/** Reads NAME.mindrun or NAME.run.json, told apart by what is in them; a usage error for anything else. */
export async function readRunFile(path: string): Promise<RunFile> {
  const bytes = await readBytes(path)
  if (bytes[0] !== '{'.charCodeAt(0)) {
    const kept = readKept(bytes)
    if (!kept.ok) throw refuse(path, kept.problems)
    return kept.value
  }
  const record = readRecord(jsonOf(path, bytes.toString('utf8')))
  if (!record.ok) throw refuse(path, record.problems)
  const context = contextOf(record.value)
  if (!context.ok) throw new UsageError(problemLines(context.problems, document => `${path}: ${document}`))
  return { record: record.value, context: context.value, tape: null, standing: null }
}

/** Runs it again, hands included. */
export async function runAgain(path: string, { record }: RunFile): Promise<Replayed> {
  const done = await replay(record)
  if (done.ok) return done
  throw new UsageError(done.problems.length > 0 ? problemLines(done.problems, document => `${path}: ${document}`) : `the program cannot run\n${errorLines(`${path}: program`, record.program, done.diagnostics)}`)
}

/** Reads a run's file; one without a tape is run again. */
export async function readTaped(path: string): Promise<TapedRun> {
  const file = await readRunFile(path)
  if (file.tape !== null) return { ...file, tape: file.tape }
  const { simulation } = await runAgain(path, file)
  simulation.free()
  return { ...file, tape: simulation.tape, standing: standingOf(simulation) }
}
