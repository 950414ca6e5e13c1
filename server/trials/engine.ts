import { NotYet, answersOf, batchOf, isSure, search, type CheckedPlan, type TrialBasis, type TrialProgress } from '../../core/trials'
import { runJobs, shareOf, type Runner } from '../../jobs/runner'
import type { TrialAnswer, TrialRepository } from '../database/trials'
import { log } from '../utils/log'
import { Keeper } from './keeper'

/** A plan's state changed, or it came farther. */
export interface Word { readonly project: string, readonly id: string, readonly progress: TrialProgress | null }

/** After trouble with the store it is tried again, milliseconds. */
const AGAIN = 3000

/**
 * Goes through plans, one after the other, by a runner. What it has done is in the store: a server that starts anew goes on where the one before
 * was killed, and does again what was under way then.
 */
export class TrialEngine {
  private readonly listeners = new Set<(word: Word) => void>()
  private readonly closing = new AbortController()
  private current: { readonly id: string, readonly stop: AbortController } | null = null
  private last: TrialProgress | null = null
  private going: Promise<void> | null = null
  private again = false
  /** Seconds of simulated time done in so many milliseconds, since it began. */
  private readonly speed = { simulated: 0, spent: 0 }

  private readonly troubled = new Set<(trouble: string | null) => void>()

  constructor(private readonly plans: TrialRepository, private readonly runner: Runner) {
    runner.onTrouble = () => { for (const listener of this.troubled) listener(runner.trouble) }
  }

  /** There may be something to do. */
  wake(): void {
    if (this.closing.signal.aborted) return
    this.again = true
    this.going ??= this.goOn().catch((error: unknown) => {
      log.error(`trials: ${error instanceof Error ? error.message : String(error)}`)
      setTimeout(() => this.wake(), AGAIN).unref()
    }).finally(() => {
      this.going = null
      // Something came while it was ending.
      if (this.again) this.wake()
    })
  }

  /** Seconds of simulated time that are done in a second; null before anything was. */
  get pace(): number | null { return this.speed.spent < 1000 ? null : this.speed.simulated / this.speed.spent * 1000 }

  /** Why nothing can be done at present; null while all is well. */
  get trouble(): string | null { return this.runner.trouble }

  /** How far the plan that is under way has come; null for any other. */
  progressOf(id: string): TrialProgress | null { return this.last?.id === id ? this.last : null }

  /** Ends a plan at once; what it has done stays. False when it was neither under way nor waiting. */
  async cancel(id: string): Promise<boolean> {
    const done = await this.plans.setState(id, 'cancelled')
    if (this.current?.id === id) this.current.stop.abort()
    else if (done) await this.tell(id)
    return done
  }

  /** Hears of plans until it says that it does no more. */
  listen(listener: (word: Word) => void): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  /** Hears when what is in the way of all plans (`trouble`) changes. */
  listenTrouble(listener: (trouble: string | null) => void): () => void {
    this.troubled.add(listener)
    return () => this.troubled.delete(listener)
  }

  /** Stops; plans stay as they are, and go on with the next engine. */
  async close(): Promise<void> {
    this.closing.abort()
    this.current?.stop.abort()
    await this.going
    await this.runner.close()
  }

  /** When nothing is to be done any more; for tests. */
  async idle(): Promise<void> { while (this.going !== null) await this.going }

  private async goOn(): Promise<void> {
    while (this.again && !this.closing.signal.aborted) {
      this.again = false
      for (let id = await this.plans.next(); id !== null && !this.closing.signal.aborted; id = await this.plans.next()) await this.plan(id)
    }
  }

  private async plan(id: string): Promise<void> {
    let found: Awaited<ReturnType<TrialRepository['find']>>
    try {
      found = await this.plans.find(id)
    } catch (error) {
      // One that cannot be read, perhaps written by another version, must not keep the others.
      await this.plans.setState(id, 'failed', error instanceof Error ? error.message : String(error))
      await this.tell(id)
      return
    }
    if (found === null) return
    const { project } = found
    // Somebody cancelled it meanwhile.
    if (!await this.plans.setState(id, 'running')) return
    const stop = new AbortController()
    this.current = { id, stop }
    try {
      const enough = await this.work(id, found, AbortSignal.any([stop.signal, this.closing.signal]))
      if (enough !== null) await this.plans.setState(id, enough ? 'enough' : 'done')
    } finally {
      this.current = null
      this.last = null
      this.say({ project, id, progress: null })
    }
  }

  /** Whether less than all was enough; null where it was stopped. */
  private async work(id: string, { project, total, checked }: { readonly project: string, readonly total: number, readonly checked: CheckedPlan }, signal: AbortSignal): Promise<boolean | null> {
    const { search: sought, sure } = checked.basis.plan
    // A search, and whoever stops early, must know what came; a hundred thousand runs are not to be held for nothing.
    const needed = sought !== null || sure !== null
    const known: Map<number, TrialAnswer> = needed ? await this.plans.allOf(id) : new Map([...await this.plans.doneOf(id)].map(number => [number, 'done']))
    const keeper = new Keeper(this.plans, { id, arena: checked.parts.arena, total }, known.size, (progress, spent) => {
      this.speed.spent += spent
      this.last = progress
      this.say({ project, id, progress })
    })
    /** Does runs that are not known yet; what came of all is known then. False where it was stopped. */
    const run = async (basis: TrialBasis, numbers: readonly number[], first: number): Promise<boolean> => {
      const left = numbers.filter((_, i) => !known.has(first + i))
      const place = new Map(numbers.map((number, i) => [number, first + i]))
      await runJobs(this.runner, shareOf(basis), left, AbortSignal.any([signal, keeper.broken.signal]), (job, answer) => {
        const number = place.get(job)!
        known.set(number, needed ? answer : 'done')
        keeper.take({ number, basis, job, answer })
        if (typeof answer !== 'string') this.speed.simulated += answer.time
      })
      await keeper.written()
      return !signal.aborted
    }
    try {
      if (sought !== null) return await lookedFor(checked, run, known)
      const batch = sure === null ? total : batchOf(checked.basis)
      for (let from = 0; from < total; from += batch) {
        if (!await run(checked.basis, Array.from({ length: Math.min(batch, total - from) }, (_, i) => from + i), from)) return null
        if (sure !== null && from + batch < total && isSure(answersOf(checked.basis, [...known.values()].filter(a => typeof a !== 'string')), sure)) return true
      }
      return false
    } finally {
      await keeper.end()
    }
  }

  /** Says that a plan's state changed which is not under way. */
  private async tell(id: string): Promise<void> {
    const project = await this.plans.projectOf(id)
    if (project !== null) this.say({ project, id, progress: null })
  }

  private say(word: Word): void { for (const listener of this.listeners) listener(word) }
}

/** Looks for what a plan is to find; what it found is told by whoever reads the answers. False when it is done, null where it was stopped. */
async function lookedFor(checked: CheckedPlan, run: (basis: TrialBasis, numbers: readonly number[], first: number) => Promise<boolean>, known: ReadonlyMap<number, TrialAnswer>): Promise<false | null> {
  try {
    await search(checked, async (basis, numbers, first) => {
      if (!await run(basis, numbers, first)) throw new NotYet()
      return numbers.map((_, i) => known.get(first + i)!)
    })
    return false
  } catch (error) {
    if (error instanceof NotYet) return null
    throw error
  }
}
