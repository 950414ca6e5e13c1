import { object } from 'yup'
import { fromBase64, toBase64 } from '../base64'
import { plainNumber, readDocument, text, type Read } from '../document'
import { TapeHash } from '../tape'
import type { Simulation, SimulationSnapshot } from './simulation'

/** Another number is another format: what is in a snapshot changes with the machine and the physics library. */
export const SNAPSHOT_VERSION = 4

/** What JSON has no sign for: numbers that are not finite, zero below zero, and bytes. */
interface Odd { readonly $number: string }
interface Bytes { readonly $bytes: string }

const ODD: ReadonlyMap<string, number> = new Map([['Infinity', Infinity], ['-Infinity', -Infinity], ['NaN', NaN], ['-0', -0]])

function write(_key: string, value: unknown): unknown {
  if (typeof value === 'number' && (!Number.isFinite(value) || Object.is(value, -0))) return { $number: Object.is(value, -0) ? '-0' : String(value) } satisfies Odd
  if (value instanceof Uint8Array) return { $bytes: toBase64(value) } satisfies Bytes
  if (ArrayBuffer.isView(value)) throw new Error('a snapshot holds numbers in plain lists')
  return value
}

function read(_key: string, value: unknown): unknown {
  if (typeof value !== 'object' || value === null) return value
  if ('$number' in value) return ODD.get((value as Odd).$number)
  if ('$bytes' in value) return fromBase64((value as Bytes).$bytes)
  return value
}

function fingerprint(text: string): string {
  const hash = new TapeHash()
  hash.text(text)
  return hash.digest()
}

/** Of all that makes a run what it is; a snapshot fits runs of the same only, whatever they record. */
const runOf = ({ input }: Simulation): string => fingerprint(JSON.stringify({ ...input, keeping: undefined }))

/** The state between two ticks as JSON text, to the last bit: for another thread, a file, a later day. */
export function writeSnapshot(simulation: Simulation): string {
  const state = JSON.stringify(simulation.snapshot(), write)
  return `{"mindpath":"snapshot","version":${SNAPSHOT_VERSION},"run":"${runOf(simulation)}","whole":"${fingerprint(state)}","state":${state}}`
}

const headSchema = object({
  mindpath: text().oneOf(['snapshot'], 'expected "snapshot": this is another kind of document').required(),
  version: plainNumber().oneOf([SNAPSHOT_VERSION], `allowed is ${SNAPSHOT_VERSION}`).required(),
  run: text().required(),
  whole: text().required(),
}).noUnknown().required()

/**
 * Reads what `writeSnapshot` wrote, for a simulation of the same program, documents, seed, realism and limit (which
 * `restore` then takes there). Problems where it is cut off, was changed, or belongs to another run.
 */
export function readSnapshot(written: string, simulation: Simulation): Read<SimulationSnapshot> {
  const problem = (path: string, value: string, message: string): Read<SimulationSnapshot> => ({ ok: false, problems: [{ path, value, message }] })
  let document: unknown
  try {
    document = JSON.parse(written)
  } catch {
    return problem('the document', `${written.length} characters`, 'this is no JSON: it is cut off or no snapshot')
  }
  const { state, ...head } = (typeof document === 'object' && document !== null ? document : {}) as { readonly state?: unknown }
  const checked = readDocument<{ readonly run: string, readonly whole: string }>(headSchema, head)
  if (!checked.ok) return checked
  const { run, whole } = checked.value
  if (state === undefined || fingerprint(JSON.stringify(state)) !== whole) return problem('state', 'other contents', 'it was changed since it was written')
  if (run !== runOf(simulation)) return problem('run', run, 'it is of another run: program, robot, arena, task, realism, seed and limit must be the same')
  return { ok: true, value: JSON.parse(JSON.stringify(state), read) as SimulationSnapshot }
}
