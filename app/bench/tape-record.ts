import type { TapeEvent, TapeLayout } from '~~/core/tape'

/** Rows per block of memory. */
const BLOCK = 1024

/** The page's own copy of a run's tape: rows as they arrive, any instant at hand. */
export class TapeRecord {
  private readonly blocks: Float64Array[] = []
  private count = 0
  readonly events: TapeEvent[] = []

  constructor(readonly layout: TapeLayout) {}

  get rows(): number { return this.count }

  append(rows: Float64Array, events: readonly TapeEvent[]): void {
    const { width } = this.layout
    for (let at = 0; at < rows.length; at += width) {
      if (this.count % BLOCK === 0) this.blocks.push(new Float64Array(BLOCK * width))
      this.blocks[this.blocks.length - 1]!.set(rows.subarray(at, at + width), (this.count % BLOCK) * width)
      this.count++
    }
    this.events.push(...events)
  }

  /** One row; null when there is none at that tick. */
  row(tick: number): Float64Array | null {
    if (!(tick >= 0 && tick < this.count)) return null
    const start = (tick % BLOCK) * this.layout.width
    return this.blocks[Math.floor(tick / BLOCK)]!.subarray(start, start + this.layout.width)
  }

  /** A row that there is. */
  at(tick: number): Float64Array { return this.row(tick)! }

  value(tick: number, column: number): number {
    return this.blocks[Math.floor(tick / BLOCK)]![(tick % BLOCK) * this.layout.width + column]!
  }
}
