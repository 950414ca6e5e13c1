import { Inflate, deflateSync } from 'fflate'
import { array, object } from 'yup'
import { fromBase64, toBase64 } from '../base64'
import { plainNumber, readDocument, text, type Problem, type Read } from '../document'
import type { RobotFacts } from '../robot'

/** What is at the other end of a wire while a run goes on: devices that are real. */
export interface Line {
  /** What they read in this tick: for each in order, 1 where it looked in it, else 0, and its readings, SI. Once a tick. */
  hear(into: Float64Array): void
  /** Takes what was commanded, SI numbers by channel. */
  obey(commands: Float64Array): void
  /** Has all that is real stand. */
  rest(): void
}

/** As a run's inputs say it: which devices are real, from which of its ticks on, and what they read in so many ticks, as bytes in letters. */
export interface WireInputs { readonly devices: readonly string[], readonly first: number, readonly ticks: number, readonly heard: string }

/** Whether a device was real in a run. */
export const isReal = ({ wire }: { readonly wire?: WireInputs | null }, device: string): boolean => wire?.devices.includes(device) === true

/** Of a run that is still to be: these devices are real, and nothing was heard of them yet. */
export const wireTo = (devices: readonly string[]): WireInputs => ({ devices, first: 0, ticks: 0, heard: '' })

/** What real devices read, tick by tick: an input of a run, which grows while it happens and is played when it is run again. */
export class Heard {
  readonly devices: readonly string[]
  /** The readings of each: how many, and where they stand among the robot's. */
  private readonly places: readonly { readonly at: number, readonly count: number }[]
  readonly width: number
  private numbers: Float64Array
  private count = 0

  /** `first`: the tick from which on they are real. Throws RangeError for a device that the robot has not. */
  constructor(facts: RobotFacts, devices: readonly string[], readonly first: number, heard: Float64Array = new Float64Array(0)) {
    const found = facts.devices.filter(d => devices.includes(d.name))
    const strange = devices.find(name => !found.some(d => d.name === name))
    if (strange !== undefined) throw new RangeError(`the robot has no device ${strange}; it has ${facts.devices.map(d => d.name).join(', ')}`)
    this.devices = found.map(d => d.name)
    this.places = found.map(d => ({ at: d.first, count: d.readings.length }))
    this.width = this.places.reduce((sum, p) => sum + 1 + p.count, 0)
    this.numbers = heard
    this.count = this.width === 0 ? 0 : heard.length / this.width
  }

  /** The tick behind the last that was heard. */
  get end(): number { return this.first + this.count }

  /** A copy of what was heard from a tick on, row by row. */
  since(tick: number): Float64Array<ArrayBuffer> { return new Float64Array(this.numbers.slice(Math.max(0, tick - this.first) * this.width, this.count * this.width)) }

  /** One tick more, by what writes its numbers. */
  add(write: (into: Float64Array) => void): void {
    if ((this.count + 1) * this.width > this.numbers.length) {
      const more = new Float64Array(Math.max(64 * this.width, 2 * this.numbers.length))
      more.set(this.numbers)
      this.numbers = more
    }
    write(this.numbers.subarray(this.count * this.width, (this.count + 1) * this.width))
    this.count++
  }

  /** Puts what was heard for a tick where readings stand; `looked` is told of each device that looked in it, by the place of its first reading. */
  play(tick: number, raw: Float64Array, looked: (first: number) => void): void {
    let i = (tick - this.first) * this.width
    for (const { at, count } of this.places) {
      if (this.numbers[i++] === 1) looked(at)
      for (let k = 0; k < count; k++) raw[at + k] = this.numbers[i++]!
    }
  }

  /** As inputs say it: column by column, as most numbers stay for long. */
  inputs(): WireInputs {
    const { width, count, numbers } = this
    const columns = new Float64Array(width * count)
    for (let c = 0; c < width; c++) for (let t = 0; t < count; t++) columns[c * count + t] = numbers[t * width + c]!
    return { devices: this.devices, first: this.first, ticks: count, heard: toBase64(deflateSync(new Uint8Array(columns.buffer))) }
  }
}

/** No run hears more numbers than this: an hour of all that a large robot reads. */
const MOST_HEARD = 50_000_000

