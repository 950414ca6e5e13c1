import { randomUUID } from 'node:crypto'

/** Of so many runs that pages have under way it is known what they are made of; of more, the first told are forgotten. */
const MOST = 16
/** One may be told of in so many letters: an hour of what a robot with ten real devices reads. */
const LONGEST = 64_000_000

/**
 * A run as its page tells of it: what it is made of, hands included, and what real devices read (a list of numbers as bytes in letters), as far as it has
 * come; or what came since it was told `at`, so many hands and pieces of what was read.
 */
export interface ToldRun { readonly ticks?: unknown, readonly pokes?: unknown, readonly heard?: unknown, readonly at?: unknown }

const listOf = (value: unknown): readonly unknown[] => Array.isArray(value) ? value : []

/** Runs that are under way on pages and too large to be told of when such a page is closed: they are told of beforehand. Gone with the server. */
export class BegunRuns {
  private readonly runs = new Map<string, { readonly record: ToldRun, readonly pokes: unknown[], readonly heard: unknown[] }>()

  /** Remembers a run, under a name of its own. */
  add(record: ToldRun): string {
    const id = randomUUID()
    this.runs.set(id, { record, pokes: [...listOf(record.pokes)], heard: [...listOf(record.heard)] })
    for (const old of this.runs.keys()) {
      if (this.runs.size <= MOST) break
      this.runs.delete(old)
    }
    return id
  }

  /** What came of a run since it was told of; what it tells again is in it once. False for one that is not known, or that grows too long: it is forgotten then. */
  more(id: string, { pokes, heard, at }: ToldRun): boolean {
    const run = this.runs.get(id)
    if (run === undefined) return false
    const { pokes: hands, heard: pieces } = (at ?? {}) as { readonly pokes?: unknown, readonly heard?: unknown }
    for (const [list, from, more] of [[run.pokes, hands, pokes], [run.heard, pieces, heard]] as const) {
      if (typeof from === 'number') list.splice(from)
      list.push(...listOf(more))
    }
    if (run.heard.reduce((sum: number, p) => sum + (typeof p === 'string' ? p.length : 0), 0) <= LONGEST) return true
    this.runs.delete(id)
    return false
  }

  /** The run as far as it had come at last, and is not remembered any longer; null for one that is not known. `rest`: its ticks, and what came after it was told of last. */
  take(id: string, rest: ToldRun): object | null {
    if (!this.more(id, rest)) return null
    const { record, pokes, heard } = this.runs.get(id)!
    this.runs.delete(id)
    return { ...record, ticks: rest.ticks, pokes, ...record.heard === undefined ? {} : { heard } }
  }
}

export const begunRuns = new BegunRuns()
