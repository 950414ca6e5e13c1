import { randomUUID } from 'node:crypto'

/** Of so many runs that pages have under way it is known what they are made of, up to six megabytes each; of more, the first told are forgotten. */
const MOST = 16

/** A run as its page tells of it: what it is made of, hands included, as far as it has come. */
export interface ToldRun { readonly ticks?: unknown, readonly pokes?: unknown }

/** Runs that are under way on pages and too large to be told of when such a page is closed: they are told of beforehand. Gone with the server. */
export class BegunRuns {
  private readonly runs = new Map<string, ToldRun>()

  /** Remembers a run, under a name of its own. */
  add(record: ToldRun): string {
    const id = randomUUID()
    this.runs.set(id, record)
    for (const old of this.runs.keys()) {
      if (this.runs.size <= MOST) break
      this.runs.delete(old)
    }
    return id
  }

  /** The run as far as it had come at last, and is not remembered any longer; null for one that is not known. `rest`: its ticks, and the pokes that came after it was told. */
  take(id: string, rest: ToldRun): object | null {
    const begun = this.runs.get(id)
    if (begun === undefined) return null
    this.runs.delete(id)
    const pokes = (told: ToldRun): readonly unknown[] => Array.isArray(told.pokes) ? told.pokes : []
    return { ...begun, ticks: rest.ticks, pokes: [...pokes(begun), ...pokes(rest)] }
  }

  /** It was kept whole, or another was told in its place. */
  forget(id: string): void { this.runs.delete(id) }
}

export const begunRuns = new BegunRuns()
