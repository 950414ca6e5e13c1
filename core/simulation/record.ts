import { mixed, object } from 'yup'
import { RUN_REALISMS, type RunRealism } from '../devices'
import { documentText, plainNumber, readDocument, text, type Read } from '../document'
import { LAST_SEED } from '../random'
import { openRun, type Origin, type RefusedRun, type RunInputs } from './open'
import { readPokes, type TimedPoke } from './pokes'
import type { Simulation } from './simulation'

/** Another number is another format. */
export const RECORD_VERSION = 1
/** Another number where the same inputs give another run than before: raised with every change of a demo run's fingerprint. */
export const ENGINE_VERSION = 2

/** What a record says besides its run, where that is not known yet: the fingerprint is of no account. */
export const RECORD_HEAD = { mindpath: 'run', version: RECORD_VERSION, engine: ENGINE_VERSION, fingerprint: '0'.repeat(16) } as const

/** A run by its inputs, hands included, and the fingerprint that it had after so many ticks: whoever runs it again gets the same to the bit. */
export interface RunRecord extends Required<Omit<RunInputs, 'keeping'>> {
  readonly mindpath: 'run'
  readonly version: number
  readonly engine: number
  readonly title: string
  readonly ticks: number
  readonly fingerprint: string
}

/** The record of a run as far as it has come. `inputs` are those that it was opened with. */
export function recordOf(title: string, inputs: RunInputs, { tape, heard }: Simulation): RunRecord {
  const { robot, arena, task, program, realism, seed, limit, dials = {}, world = {}, from = null } = inputs
  const pokes = tape.events.flatMap(({ poke }) => poke === undefined ? [] : [poke as TimedPoke])
  return { mindpath: 'run', version: RECORD_VERSION, engine: ENGINE_VERSION, title, robot, arena, task, program, realism, seed, limit, dials, world, from, pokes, wire: heard?.inputs() ?? null, ticks: tape.rows, fingerprint: tape.digest() }
}

/** A run as what another goes on from, as far as it had come by a tick; `fingerprint` is the one that it had then. */
export const originOf = ({ program, dials, from }: RunInputs, { tape, heard }: Simulation, ticks: number, fingerprint: string): Origin => ({
  program, dials: dials ?? {}, from: from ?? null, wire: heard?.inputs() ?? null, ticks, fingerprint,
  pokes: tape.events.flatMap(({ tick, poke }) => poke === undefined || tick >= ticks ? [] : [poke as TimedPoke]),
})

/** How often a run may have gone on from another. */
const MOST_ORIGINS = 50

const dialsSchema = () => mixed<Readonly<Record<string, string>>>().default({})
const fingerprintSchema = () => text().matches(/^[0-9a-f]{16}$/, 'expected sixteen hexadecimal digits').required()

const schema = object({
  mindpath: text().oneOf(['run'], 'expected "run": this is another kind of document').required(),
  version: plainNumber().oneOf([RECORD_VERSION], `allowed is ${RECORD_VERSION}`).required(),
  engine: plainNumber().integer().min(1).required(),
  title: documentText(80).required(),
  robot: mixed().required(), arena: mixed().required(), task: mixed().nullable().default(null),
  program: text().defined(),
  realism: text().oneOf([...RUN_REALISMS], `allowed is one of ${RUN_REALISMS.join(', ')}`).required(),
  seed: plainNumber().integer().min(0).max(LAST_SEED).required(),
  limit: plainNumber().min(0.001).max(3600).nullable().default(null),
  dials: dialsSchema(), world: mixed().default({}), pokes: mixed().default([]), from: mixed().nullable().default(null), wire: mixed().nullable().default(null),
  ticks: plainNumber().integer().min(0).required(),
  fingerprint: fingerprintSchema(),
}).noUnknown().required()

const originSchema = object({
  program: text().defined(), dials: dialsSchema(), pokes: mixed().default([]), ticks: plainNumber().integer().min(0).required(), fingerprint: fingerprintSchema(), from: mixed().nullable().default(null), wire: mixed().nullable().default(null),
}).noUnknown().required()

/** Reads what a run goes on from, and what that goes on from. */
function readOrigin(value: unknown, depth = 0): Read<Origin | null> {
  if (value === null) return { ok: true, value: null }
  const problem = (path: string, value: string, message: string): Read<null> => ({ ok: false, problems: [{ path: `${'from.'.repeat(depth)}from${path}`, value, message }] })
  if (depth === MOST_ORIGINS) return problem('', 'another run', `a run may have gone on from another ${MOST_ORIGINS} times`)
  const read = readDocument<Origin>(originSchema, value)
  if (!read.ok) return { ok: false, problems: read.problems.map(p => ({ ...p, path: `${'from.'.repeat(depth)}from.${p.path}` })) }
  const pokes = readPokes(read.value.pokes)
  if (!pokes.ok) return pokes
  const from = readOrigin(read.value.from, depth + 1)
  if (!from.ok) return from
  if (from.value !== null && from.value.ticks > read.value.ticks) return problem('.from.ticks', String(from.value.ticks), `allowed is up to ${read.value.ticks}, where the run that went on from it was left`)
  return { ok: true, value: { ...read.value, pokes: pokes.value, from: from.value } }
}

/** Reads a record. What is wrong with its documents, dials and world is told when it is opened. */
export function readRecord(value: unknown): Read<RunRecord> {
  const read = readDocument<RunRecord & { readonly realism: RunRealism }>(schema, value)
  if (!read.ok) return read
  const pokes = readPokes(read.value.pokes)
  if (!pokes.ok) return pokes
  const from = readOrigin(read.value.from)
  return from.ok ? { ok: true, value: { ...read.value, pokes: pokes.value, from: from.value } } : from
}

/** What came of running a record again. */
export interface Replayed {
  readonly ok: true
  /** Whether it is the same to the last bit. */
  readonly same: boolean
  readonly ticks: number
  readonly fingerprint: string
  /** Frees what it holds when it is done with. */
  readonly simulation: Simulation
}

/** Runs a record again, as far as it came. */
export async function replay(record: RunRecord): Promise<Replayed | RefusedRun> {
  const opened = await openRun(record)
  if (!opened.ok) return opened
  const { simulation } = opened
  while (simulation.tape.rows < record.ticks && simulation.end === null) simulation.advance()
  const fingerprint = simulation.tape.digest()
  return { ok: true, same: fingerprint === record.fingerprint && simulation.tape.rows === record.ticks, ticks: simulation.tape.rows, fingerprint, simulation }
}
