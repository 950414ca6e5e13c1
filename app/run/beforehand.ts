/** What a page that is being closed may still say, bytes, with room for what stands around it: a browser sends 64 kB in all. */
const FAREWELL = 48_000
/** A hand as it stands in a record, bytes, about. */
const HAND = 120
/** Milliseconds between two looks at how much there is to say. */
const LOOKS = 2000

/** What a run can be run again from, as far as it has come. */
export interface LeftRecord { readonly ticks: number, readonly pokes: readonly unknown[] }
/** What there is to say of a run when its page is closed: the whole, or what came since it was told of. */
export interface LeftRun { readonly begun: string | null, readonly record: object }
/** Sends a record; the name under which it is known then, null where it could not be. */
type Tell = (record: LeftRecord, instead: string | null) => Promise<string | null>

/**
 * Runs that are too large to be told of when their page is closed are told of beforehand: when they begin, and again when many hands
 * have been laid on them since.
 */
export class Beforehand {
  private run = -1
  private told: { readonly id: string, readonly pokes: number } | null = null
  private telling = false
  /** What there is to say besides hands, bytes. */
  private weight = 0
  private looked = 0
  /** It was not taken: too large, or nobody there. It is not sent again and again. */
  private refused = false

  constructor(private readonly tell: Tell) {}

  /** A run goes on, which can be run again from this. Tells of it where that is due; `now` in milliseconds. */
  came(run: number, now: number, record: () => LeftRecord): void {
    const another = run !== this.run
    if (!another && (this.telling || this.refused || now - this.looked < LOOKS)) return
    this.looked = now
    const come = record()
    if (another) {
      this.run = run
      this.told = null
      this.refused = false
      this.weight = new TextEncoder().encode(JSON.stringify({ ...come, pokes: [] })).length
    }
    const pokes = come.pokes.length
    const unsaid = (this.told === null ? this.weight : 0) + (pokes - (this.told?.pokes ?? 0)) * HAND
    if (unsaid < FAREWELL) return
    this.telling = true
    void this.tell(come, this.told?.id ?? null).then((id) => {
      this.telling = false
      if (run !== this.run) return
      if (id === null) this.refused = true
      else this.told = { id, pokes }
    })
  }

  /** What is left to say of a run. */
  rest(run: number, record: LeftRecord): LeftRun {
    const { told } = this
    return run !== this.run || told === null ? { begun: null, record } : { begun: told.id, record: { ticks: record.ticks, pokes: record.pokes.slice(told.pokes) } }
  }
}