const schema = object({
  devices: array(text().max(80).required()).min(1, 'expected at least one device').max(100).required(),
  first: plainNumber().integer().min(0).default(0),
  ticks: plainNumber().integer().min(0).default(0),
  heard: text().defined().default(''),
}).noUnknown()

/** Reads what real devices read in a run; null for a run in which all is simulated. */
export function readWire(value: unknown, facts: RobotFacts): Read<Heard | null> {
  if (value === undefined || value === null) return { ok: true, value: null }
  const read = readDocument<WireInputs>(schema, value)
  if (!read.ok) return { ok: false, problems: read.problems.map(p => ({ ...p, path: p.path === 'the document' ? 'wire' : `wire.${p.path}` })) }
  const { devices, first, ticks, heard } = read.value
  const wrong = (path: string, value: string, message: string): { readonly ok: false, readonly problems: readonly Problem[] } => ({ ok: false, problems: [{ path: `wire.${path}`, value, message }] })
  const strange = devices.find(name => !facts.devices.some(d => d.name === name))
  if (strange !== undefined) return wrong('devices', strange, `the robot has no such device; it has ${facts.devices.map(d => d.name).join(', ')}`)
  const numbers = unpacked(heard)
  if (numbers === null) return wrong('heard', `${heard.length} letters`, 'expected numbers as they were kept: this was cut off or changed')
  const { width } = new Heard(facts, devices, first)
  if (numbers.length !== ticks * width) return wrong('ticks', String(ticks), `expected ${numbers.length / width}: what was heard are ${numbers.length} numbers, and these devices read ${width} a tick`)
  return { ok: true, value: new Heard(facts, devices, first, rows(numbers, width)) }
}

/**
 * What was heard as a page tells it piece by piece, rows of numbers (`since`) as bytes in letters: as inputs say it. null where that is none of it, or
 * the wire's devices are none of the robot's.
 */
export function heardIn({ devices, first }: WireInputs, facts: RobotFacts, pieces: readonly string[]): WireInputs | null {
  const bytes = pieces.map(fromBase64)
  if (bytes.some(b => b === null || b.length % 8 !== 0) || devices.some(name => !facts.devices.some(d => d.name === name))) return null
  const numbers = new Float64Array(bytes.reduce((sum, b) => sum + b!.length / 8, 0))
  let at = 0
  for (const b of bytes) { numbers.set(new Float64Array(b!.buffer), at); at += b!.length / 8 }
  const heard = new Heard(facts, devices, first, numbers)
  return Number.isInteger(heard.end) ? heard.inputs() : null
}

/** null where the letters hold no numbers. */
function unpacked(heard: string): Float64Array | null {
  if (heard === '') return new Float64Array(0)
  const packed = fromBase64(heard)
  if (packed === null) return null
  const bytes = inflated(packed, 8 * MOST_HEARD)
  return bytes === null || bytes.length % 8 !== 0 ? null : new Float64Array(bytes.buffer)
}

/** Bytes that are unpacked at once: few bytes may hold very many. */
const PIECE = 4096

/** null where that is none of it, was cut off, or would be more than so many. */
function inflated(packed: Uint8Array, most: number): Uint8Array<ArrayBuffer> | null {
  const pieces: Uint8Array[] = []
  let [size, whole] = [0, false]
  const inflate = new Inflate((piece, final) => { pieces.push(piece); size += piece.length; whole ||= final })
  try {
    for (let at = 0; at < packed.length; at += PIECE) {
      inflate.push(packed.subarray(at, at + PIECE), at + PIECE >= packed.length)
      if (size > most) return null
    }
  } catch {
    // What fflate throws for bytes that it did not make.
    return null
  }
  if (!whole) return null
  const all = new Uint8Array(size)
  let at = 0
  for (const piece of pieces) { all.set(piece, at); at += piece.length }
  return all
}

function rows(columns: Float64Array, width: number): Float64Array {
  const count = columns.length / width
  const all = new Float64Array(columns.length)
  for (let c = 0; c < width; c++) for (let t = 0; t < count; t++) all[t * width + c] = columns[c * count + t]!
  return all
}
