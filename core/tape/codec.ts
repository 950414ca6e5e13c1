/**
 * Rows of a tape as bytes and back. Numbers are taken to a millionth of their SI unit, far finer than
 * anything is shown; what is round but for its last bits is kept to the bit, and so is what is not finite, or too large for the grid, is kept as it is. Block by block and column by column the
 * change from row to row is written, or the change of the change where that is shorter, in as few bytes as it needs; where
 * nothing changes, how long.
 */
export const GRID = 1e6
/** Numbers from here on are not on the grid: a double tells them exactly as they are. */
const LARGEST = 0x1_0000_0000

/** What lies so near the grid is a round number but for the last bits of some arithmetic: it is kept to the bit, as it may be compared with a round one. */
const ROUND = 1e-9

/** A number as the codec gives it back. */
export function onGrid(x: number): number {
  if (!(Math.abs(x) < LARGEST)) return x
  const near = Math.round(x * GRID) / GRID + 0
  return Math.abs(x - near) < ROUND ? x + 0 : near
}

/** Bytes that grow. */
export class ByteWriter {
  private bytes = new Uint8Array(1024)
  private view = new DataView(this.bytes.buffer)
  length = 0

  private room(count: number): void {
    if (this.length + count <= this.bytes.length) return
    const larger = new Uint8Array(Math.max(2 * this.bytes.length, this.length + count))
    larger.set(this.bytes)
    this.bytes = larger
    this.view = new DataView(larger.buffer)
  }

  byte(value: number): void {
    this.room(1)
    this.bytes[this.length++] = value
  }

  double(value: number): void {
    this.room(8)
    this.view.setFloat64(this.length, value, true)
    this.length += 8
  }

  /** A whole number from 0 to 2^53, seven bits a byte, the lowest first. */
  whole(value: number): void {
    let left = value
    while (left >= 128) {
      this.byte(left % 128 + 128)
      left = Math.floor(left / 128)
    }
    this.byte(left)
  }

  /** Bytes behind their number. */
  block(bytes: Uint8Array): void {
    this.whole(bytes.length)
    this.room(bytes.length)
    this.bytes.set(bytes, this.length)
    this.length += bytes.length
  }

  /** Bytes as they are. */
  all(bytes: Uint8Array): void {
    this.room(bytes.length)
    this.bytes.set(bytes, this.length)
    this.length += bytes.length
  }

  clear(): void { this.length = 0 }

  taken(): Uint8Array<ArrayBuffer> { return this.bytes.slice(0, this.length) }
}

/** Reads what ByteWriter wrote. Throws RangeError beyond the end. */
export class ByteReader {
  private readonly view: DataView
  at = 0

  constructor(private readonly bytes: Uint8Array) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  }

  get atEnd(): boolean { return this.at >= this.bytes.length }

  byte(): number {
    if (this.at >= this.bytes.length) throw new RangeError('the bytes end too soon')
    return this.bytes[this.at++]!
  }

  double(): number {
    if (this.at + 8 > this.bytes.length) throw new RangeError('the bytes end too soon')
    this.at += 8
    return this.view.getFloat64(this.at - 8, true)
  }

  whole(): number {
    let value = 0
    let scale = 1
    for (let i = 0; i < 8; i++) {
      const byte = this.byte()
      value += (byte % 128) * scale
      if (byte < 128) return value
      scale *= 128
    }
    throw new RangeError('a number is too long')
  }

  /** A view of what was read since a place. */
  since(at: number): Uint8Array { return this.bytes.subarray(at, this.at) }

  block(): Uint8Array {
    const length = this.whole()
    if (this.at + length > this.bytes.length) throw new RangeError('the bytes end too soon')
    this.at += length
    return this.bytes.subarray(this.at - length, this.at)
  }
}

/** More numbers than any block holds: bytes from elsewhere must not take all memory. */
const MOST_NUMBERS = 0x800_0000

/** Signed whole numbers as unsigned ones, small ones small. */
const folded = (n: number): number => n < 0 ? -2 * n - 1 : 2 * n
const unfolded = (n: number): number => n % 2 === 0 ? n / 2 : -(n + 1) / 2

/** How a column is written: it is one number, changes, changes of changes; and the last two where some numbers are off the grid. */
const ONE = 0
const CHANGES = 1
const BENDS = 2
const OFF_GRID = 4

