import { ByteReader, ByteWriter, onGrid, passRows, readColumn, readRows, writeRows } from './codec'

/** Rows per block: about ten seconds. */
export const BLOCK = 512
/** The latest blocks stand open, about five minutes; older ones are kept as bytes. */
const OPEN = 32
/** Blocks and columns of sealed blocks that are at hand once they were read. */
const ROWS_AT_HAND = 8
const COLUMNS_AT_HAND = 4096

/**
 * Rows of numbers that grow: the latest stand open, older ones as bytes, a tenth of their size, which are read again where they
 * are asked for. Numbers are on the codec's grid from the beginning, so that a row says the same whenever it is read.
 */
export class RowStore {
  private readonly open = new Map<number, Float64Array>()
  private readonly sealed = new Map<number, Uint8Array>()
  private readonly decoded = new Map<number, Float64Array>()
  private readonly columns = new Map<string, Float64Array>()
  private count = 0
  private from = 0
  /** The latest row as it came, and as it is kept. */
  private readonly latest: Float64Array
  private readonly kept: Float64Array

  constructor(private readonly width: number) {
    this.latest = new Float64Array(width).fill(NaN)
    this.kept = new Float64Array(width)
  }

  get rows(): number { return this.count }

  /** The first row that is kept. */
  get first(): number { return this.from }

  append(row: Float64Array, at = 0): void {
    const number = Math.floor(this.count / BLOCK)
    let block = this.open.get(number)
    if (block === undefined) {
      block = new Float64Array(BLOCK * this.width)
      this.open.set(number, block)
      this.seal(number - OPEN)
    }
    const start = (this.count % BLOCK) * this.width
    const { width, latest, kept } = this
    for (let i = 0; i < width; i++) {
      const x = row[at + i]!
      // Most stays as it was: that is on the grid already.
      if (x !== latest[i]) {
        latest[i] = x
        kept[i] = onGrid(x)
      }
      block[start + i] = kept[i]!
    }
    this.count++
  }

  /** Takes over a block as `writeRows` wrote it. A whole one that falls on a block of these stays as it is, unread. */
  take(bytes: Uint8Array): void {
    const { rows } = passRows(new ByteReader(bytes), this.width)
    if (rows === BLOCK && this.count % BLOCK === 0) {
      // Its own bytes: a view would hold on to all that it is a part of.
      this.sealed.set(this.count / BLOCK, bytes.slice())
      this.count += BLOCK
      return
    }
    const read = readRows(new ByteReader(bytes), this.width)
    for (let at = 0; at < read.length; at += this.width) this.append(read, at)
  }

  /** The rows from a tick on as `writeRows` writes them, in blocks. */
  * blocks(from: number): Generator<Uint8Array> {
    for (let tick = from; tick < this.count;) {
      const end = Math.min(this.count, tick - tick % BLOCK + BLOCK)
      const whole = tick % BLOCK === 0 ? this.sealed.get(tick / BLOCK) : undefined
      yield whole ?? written(this.slice(tick, end), this.width)
      tick = end
    }
  }

  private seal(number: number): void {
    const block = this.open.get(number)
    if (block === undefined) return
    this.sealed.set(number, written(block, this.width))
    this.open.delete(number)
  }

  /** One row, as a view that is not to be changed. Throws RangeError beyond the end, and before what is kept. */
  at(tick: number): Float64Array {
    if (!(tick >= this.from && tick < this.count)) throw new RangeError(`no row ${tick} of ${this.from} to ${this.count}`)
    const start = (tick % BLOCK) * this.width
    return this.block(Math.floor(tick / BLOCK)).subarray(start, start + this.width)
  }

  private block(number: number): Float64Array {
    const open = this.open.get(number)
    if (open !== undefined) return open
    return atHand(this.decoded, number, ROWS_AT_HAND, () => readRows(new ByteReader(this.sealed.get(number)!), this.width))
  }

  /** One number of a row that is kept. */
  value(tick: number, column: number): number {
    const number = Math.floor(tick / BLOCK)
    const open = this.open.get(number)
    if (open !== undefined) return open[(tick % BLOCK) * this.width + column]!
    return atHand(this.columns, `${number} ${column}`, COLUMNS_AT_HAND, () => readColumn(new ByteReader(this.sealed.get(number)!), column))[tick % BLOCK]!
  }

  /** A copy of the rows from one tick up to another (exclusive). */
  slice(from: number, to: number): Float64Array<ArrayBuffer> {
    const out = new Float64Array(Math.max(0, to - from) * this.width)
    for (let t = from; t < to; t++) out.set(this.at(t), (t - from) * this.width)
    return out
  }

  /** Forgets all rows; what comes next is that tick. */
  forget(next: number): void {
    this.from = this.count = next
    for (const kept of [this.open, this.sealed, this.decoded, this.columns]) kept.clear()
  }

  /** Forgets the rows from a tick on, one of those that are kept or the next. */
  rewind(tick: number): void {
    const last = Math.floor(tick / BLOCK)
    for (const number of [...this.open.keys(), ...this.sealed.keys()]) if (number > last) { this.open.delete(number); this.sealed.delete(number) }
    const half = this.sealed.get(last)
    if (half !== undefined) {
      this.open.set(last, readRows(new ByteReader(half), this.width))
      this.sealed.delete(last)
    }
    this.decoded.clear()
    this.columns.clear()
    this.count = tick
  }
}

function written(rows: Float64Array, width: number): Uint8Array {
  const bytes = new ByteWriter()
  writeRows(rows, width, bytes)
  return bytes.taken()
}

/** What was asked for lately, made where it is not there; the oldest goes where there are too many. */
function atHand<K, V>(known: Map<K, V>, key: K, most: number, make: () => V): V {
  const there = known.get(key)
  if (there !== undefined) return there
  const made = make()
  known.set(key, made)
  if (known.size > most) known.delete(known.keys().next().value!)
  return made
}
