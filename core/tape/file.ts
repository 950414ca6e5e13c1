import { Inflate, deflateSync } from 'fflate'
import { array, mixed, object } from 'yup'
import { plainNumber, readDocument, text } from '../document'
import { ByteReader, ByteWriter, passRows, readRows } from './codec'
import { TapeHash } from './hash'
import type { TapeLayout } from './layout'
import { Tape, type TapeEvent } from './tape'

/** Another number is another format. */
export const TAPE_VERSION = 2
/** What a tape's bytes begin with. */
const MARK = 'mindpath tape\n'
/** Letters of the check at their end. */
const CHECK = 16
/** The longest tape and head that are read, bytes: a file from elsewhere must not take all memory. An hour of the largest robot takes half of it. */
export const LONGEST = 0x800_0000
const LONGEST_HEAD = 0x400_0000

/** A tape as bytes: a mark, then, deflated (RFC 1951), what is said of it and rows in blocks; then a check of it all. */
interface Head {
  readonly version: number
  readonly layout: TapeLayout
  readonly first: number
  readonly rows: number
  readonly events: readonly TapeEvent[]
  /** Fingerprint of what was recorded; of a tape that took over rows, '' . */
  readonly fingerprint: string
  /** What else whoever wrote it says of the run. */
  readonly about: unknown
}

/** Columns of the widest row: far more than the largest robot in the fullest arena has. */
const WIDEST = 20_000
const column = () => plainNumber().integer().min(0).max(WIDEST).required()
const names = () => array(text().max(200).required()).max(2000).required()

const headSchema = object({
  version: plainNumber().oneOf([TAPE_VERSION], `this tape is of another version; allowed is ${TAPE_VERSION}`).required(),
  layout: object({
    width: column().min(1), dt: plainNumber().min(1e-4).max(10).required(), readings: column(), commands: column(), body: column(), wheels: column(), lanes: column(), beams: column(), beamDevices: names(),
    pieces: column(), pieceNames: names(), parts: column(), partCount: column(), visitors: column(), visitorNames: names(), laneNames: names(),
    entered: column(), named: column(), still: column(), wants: column(), ruleCount: column(),
  }).noUnknown().required(),
  first: plainNumber().integer().min(0).required(), rows: plainNumber().integer().min(0).required(),
  events: array(object({ tick: plainNumber().integer().min(0).required(), type: text().required(), text: text().defined(), about: text().defined(), poke: mixed() }).noUnknown().required()).required(),
  fingerprint: text().defined(), about: mixed(),
}).noUnknown().required()

/** A tape that was read, and what was said of it. */
export interface TapeFile<About> { readonly tape: Tape, readonly fingerprint: string, readonly about: About }

/** A text of plain signs (up to U+007F) as bytes, and back. */
const bytesOf = (text: string): Uint8Array => Uint8Array.from(text, sign => sign.charCodeAt(0))
function textOf(bytes: Uint8Array): string {
  const pieces: string[] = []
  for (let at = 0; at < bytes.length; at += 8192) pieces.push(String.fromCharCode(...bytes.subarray(at, at + 8192)))
  return pieces.join('')
}
/** JSON in plain signs: all others as its escapes. */
const plainJson = (value: unknown): string => JSON.stringify(value, put).replace(/[\u007f-\uffff]/g, sign => `\\u${sign.charCodeAt(0).toString(16).padStart(4, '0')}`)

/** Numbers that JSON has no sign for. */
const put = (_key: string, value: unknown): unknown => value === Infinity ? { $number: 'Infinity' } : value === -Infinity ? { $number: '-Infinity' } : value
const take = (_key: string, value: unknown): unknown => typeof value === 'object' && value !== null && '$number' in value ? Number(value.$number) : value

