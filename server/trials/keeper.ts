import type { Ran, TrialProgress } from '../../core/trials'
import type { Arena } from '../../core/arena'
import type { TrialRepository } from '../database/trials'

/** What came is written this often, milliseconds. */
const WRITE = 250
/** Runs a second are told of so long, milliseconds. */
const LATE = 10_000

/** Writes what comes of a plan's runs as it comes, and says how far it is. */
export class Keeper {
  /** Aborts when what came could not be written: nothing more is to be done. */
  readonly broken = new AbortController()
  private readonly begun = Date.now()
  private readonly timer = setInterval(() => this.write(), WRITE)
  /** When each of the latest was done. */
  private came: number[] = []
  private unwritten: Ran[] = []
  private since = Date.now()
  private writing = Promise.resolve()
  private trouble: unknown = null

  /** `count` runs of `total` are done already; `tell` hears how far it is, and how long the last took, milliseconds. */
  constructor(private readonly plans: TrialRepository, private readonly plan: { readonly id: string, readonly arena: Arena, readonly total: number }, private count: number, private readonly tell: (progress: TrialProgress, spent: number) => void) {
    tell({ id: plan.id, done: count, rate: null, left: null }, 0)
  }

  /** Takes what came of a run. */
  take(ran: Ran): void {
    this.unwritten.push(ran)
    this.count++
    this.came.push(Date.now())
  }

  /** Resolves when all is written that came; throws where it could not be. */
  async written(): Promise<void> {
    await this.write()
    if (this.trouble !== null) throw this.trouble as Error
  }

  async end(): Promise<void> {
    clearInterval(this.timer)
    await this.writing
  }

  private write(): Promise<void> {
    this.writing = this.writing.then(() => this.writeNow()).catch((error: unknown) => {
      this.trouble ??= error
      this.broken.abort()
    })
    return this.writing
  }

  private async writeNow(): Promise<void> {
    const [batch, spent] = [this.unwritten, Date.now() - this.since]
    this.unwritten = []
    this.since = Date.now()
    if (batch.length === 0) return
    const { id, arena, total } = this.plan
    await this.plans.keep(id, arena, batch, spent)
    this.came = this.came.filter(at => at > Date.now() - LATE)
    const rate = this.came.length / Math.min(LATE, Date.now() - this.begun) * 1000
    this.tell({ id, done: this.count, rate, left: rate > 0 ? (total - this.count) / rate : null }, spent)
  }
}
