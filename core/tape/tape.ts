import { TapeHash } from './hash'
import type { TapeLayout } from './layout'

/** Something that happened in a tick. */
export interface TapeEvent {
  readonly tick: number
  readonly type: 'note' | 'finish' | 'signal' | 'blocked' | 'error' | 'contact' | 'fall' | 'goal' | 'poke' | 'clipped' | 'show' | 'fed' | 'arena' | 'held'
  readonly text: string
  /** What it is about: a lane, a piece, a goal, an actuator. */
  readonly about: string
}

export interface TapeState { readonly rows: number, readonly events: number, readonly hash: readonly [number, number] }

/** Rows per block of memory: about ten seconds. */
const BLOCK = 512

/** The record of a run: one row of numbers a tick, and the events between. */
export class Tape {
  readonly events: TapeEvent[] = []
  private readonly blocks: (Float64Array | undefined)[] = []
  private readonly hash = new TapeHash()
  private count = 0
  private from = 0
  /** How many events of before are not kept. */
  private forgotten = 0
  /** The row being written; `commit` keeps it. */
  readonly row: Float64Array
  private readonly words: Uint32Array

  constructor(readonly layout: TapeLayout) {
    this.row = new Float64Array(layout.width)
    this.words = new Uint32Array(this.row.buffer)
  }

  get rows(): number { return this.count }

  /** The first row that is kept: 0, but on a tape that went on from another's state. */
  get first(): number { return this.from }

  /** Keeps the row as the next tick. */
  commit(): void {
    const block = Math.floor(this.count / BLOCK)
    const kept = this.blocks[block] ??= new Float64Array(BLOCK * this.layout.width)
    kept.set(this.row, (this.count % BLOCK) * this.layout.width)
    this.hash.numbers(this.words)
    this.count++
  }

  event(event: TapeEvent): void {
    this.events.push(event)
    this.hash.text(`${event.tick} ${event.type} ${event.about} ${event.text}`)
  }

  /** One row, as a view; throws RangeError beyond the end, and before what is kept. */
  at(tick: number): Float64Array {
    if (!(tick >= this.from && tick < this.count)) throw new RangeError(`no row ${tick} of ${this.from} to ${this.count}`)
    const start = (tick % BLOCK) * this.layout.width
    return this.blocks[Math.floor(tick / BLOCK)]!.subarray(start, start + this.layout.width)
  }

  /** A copy of the rows from one tick up to another (exclusive). */
  slice(from: number, to: number): Float64Array {
    const out = new Float64Array(Math.max(0, to - from) * this.layout.width)
    for (let t = from; t < to; t++) out.set(this.at(t), (t - from) * this.layout.width)
    return out
  }

  /** Fingerprint of all that was recorded, sixteen hexadecimal digits. */
  digest(): string { return this.hash.digest() }

  state(): TapeState { return { rows: this.count, events: this.forgotten + this.events.length, hash: this.hash.snapshot() } }

  /** Forgets what came after a state. Of a state that another tape was in, what came before is not known either; the fingerprint is. */
  rewind(state: TapeState): void {
    if (state.rows > this.count || state.rows < this.from || state.events > this.forgotten + this.events.length) {
      this.from = state.rows
      this.forgotten = state.events
      this.events.length = 0
      this.blocks.length = 0
    } else this.events.length = state.events - this.forgotten
    this.count = state.rows
    this.blocks.length = Math.ceil(state.rows / BLOCK)
    this.hash.restore(state.hash)
  }
}
