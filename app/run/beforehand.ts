import { toBase64 } from '~~/core/base64'

/** What a page that is being closed may still say, bytes, with room for what stands around it: a browser sends 64 kB in all. */
const FAREWELL = 48_000
/** A hand as it stands in a record, bytes, about; and letters of a number that a real device read. */
const HAND = 120
const NUMBER = 11
/** Milliseconds between two looks at how much there is to say. */
const LOOKS = 2000

/** What a run can be run again from, as far as it has come. `heard`: what real devices read, row by row (`Heard` of core/simulation), in the pieces that it came in. */
export interface LeftRecord { readonly ticks: number, readonly pokes: readonly unknown[], readonly heard?: readonly Float64Array[] }
/** What there is to say of a run when its page is closed: the whole, or what came since it was told of. */
export interface LeftRun { readonly begun: string | null, readonly record: object }
/** Sends a record; `more`: to what is known under that name already, what came since. The name under which it is known then, null where it could not be. */
type Tell = (record: object, more: string | null) => Promise<string | null>

/** How much of a run was said. */
interface Said { readonly pokes: number, readonly pieces: number }
const NOTHING: Said = { pokes: 0, pieces: 0 }

/**
 * Runs that are too large to be told of when their page is closed are told of beforehand: when they begin, and again, by what came since, when many
 * hands have been laid on them or real devices have read much.
 */
export class Beforehand {
  private run = -1
  private told: { readonly id: string, readonly said: Said } | null = null
  private telling = false
  /** What there is to say besides hands and devices, bytes. */
  private weight = 0
  private looked = 0
  /** How much there was to say when it was looked at last. */
  private before = 0
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
      this.before = 0
      this.weight = new TextEncoder().encode(JSON.stringify({ ...come, pokes: [], heard: [] })).length
    }
    const unsaid = this.unsaid(come)
    // What comes until the next look has to have room as well, with as much again to be sure.
    const grows = Math.max(0, unsaid - this.before)
    this.before = unsaid
    if (unsaid + 2 * grows < FAREWELL) return
    this.telling = true
    const said = { pokes: come.pokes.length, pieces: come.heard?.length ?? 0 }
    void this.tell(this.told === null ? whole(come) : since(come, this.told.said), this.told?.id ?? null).then((id) => {
      this.telling = false
      if (run !== this.run) return
      if (id === null) this.refused = true
      else this.told = { id, said }
      this.before = 0
    })
  }

  private unsaid({ pokes, heard = [] }: LeftRecord): number {
    const { said } = this.told ?? { said: NOTHING }
    return (this.told === null ? this.weight : 0) + (pokes.length - said.pokes) * HAND + heard.slice(said.pieces).reduce((sum, piece) => sum + piece.length, 0) * NUMBER
  }

  /** What is left to say of a run. */
  rest(run: number, record: LeftRecord): LeftRun {
    const { told } = this
    return run !== this.run || told === null ? { begun: null, record: whole(record) } : { begun: told.id, record: since(record, told.said) }
  }
}

const whole = ({ heard, ...record }: LeftRecord): object => heard === undefined ? record : { ...record, heard: letters(heard) }
const since = ({ ticks, pokes, heard }: LeftRecord, said: Said): object => ({ ticks, pokes: pokes.slice(said.pokes), ...heard === undefined ? {} : { heard: letters(heard.slice(said.pieces)) } })

/** Numbers as their bytes in letters; a list, as the server puts more behind it. */
function letters(pieces: readonly Float64Array[]): readonly string[] {
  const all = new Float64Array(pieces.reduce((sum, p) => sum + p.length, 0))
  let at = 0
  for (const piece of pieces) { all.set(piece, at); at += piece.length }
  return all.length === 0 ? [] : [toBase64(new Uint8Array(all.buffer))]
}
