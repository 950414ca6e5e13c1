import Piscina from 'piscina'
import type { Trial } from '../core/trials'
import type { Runner, Shared } from './runner'
import type { Task } from './trials.worker'

/** Threads of this machine that do jobs. They begin with the first job, and end when there was none for some seconds. */
export class Threads implements Runner {
  readonly lanes: number
  readonly trouble = null
  onTrouble = (): void => undefined
  private readonly pool: Piscina

  constructor(count: number, worker: URL = new URL('./trials.worker.mjs', import.meta.url)) {
    // One more for each than it can do at once: none waits for the next.
    this.lanes = 2 * count
    this.pool = new Piscina({ filename: worker.href, minThreads: 0, maxThreads: count, idleTimeout: 5000 })
  }

  run({ basis }: Shared, number: number, signal: AbortSignal): Promise<Trial | string> {
    return this.pool.run({ basis, number } satisfies Task, { signal }) as Promise<Trial | string>
  }

  /** Ends a thread in the middle of what it does, as a crash would; for tests. */
  async kill(): Promise<void> { await this.pool.threads[0]?.terminate() }

  close(): Promise<void> { return this.pool.destroy() }
}
