import type { ConnectionOptions, Job, Queue, QueueEvents, Worker } from 'bullmq'
import { ENGINE_VERSION } from '../core/simulation'
import type { Trial, TrialBasis } from '../core/trials'
import type { Runner, Shared } from './runner'

/** Whoever runs another engine would come to other results: it has a queue of its own. */
const NAME = `mindpath-trials-${ENGINE_VERSION}`
/** Jobs that are in the queue at once: enough for a class's machines, few enough that a cancelled plan is soon gone. */
const AT_ONCE = 64
/** What a plan is made of stays so long after it was last asked for, seconds. */
const KEPT = 7 * 24 * 3600
/** What came of a job stays so long, seconds: who asked may start anew meanwhile. */
const ANSWER_KEPT = 3600
/** A worker that says nothing for so long is taken for dead, and its jobs are done by others, seconds. */
export const LOST_AFTER = 10

interface Task { readonly basis: string, readonly number: number }
type Answer = Trial | string

const keyOf = (basis: string): string => `mindpath:basis:${basis}`

/** Where a queue is: `redis://[user:password@]host[:port][/database]`. Throws, naming what is allowed, for anything else. */
export function connectionOf(url: string): ConnectionOptions {
  const where = URL.canParse(url) ? new URL(url) : null
  if (where === null || !['redis:', 'rediss:'].includes(where.protocol) || where.hostname === '') throw new Error(`the queue is ${url}; expected an address such as redis://127.0.0.1:6379`)
  const database = Number(where.pathname.slice(1) || 0)
  if (!Number.isInteger(database)) throw new Error(`the queue is ${url}; its database is ${where.pathname.slice(1)}, expected a number`)
  return {
    host: where.hostname, port: Number(where.port || 6379), db: database, maxRetriesPerRequest: null,
    ...where.username === '' ? {} : { username: decodeURIComponent(where.username) }, ...where.password === '' ? {} : { password: decodeURIComponent(where.password) },
    ...where.protocol === 'rediss:' ? { tls: {} } : {},
  }
}

/** Tells of trouble with a queue in a line, and of the same not again: it is tried many times a second. */
function teller(url: string, say: (line: string) => void): (error: Error) => void {
  let said = ''
  return ({ message }) => { if (message !== said) say(`the queue ${url}: ${said = message}`) }
}

/** Has jobs done by whoever serves a queue (`QueueWorker`), on as many machines as one likes. */
export class QueueRunner implements Runner {
  readonly lanes = AT_ONCE
  trouble: string | null = null
  onTrouble = (): void => undefined
  private readonly queue: Queue<Task, Answer>
  private readonly events: QueueEvents
  /** Plans that the queue knows. */
  private readonly told = new Map<string, Promise<unknown>>()

  private constructor({ Queue, QueueEvents }: typeof import('bullmq'), url: string, say: (line: string) => void) {
    const connection = connectionOf(url)
    const tell = teller(url, say)
    const trouble = (error: Error): void => {
      this.setTrouble(`the queue ${new URL(url).host} cannot be used: ${error.message}`)
      tell(error)
    }
    this.queue = new Queue(NAME, { connection, defaultJobOptions: { attempts: 1, removeOnComplete: { age: ANSWER_KEPT }, removeOnFail: true } })
    this.events = new QueueEvents(NAME, { connection })
    this.queue.on('error', trouble)
    this.events.on('error', trouble)
    // Each lane waits for its own job.
    this.events.setMaxListeners(4 * AT_ONCE)
  }

  /** `say` hears, in a line, when the queue cannot be reached; it is tried again until it can. The library is loaded only where a queue is used. */
  static async at(url: string, say: (line: string) => void): Promise<QueueRunner> { return new QueueRunner(await import('bullmq'), url, say) }

  /** Resolves once the queue was reached. */
  async ready(): Promise<void> { await this.queue.waitUntilReady() }

