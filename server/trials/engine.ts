import { answersOf, batchOf, isSure, type CheckedPlan, type Trial, type TrialProgress } from '../../core/trials'
import { runJobs, shareOf, type Runner } from '../../jobs/runner'
import type { TrialAnswer, TrialRepository } from '../database/trials'
import { log } from '../utils/log'

/** A plan's state changed, or it came farther. */
export interface Word { readonly project: string, readonly id: string, readonly progress: TrialProgress | null }

/** What came is written this often, milliseconds. */
const WRITE = 250
/** Runs a second are told of so long, milliseconds. */
const LATE = 10_000
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

  constructor(private readonly plans: TrialRepository, private readonly runner: Runner) {}

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
    const { basis } = checked
    const shared = shareOf(basis)
    const done = await this.plans.doneOf(id)
    this.last = { id, done: done.size, rate: null, left: null }
    this.say({ project, id, progress: this.last })
    const begun = Date.now()
    /** When each of the latest was done. */
    let came: number[] = []
    let count = done.size
    let unwritten = new Map<number, TrialAnswer>()
    let since = Date.now()
    const write = async (): Promise<void> => {
      const [batch, spent] = [unwritten, Date.now() - since]
      unwritten = new Map()
      since = Date.now()
      if (batch.size === 0) return
      await this.plans.keep(id, checked, batch, spent)
      this.speed.spent += spent
      came = came.filter(at => at > Date.now() - LATE)
      const rate = came.length / Math.min(LATE, Date.now() - begun) * 1000
      this.last = { id, done: count, rate, left: rate > 0 ? (total - count) / rate : null }
      this.say({ project, id, progress: this.last })
    }
    let writing = Promise.resolve()
    let trouble: unknown = null
    const stop = new AbortController()
    const timer = setInterval(() => { writing = writing.then(write).catch((error: unknown) => { trouble ??= error; stop.abort() }) }, WRITE)
    const sure = basis.plan.sure
    const batch = sure === null ? total : batchOf(basis)
    try {
      for (let from = 0; from < total && !signal.aborted; from += batch) {
        const numbers = Array.from({ length: Math.min(batch, total - from) }, (_, i) => from + i).filter(n => !done.has(n))
        await runJobs(this.runner, shared, numbers, AbortSignal.any([signal, stop.signal]), (number, answer) => {
          unwritten.set(number, answer)
          count++
          came.push(Date.now())
          if (typeof answer !== 'string') this.speed.simulated += answer.time
        })
        await (writing = writing.then(write))
        if (trouble !== null) throw trouble as Error
        if (sure !== null && !signal.aborted && from + batch < total && isSure(answersOf(basis, await this.trials(id)), sure)) return true
      }
    } finally {
      clearInterval(timer)
      await writing.catch(() => undefined)
    }
    return signal.aborted ? null : false
  }

  private async trials(id: string): Promise<readonly Trial[]> {
    const all: Trial[] = []
    for (let mark = 0; ;) {
      const read = await this.plans.answers(id, mark)
      if (read.answers.length === 0) return all
      mark = read.mark
      all.push(...read.answers.flatMap(({ answer }) => typeof answer === 'string' ? [] : [answer]))
    }
  }

  /** Says that a plan's state changed which is not under way. */
  private async tell(id: string): Promise<void> {
    const project = await this.plans.projectOf(id)
    if (project !== null) this.say({ project, id, progress: null })
  }

  private say(word: Word): void { for (const listener of this.listeners) listener(word) }
}
