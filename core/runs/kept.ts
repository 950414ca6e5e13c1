import { array, mixed, object } from 'yup'
import { plainNumber, readDocument, text, type Problem, type Read } from '../document'
import { openRun, recordOf, readRecord, type RefusedRun, type RunInputs, type RunRecord, type Simulation } from '../simulation'
import { readTape, writeTape, type Tape, type TapeKnown } from '../tape'
import { contextOf, type RunContext } from './context'
import { standingOf, type Standing } from './outline'

/** A run with all that was recorded of it: what it was made of, how it stood at last, and its tape. One file, to be opened anywhere. */
export interface KeptRun {
  readonly record: RunRecord
  readonly standing: Standing
  readonly tape: Tape
  readonly context: RunContext
}

/** A run as far as it has come, as the bytes of a file. `inputs` are those that it was opened with. */
export function writeKept(title: string, inputs: RunInputs, simulation: Simulation): Uint8Array<ArrayBuffer> {
  return writeTape(simulation.tape, simulation.tape.digest(), { mindpath: 'kept run', record: recordOf(title, inputs, simulation), standing: standingOf(simulation) })
}

/** Runs inputs to their end with a tape: the file, and how many seconds after the start the last tick began. */
export async function runKept(title: string, inputs: RunInputs): Promise<{ readonly ok: true, readonly file: Uint8Array<ArrayBuffer>, readonly last: number } | RefusedRun> {
  const opened = await openRun(inputs)
  if (!opened.ok) return opened
  const { simulation } = opened
  try {
    simulation.runToEnd()
    return { ok: true, file: writeKept(title, inputs, simulation), last: (simulation.tape.rows - 1) * simulation.facts.tick }
  } finally {
    simulation.free()
  }
}

const STATUSES = ['open', 'held', 'met', 'failed'] as const
const aboutSchema = object({
  mindpath: text().oneOf(['kept run'], 'expected "kept run": this is a tape of something else').required(),
  record: mixed().required(),
  standing: object({
    end: object({ ended: text().oneOf(['finished', 'time', 'error', 'fell'], 'allowed is finished, time, error or fell').required(), reason: text().defined().max(2000), time: plainNumber().min(0).max(36000).required() })
      .noUnknown().nullable().default(null),
    goals: array(object({
      name: text().max(400).required(),
      state: object({ status: text().oneOf([...STATUSES], `allowed is ${STATUSES.join(', ')}`).required(), at: plainNumber().nullable().defined(), progress: text().defined().max(400), memo: array(plainNumber().required()).max(0).required() }).noUnknown().required(),
    }).noUnknown().required()).max(100).required(),
  }).noUnknown().required(),
}).noUnknown().required()

/** Reads a kept run from a file's bytes. Problems where it is no kept run, was cut off or changed, or this engine cannot read its documents. `known`: as of `readTape`. */
export function readKept(bytes: Uint8Array, known: TapeKnown = {}): Read<KeptRun> {
  const refused = (...problems: readonly Problem[]): Read<KeptRun> => ({ ok: false, problems })
  let file: ReturnType<typeof readTape<unknown>>
  try {
    file = readTape<unknown>(bytes, known)
  } catch (error) {
    if (error instanceof RangeError || error instanceof SyntaxError) return refused({ path: 'the file', value: `${bytes.length} bytes`, message: error instanceof RangeError ? error.message : 'its head is no JSON' })
    throw error
  }
  const about = readDocument<{ readonly record: unknown, readonly standing: Standing }>(aboutSchema, file.about)
  if (!about.ok) return about
  const record = readRecord(about.value.record)
  if (!record.ok) return { ok: false, problems: record.problems.map(p => ({ ...p, path: `record.${p.path}` })) }
  const context = contextOf(record.value)
  if (!context.ok) return { ok: false, problems: context.problems.map(p => ({ ...p, path: `${p.document}: ${p.path}` })) }
  const { tape } = file
  const { facts, map } = context.value
  const { layout } = tape
  const fits = layout.dt === facts.tick && layout.ruleCount === (map?.rules.length ?? 0) && layout.laneNames.length === (map?.lanes.length ?? 0)
    && layout.commands - layout.readings === facts.readingCount && layout.still - layout.named === (map?.named.length ?? 0)
  if (!fits) return refused({ path: 'the file', value: `engine ${record.value.engine}`, message: 'its tape does not fit its robot and program: another engine made it, or it was changed' })
  return { ok: true, value: { record: record.value, standing: about.value.standing, tape, context: context.value } }
}
