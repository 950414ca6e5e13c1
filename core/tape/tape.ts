import { TapeHash } from './hash'
import type { TapeLayout } from './layout'

/** Something that happened in a tick. */
export interface TapeEvent {
  readonly tick: number
  readonly type: 'note' | 'finish' | 'signal' | 'blocked' | 'error' | 'contact' | 'fall' | 'goal' | 'poke' | 'clipped' | 'show' | 'fed'
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
  private readonly blocks: Float64Array[] = []
  private readonly hash = new TapeHash()
  private count = 0
  /** The row being written; `commit` keeps it. */
  readonly row: Float64Array
  private readonly words: Uint32Array

  constructor(readonly layout: TapeLayout) {
    this.row = new Float64Array(layout.width)
    this.words = new Uint32Array(this.row.buffer)
  }

  get rows(): number { return this.count }

  /** Keeps the row as the next tick. */
  commit(): void {
    const at = this.count % BLOCK
    if (at === 0 && this.blocks.length * BLOCK === this.count) this.blocks.push(new Float64Array(BLOCK * this.layout.width))
    this.blocks[Math.floor(this.count / BLOCK)]!.set(this.row, at * this.layout.width)
    this.hash.numbers(this.words)
    this.count++
  }

  event(event: TapeEvent): void {
    this.events.push(event)
    this.hash.text(`${event.tick} ${event.type} ${event.about} ${event.text}`)
  }

  /** One row, as a view; throws RangeError beyond the end. */
  at(tick: number): Float64Array {
    if (!(tick >= 0 && tick < this.count)) throw new RangeError(`no row ${tick} of ${this.count}`)
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

  state(): TapeState { return { rows: this.count, events: this.events.length, hash: this.hash.snapshot() } }

  /** Forgets what came after a state. */
  rewind(state: TapeState): void {
    this.count = state.rows
    this.events.length = state.events
    this.blocks.length = Math.ceil(state.rows / BLOCK)
    this.hash.restore(state.hash)
  }
}
