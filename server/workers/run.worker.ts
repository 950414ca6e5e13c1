import type { Problem, Read } from '../../core/document'
import { outlineOf } from '../../core/runs'
import { comparedOf } from '../../core/runs/context'
import { readKept, runKept, writeKept } from '../../core/runs/kept'
import type { RunFacts } from '../database/runs'
import { factsOf, readRobot } from '../../core/robot'
import { RECORD_HEAD, heardIn, openRun, readRecord, replay, summarise, type RefusedRun, type RunInputs, type RunSummary, type WireInputs } from '../../core/simulation'

export type RunOutcome =
  | { readonly ran: true, readonly summary: RunSummary }
  | { readonly ran: false, readonly problems: readonly string[] }

/** One headless run, on a worker thread of the server. */
export default async function run(request: RunInputs): Promise<RunOutcome> {
  const opened = await openRun(request)
  if (!opened.ok) {
    return {
      ran: false,
      problems: [...opened.problems.map(p => `${p.document}: ${p.path}: found ${p.value}; ${p.message}`), ...opened.diagnostics.filter(d => d.severity === 'error').map(d => d.message)],
    }
  }
  const { simulation } = opened
  simulation.runToEnd()
  const summary = summarise(simulation)
  simulation.free()
  return { ran: true, summary }
}

/** Reads a kept run's file and says what is listed of it; problems where it is none. On a thread: it takes a second for half an hour. */
export function facts(file: Uint8Array): Read<RunFacts> {
  const kept = readKept(file)
  if (!kept.ok) return kept
  const { record: { seed, realism, engine, ticks, fingerprint, from }, standing } = kept.value
  return { ok: true, value: { seed, realism, engine, ticks, fingerprint, originTicks: from?.ticks ?? null, outline: outlineOf(comparedOf(kept.value), standing) } }
}

/** Runs one again that was left before it could be sent, as far as it had come: what is listed of it, and its file. Problems where it is none. */
export async function left(inputs: object): Promise<Read<{ readonly facts: RunFacts, readonly file: Uint8Array }>> {
  const told = withHeard(inputs)
  if (!told.ok) return told
  const record = readRecord({ ...told.value, ...RECORD_HEAD })
  if (!record.ok) return record
  const done = await replay(record.value)
  if (!done.ok) return { ok: false, problems: refusalOf(done) }
  const file = writeKept(record.value.title, record.value, done.simulation)
  done.simulation.free()
  const read = facts(file)
  return read.ok ? { ok: true, value: { facts: read.value, file } } : read
}

/** What a page told of a run, with what its real devices read where a run's inputs have it, and no longer than that was told: without it, it would be another run. */
function withHeard({ heard, ...inputs }: { readonly heard?: unknown, readonly wire?: unknown, readonly robot?: unknown, readonly ticks?: unknown }): Read<object> {
  if (heard === undefined) return { ok: true, value: inputs }
  const robot = readRobot(inputs.robot)
  if (!robot.ok) return robot
  const wire = inputs.wire as Partial<WireInputs> | null | undefined
  const pieces = Array.isArray(heard) ? heard as readonly unknown[] : [null]
  const all = Array.isArray(wire?.devices) && pieces.every(piece => typeof piece === 'string') ? heardIn(wire as WireInputs, factsOf(robot.value), pieces) : null
  return all === null
    ? { ok: false, problems: [{ path: 'heard', value: `${pieces.length} pieces`, message: 'expected numbers of the devices that are real in this run, as bytes in letters' }] }
    : { ok: true, value: { ...inputs, wire: all, ticks: Math.min(Number(inputs.ticks), all.first + all.ticks) } }
}

/** Runs to the end with a tape; its file. Problems where it cannot be run. */
export async function tapedFile({ title, inputs }: { readonly title: string, readonly inputs: RunInputs }): Promise<Read<Uint8Array>> {
  const kept = await runKept(title, inputs)
  return kept.ok ? { ok: true, value: kept.file } : { ok: false, problems: refusalOf(kept) }
}

/** Why a run is refused, as problems of one document. */
const refusalOf = ({ problems, diagnostics }: RefusedRun): readonly Problem[] =>
  [...problems.map(p => ({ ...p, path: `${p.document}: ${p.path}` })), ...diagnostics.filter(d => d.severity === 'error').map(d => ({ path: 'program', value: '', message: d.message }))]