/** Writes a tape with what there is to say of its run, JSON; `fingerprint` is the recording machine's. */
export function writeTape(tape: Tape, fingerprint: string, about: unknown): Uint8Array<ArrayBuffer> {
  const into = new ByteWriter()
  const head: Head = { version: TAPE_VERSION, layout: tape.layout, first: tape.first, rows: tape.rows, events: tape.events, fingerprint, about }
  into.block(bytesOf(plainJson(head)))
  for (const block of tape.blocks()) into.all(block)
  const whole = joined(bytesOf(MARK), deflateSync(into.taken()))
  return joined(whole, bytesOf(check(whole)))
}

function joined(...parts: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const all = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0))
  let at = 0
  for (const part of parts) {
    all.set(part, at)
    at += part.length
  }
  return all
}

/** What was deflated; a RangeError when it is no such thing, or longer than is read. */
function inflated(bytes: Uint8Array): Uint8Array {
  const parts: Uint8Array[] = []
  let length = 0
  const stream = new Inflate((part) => {
    length += part.length
    if (length > LONGEST) throw new RangeError(`this tape is longer than ${LONGEST} bytes`)
    parts.push(part)
  })
  try {
    for (let at = 0; at < bytes.length; at += 0x10000) stream.push(bytes.subarray(at, at + 0x10000), at + 0x10000 >= bytes.length)
  } catch (error) {
    throw error instanceof RangeError ? error : new RangeError('this tape cannot be unpacked')
  }
  return joined(...parts)
}

function check(bytes: Uint8Array): string {
  const hash = new TapeHash()
  hash.numbers(new Uint32Array(bytes))
  return hash.digest()
}

/** What is deflated in a tape's bytes, as it stands there. Throws a RangeError where they are no tape. */
export function packedIn(bytes: Uint8Array): Uint8Array {
  const mark = bytesOf(MARK)
  if (!mark.every((byte, i) => bytes[i] === byte)) throw new RangeError('this is no tape')
  return bytes.subarray(mark.length, Math.max(mark.length, bytes.length - CHECK))
}

/** The same, of bytes that are neither cut off nor changed. */
function soundIn(bytes: Uint8Array): Uint8Array {
  const packed = packedIn(bytes)
  const end = bytes.length - CHECK
  if (end < MARK.length || textOf(bytes.subarray(end)) !== check(bytes.subarray(0, end))) throw new RangeError('this tape is cut off, or was changed since it was written')
  return packed
}

/** What a reader of tapes may know of one beforehand. */
export interface TapeKnown {
  /** Somebody has read it before: its rows are read when they are asked for. */
  readonly rows?: boolean
  /** What `packedIn` gave, inflated by somebody who is quicker at it, and trusts whoever sent it. */
  readonly unpacked?: Uint8Array
}

/** Reads what `writeTape` wrote. Throws a RangeError that says what is wrong where it is cut off, changed, of another version, or no tape. */
export function readTape<About>(bytes: Uint8Array, known: TapeKnown = {}): TapeFile<About> {
  const from = new ByteReader(known.unpacked ?? inflated(soundIn(bytes)))
  const written = from.block()
  if (written.length > LONGEST_HEAD) throw new RangeError('the head of this tape is too long')
  const checked = readDocument<Head>(headSchema, JSON.parse(textOf(written), take))
  if (!checked.ok) throw new RangeError(checked.problems.map(p => `${p.path}: ${p.message}`).join('; '))
  const head = checked.value
  const tape = new Tape(head.layout)
  tape.rewind({ rows: head.first, events: 0, hash: [0, 0] })
  while (!from.atEnd) {
    const block = passRows(from, head.layout.width)
    if (known.rows !== true) readRows(new ByteReader(block.bytes), head.layout.width)
    tape.take(block.bytes)
  }
  tape.append(new Float64Array(0), head.events)
  if (tape.rows !== head.rows) throw new RangeError(`this tape has ${tape.rows - head.first} rows; its head says ${head.rows - head.first}`)
  return { tape, fingerprint: head.fingerprint, about: head.about as About }
}
