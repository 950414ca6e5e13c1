import { toBase64 } from '~~/core/base64'

/** What a page that is being closed may still say, bytes, with room for what stands around it: a browser sends 64 kB in all. */
const FAREWELL = 48_000
/** A hand as it stands in a record, bytes, about; and letters of a number that a real device read. */
const HAND = 120
const NUMBER = 11
/** Milliseconds between two looks at how much there is to say. */
const LOOKS = 2000

/** What a run can be run again from, as far as it has come, but for what real devices read. */
export interface LeftRecord { readonly ticks: number, readonly pokes: readonly unknown[] }
/** How much the server was told of a run: so many hands, and so often what devices read. */
interface Told { readonly pokes: number, readonly heard: number }
/** What is said of a run: a record, or what came of it since the server was told `at`; with what its real devices read since, numbers row by row as bytes in letters. */
export interface SaidRun extends LeftRecord { readonly at?: Told, readonly heard?: readonly string[] }
/** What there is to say of a run when its page is closed: the whole, or what came since it was told of. */
export interface LeftRun { readonly begun: string | null, readonly record: SaidRun }
/** Sends a run; `more`: to what is known under that name already. The name under which it is known then, null where it could not be. */
type Tell = (record: SaidRun, more: string | null) => Promise<string | null>

/**
 * Runs that are too large to be told of when their page is closed are told of beforehand: when they begin, and again, by what came since, when many
 * hands have been laid on them or real devices have read much.
 */
export class Beforehand {
  private run = -1
  private told: { readonly id: string, readonly so: Told } | null = null
  private telling = false
  /** What there is to say besides hands and devices, bytes. */
  private weight = 0
  private looked = 0
  /** How much there was to say when it was looked at last. */
  private before = 0
  /** It was not taken: too large, or nobody there. It is not sent again and again. */
  private refused = false
  /** The run whose real devices are heard, and what they read that the server was not told. */
  private hears = -1
  private heard: Float64Array[] = []

  constructor(private readonly tell: Tell) {}

  /** Real devices of a run read this, row by row (`Heard` of core/simulation). */
  hear(run: number, numbers: Float64Array): void {
    if (run !== this.hears) { this.hears = run; this.heard = [] }
    this.heard.push(numbers)
  }

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
      // Of what it begins with nothing grows.
      this.before = Infinity
      this.weight = new TextEncoder().encode(JSON.stringify({ ...come, pokes: [] })).length
    }
    const unsaid = this.unsaid(come)
    // What comes until the next look has to have room as well, with as much again to be sure.
    const grows = Math.max(0, unsaid - this.before)
    this.before = unsaid
    if (unsaid + 2 * grows < FAREWELL) return
    this.telling = true
    const pieces = this.hears === run ? this.heard.length : 0
    const then = { pokes: come.pokes.length, heard: (this.told?.so.heard ?? 0) + (this.hears === run ? 1 : 0) }
    void this.tell(this.say(come), this.told?.id ?? null).then((id) => {
      this.telling = false
      if (run !== this.run) return
      this.before = 0
      if (id === null) { this.refused = true; return }
      this.told = { id, so: then }
      if (this.hears === run) this.heard.splice(0, pieces)
    })
  }

  private unsaid({ pokes }: LeftRecord): number {
    const numbers = this.hears === this.run ? this.heard.reduce((sum, piece) => sum + piece.length, 0) : 0
    return (this.told === null ? this.weight : 0) + (pokes.length - (this.told?.so.pokes ?? 0)) * HAND + numbers * NUMBER
  }

  private say(record: LeftRecord): SaidRun {
    const heard = this.hears === this.run ? { heard: [letters(this.heard)] } : {}
    if (this.told === null) return { ...record, ...heard }
    const { so } = this.told
    return { ticks: record.ticks, pokes: record.pokes.slice(so.pokes), at: so, ...heard }
  }

  /** What is left to say of a run. */
  rest(run: number, record: LeftRecord): LeftRun {
    if (run === this.run) return { begun: this.told?.id ?? null, record: this.say(record) }
    return { begun: null, record: run === this.hears ? { ...record, heard: [letters(this.heard)] } : record }
  }
}

/** Numbers as their bytes in letters. */
function letters(pieces: readonly Float64Array[]): string {
  const all = new Float64Array(pieces.reduce((sum, p) => sum + p.length, 0))
  let at = 0
  for (const piece of pieces) { all.set(piece, at); at += piece.length }
  return toBase64(new Uint8Array(all.buffer))
}