  async run({ id, basis }: Shared, number: number, signal: AbortSignal): Promise<Answer> {
    if (!this.told.has(id)) this.told.set(id, this.tell(id, basis).catch((error: unknown) => { this.told.delete(id); throw error }))
    await this.told.get(id)
    signal.throwIfAborted()
    // The same job under the same name: one that was asked for before is not done twice.
    const jobId = `${id}-${number}`
    const { promise, resolve, reject } = deferred<Answer>()
    const onDone = (e: { readonly jobId: string, readonly returnvalue: unknown }): void => { if (e.jobId === jobId) resolve(e.returnvalue as Answer) }
    const onFailed = (e: { readonly jobId: string, readonly failedReason: string }): void => { if (e.jobId === jobId) reject(new Error(e.failedReason)) }
    const onAbort = (): void => {
      // One that is being done cannot be taken back; what comes of it is not looked at.
      void this.queue.remove(jobId).catch(() => undefined)
      reject(new Error('aborted'))
    }
    this.events.on('completed', onDone).on('failed', onFailed)
    signal.addEventListener('abort', onAbort, { once: true })
    // Not by the library's own wait: what goes wrong in that while the queue closes reaches nobody, and ends the process.
    this.put(jobId, { basis: id, number }, signal).then((answer) => { if (answer !== null) resolve(answer) }, reject)
    try {
      return await promise
    } catch (error) {
      // The queue may have lost what it knew: it is told again with the next try.
      this.told.delete(id)
      throw error
    } finally {
      this.events.off('completed', onDone).off('failed', onFailed)
      signal.removeEventListener('abort', onAbort)
    }
  }

  /** Puts a job into the queue. Its answer where it was done before, which the queue tells nobody again; else null. Rejects where it is given up meanwhile, or is there no more. */
  private async put(jobId: string, task: Task, signal: AbortSignal): Promise<Answer | null> {
    // Whoever listens later does not hear.
    await this.events.waitUntilReady()
    signal.throwIfAborted()
    const job = await this.queue.add('trial', task, { jobId })
    this.setTrouble(null)
    if (signal.aborted) await job.remove()
    const state = await job.getState()
    if (state === 'failed' || state === 'unknown') throw new Error('the queue has lost the job')
    return state === 'completed' ? (await this.queue.getJob(jobId))?.returnvalue ?? null : null
  }

  async close(): Promise<void> {
    await Promise.all([this.events.close(), this.queue.close()])
  }

  private setTrouble(trouble: string | null): void {
    if (trouble === this.trouble) return
    this.trouble = trouble
    this.onTrouble()
  }

  private async tell(id: string, basis: TrialBasis): Promise<void> {
    const redis = await this.queue.client
    await redis.set(keyOf(id), JSON.stringify(basis), { PX: 1000 * KEPT })
  }
}

/** How a queue is served: after how many silent seconds a worker is lost, who hears of trouble with the queue in a line, and of each job that was done. */
export interface Serving { readonly lostAfter?: number, readonly say: (line: string) => void, readonly done: () => void }

/** Serves a queue with so many jobs at a time, done by a runner of this machine. Ends when it is closed, after what is under way. */
export class QueueWorker {
  private readonly worker: Worker<Task, Answer>
  private readonly known = new Map<string, TrialBasis>()

  private constructor({ Worker }: typeof import('bullmq'), url: string, runner: Runner, count: number, { lostAfter = LOST_AFTER, say, done }: Serving) {
    const never = new AbortController().signal
    this.worker = new Worker<Task, Answer>(NAME, async ({ data }: Job<Task>) => {
      const answer = await runner.run({ id: data.basis, basis: await this.basisOf(data.basis) }, data.number, never)
      done()
      return answer
    }, { connection: connectionOf(url), concurrency: count, lockDuration: 1000 * lostAfter, stalledInterval: 500 * lostAfter, maxStalledCount: 1000 })
    this.worker.on('error', teller(url, say))
  }

  static async at(url: string, runner: Runner, count: number, serving: Serving): Promise<QueueWorker> { return new QueueWorker(await import('bullmq'), url, runner, count, serving) }

  async ready(): Promise<void> { await this.worker.waitUntilReady() }
  async close(): Promise<void> { await this.worker.close() }

  private async basisOf(id: string): Promise<TrialBasis> {
    const known = this.known.get(id)
    if (known !== undefined) return known
    const text = await (await this.worker.client).get(keyOf(id))
    if (text === null) throw new Error('the queue does not know this plan any more')
    const basis = JSON.parse(text) as TrialBasis
    // A plan after the other: those before are done with.
    if (this.known.size >= 8) this.known.clear()
    this.known.set(id, basis)
    return basis
  }
}

function deferred<T>(): { readonly promise: Promise<T>, readonly resolve: (value: T) => void, readonly reject: (error: Error) => void } {
  let [resolve, reject]: [(value: T) => void, (error: Error) => void] = [() => undefined, () => undefined]
  const promise = new Promise<T>((yes, no) => { [resolve, reject] = [yes, no] })
  return { promise, resolve, reject }
}