/** Writes some rows of a width, one behind another. */
export function writeRows(rows: Float64Array, width: number, into: ByteWriter): void {
  const count = rows.length / width
  const steps = new Float64Array(count)
  const first = new ByteWriter()
  const second = new ByteWriter()
  into.whole(count)
  for (let column = 0; column < width; column++) {
    const off: number[] = []
    let same = true
    let before = 0
    for (let i = 0; i < count; i++) {
      const x = onGrid(rows[i * width + column]!)
      if (!Object.is(x, onGrid(rows[column]!))) same = false
      // One that is too large stands as the one before it.
      if (Math.abs(x) < LARGEST) before = Math.round(x * GRID)
      if (!(Math.abs(x) < LARGEST) || x !== before / GRID) off.push(i)
      steps[i] = before
    }
    if (same && count > 0) {
      into.byte(ONE)
      into.double(onGrid(rows[column]!))
      continue
    }
    writeChanges(steps, first, false)
    writeChanges(steps, second, true)
    const bends = second.length < first.length
    into.byte((bends ? BENDS : CHANGES) + (off.length > 0 ? OFF_GRID : 0))
    into.block((bends ? second : first).taken())
    if (off.length > 0) writeOff(off, rows, width, column, into)
  }
}

function writeChanges(steps: Float64Array, into: ByteWriter, bends: boolean): void {
  into.clear()
  let value = 0
  let change = 0
  let still = 0
  for (let i = 0; i < steps.length; i++) {
    const next = steps[i]! - value
    const told = bends ? next - change : next
    value = steps[i]!
    change = next
    if (told === 0) { still++; continue }
    if (still > 0) { into.byte(0); into.whole(still); still = 0 }
    into.whole(folded(told))
  }
  if (still > 0) { into.byte(0); into.whole(still) }
}

/** Numbers off the grid: stretches of the same, each with its first row and length. */
function writeOff(off: readonly number[], rows: Float64Array, width: number, column: number, into: ByteWriter): void {
  const stretches: { from: number, length: number, value: number }[] = []
  for (const i of off) {
    const value = onGrid(rows[i * width + column]!)
    const last = stretches.at(-1)
    if (last !== undefined && last.from + last.length === i && Object.is(last.value, value)) last.length++
    else stretches.push({ from: i, length: 1, value })
  }
  into.whole(stretches.length)
  let end = 0
  for (const s of stretches) {
    into.whole(s.from - end)
    end = s.from + s.length
    into.whole(s.length)
    into.double(s.value)
  }
}

/** Reads what `writeRows` wrote. Throws RangeError where the bytes are none of it. */
export function readRows(from: ByteReader, width: number): Float64Array<ArrayBuffer> {
  const count = from.whole()
  if (count * width > MOST_NUMBERS) throw new RangeError('more rows than a block holds')
  const rows = new Float64Array(count * width)
  for (let column = 0; column < width; column++) columnInto(from, count, rows, column, width)
  return rows
}

/** The bytes of what `writeRows` wrote, and how many rows that is; nothing of it is read but where it ends. */
export function passRows(from: ByteReader, width: number): { readonly rows: number, readonly bytes: Uint8Array } {
  const begin = from.at
  const rows = from.whole()
  if (rows * width > MOST_NUMBERS) throw new RangeError('more rows than a block holds')
  for (let i = 0; i < width; i++) skipColumn(from)
  return { rows, bytes: from.since(begin) }
}

/** One column of what `writeRows` wrote, without the others. */
export function readColumn(from: ByteReader, column: number): Float64Array<ArrayBuffer> {
  const count = from.whole()
  if (count > MOST_NUMBERS) throw new RangeError('more rows than a block holds')
  for (let i = 0; i < column; i++) skipColumn(from)
  const values = new Float64Array(count)
  columnInto(from, count, values, 0, 1)
  return values
}

function skipColumn(from: ByteReader): void {
  const how = from.byte()
  if (how === ONE) { from.double(); return }
  from.block()
  if ((how & OFF_GRID) === 0) return
  for (let n = from.whole(); n > 0; n--) { from.whole(); from.whole(); from.double() }
}

function columnInto(from: ByteReader, count: number, rows: Float64Array, column: number, width: number): void {
  const how = from.byte()
  if (how === ONE) {
    const value = from.double()
    for (let i = 0; i < count; i++) rows[i * width + column] = value
    return
  }
  const bends = (how & BENDS) !== 0
  const changes = new ByteReader(from.block())
  let value = 0
  let change = 0
  let still = 0
  for (let i = 0; i < count; i++) {
    let told = 0
    if (still > 0) still--
    else {
      const n = changes.whole()
      if (n === 0) still = changes.whole() - 1
      else told = unfolded(n)
    }
    change = bends ? change + told : told
    value += change
    rows[i * width + column] = value / GRID
  }
  if ((how & OFF_GRID) === 0) return
  let end = 0
  for (let n = from.whole(); n > 0; n--) {
    const first = end + from.whole()
    const length = from.whole()
    const off = from.double()
    end = first + length
    if (first + length > count) throw new RangeError('a stretch is too long')
    for (let i = first; i < first + length; i++) rows[i * width + column] = off
  }
}
