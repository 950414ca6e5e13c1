import { TapeHash } from './hash'
import type { TapeLayout } from './layout'
import { RowStore } from './rows'

/** Something that happened in a tick. */
export interface TapeEvent {
  readonly tick: number
  readonly type: 'note' | 'finish' | 'signal' | 'blocked' | 'error' | 'contact' | 'fall' | 'goal' | 'poke' | 'clipped' | 'show' | 'fed' | 'arena' | 'held'
  readonly text: string
  /** What it is about: a lane, a piece, a goal, an actuator. */
  readonly about: string
  /** Of a hand's interference, what exactly it did: whoever runs it again does the same. */
  readonly poke?: object
}

export interface TapeState { readonly rows: number, readonly events: number, readonly hash: readonly [number, number] }

/** What of a run is kept: everything; its events and fingerprint; or its events alone, which is the fastest. */
export type Keeping = 'all' | 'fingerprint' | 'events'

/** The record of a run: one row of numbers a tick, and the events between. It grows while the run goes on. */
export class Tape {
  readonly events: TapeEvent[] = []
  /** The row being written; `commit` keeps it. */
  readonly row: Float64Array
  private readonly kept: RowStore
  private readonly hash = new TapeHash()
  private readonly words: Uint32Array
  private count = 0
  /** How many events of before are not kept. */
  private forgotten = 0

  constructor(readonly layout: TapeLayout, readonly keeping: Keeping = 'all') {
    this.row = new Float64Array(layout.width)
    this.words = new Uint32Array(this.row.buffer)
    this.kept = new RowStore(layout.width)
  }

  /** Ticks that were recorded. */
  get rows(): number { return this.count }

  /** The first row that is kept: 0, but on a tape that went on from another's state; all of them where rows are not kept. */
  get first(): number { return this.keeping === 'all' ? this.kept.first : this.count }

  /** Keeps the row as the next tick. */
  commit(): void {
    if (this.keeping !== 'events') this.hash.numbers(this.words)
    if (this.keeping === 'all') this.kept.append(this.row)
    this.count++
  }

  /** Takes over rows and events that another tape has recorded; this one has no fingerprint of its own. */
  append(rows: Float64Array, events: readonly TapeEvent[]): void {
    for (let at = 0; at < rows.length; at += this.layout.width) {
      this.kept.append(rows, at)
      this.count++
    }
    for (const event of events) this.events.push(event)
  }

  /** Takes over a block of rows as `blocks` of another tape of the same layout gave it. Throws RangeError where it is none. */
  take(block: Uint8Array): void {
    this.kept.take(block)
    this.count = this.kept.rows
  }

  /** The rows that are kept from a tick on as bytes, block by block, a tenth of their size. */
  blocks(from = this.first): Generator<Uint8Array> { return this.kept.blocks(from) }

  event(event: TapeEvent): void {
    this.events.push(event)
    if (this.keeping !== 'events') this.hash.text(`${event.tick} ${event.type} ${event.about} ${event.text}`)
  }

  /** One row, as a view; throws RangeError beyond the end, and before what is kept. */
  at(tick: number): Float64Array { return this.kept.at(tick) }

  /** One row; null when there is none at that tick. */
  find(tick: number): Float64Array | null { return tick >= this.kept.first && tick < this.kept.rows ? this.kept.at(tick) : null }

  /** One number of a row that is kept: quick also far back. */
  value(tick: number, column: number): number { return this.kept.value(tick, column) }

  /** A copy of the rows from one tick up to another (exclusive). */
  slice(from: number, to: number): Float64Array<ArrayBuffer> { return this.kept.slice(from, to) }

  /** Fingerprint of all that was recorded, sixteen hexadecimal digits; of runs without one, of nothing. */
  digest(): string { return this.hash.digest() }

  state(): TapeState { return { rows: this.count, events: this.forgotten + this.events.length, hash: this.hash.snapshot() } }

  /** Forgets what came after a state. Of a state that another tape was in, what came before is not known either; the fingerprint is. */
  rewind(state: TapeState): void {
    if (state.rows > this.count || state.rows < this.first || state.events > this.forgotten + this.events.length) {
      this.forgotten = state.events
      this.events.length = 0
      this.kept.forget(state.rows)
    } else {
      this.events.length = state.events - this.forgotten
      if (this.keeping === 'all') this.kept.rewind(state.rows)
    }
    this.count = state.rows
    this.hash.restore(state.hash)
  }
}
