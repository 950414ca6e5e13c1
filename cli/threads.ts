import Piscina from 'piscina'
import type { Trial, TrialBasis } from '../core/trials'
import type { Task } from './trials.worker'

/** Milliseconds between two words about how far it is. */
const TELL = 5000

/** Threads that do jobs, telling how far they are; after Ctrl-C they do no more. */
export class Threads {
  stopped = false
  private readonly pool: Piscina
  private readonly stop = (): void => { this.stopped = true }

  constructor(private readonly count: number) {
    this.pool = new Piscina({ filename: new URL('./trials.worker.mjs', import.meta.url).href, minThreads: count, maxThreads: count })
    process.on('SIGINT', this.stop)
  }

  /** Does these jobs; what was done, in any order, where it was stopped. */
  async run(basis: TrialBasis, numbers: readonly number[]): Promise<readonly (Trial | string)[]> {
    const answers: (Trial | string)[] = []
    const begun = Date.now()
    let next = 0
    const tell = setInterval(() => {
      const rate = answers.length / (Date.now() - begun) * 1000
      process.stderr.write(`mindpath: ${answers.length} of ${numbers.length} runs, ${rate.toFixed(1)} a second${rate > 0 ? `, about ${Math.ceil((numbers.length - answers.length) / rate)} s left` : ''}\n`)
    }, TELL)
    // A few more are asked for than there are threads: none waits for the next.
    const lane = async (): Promise<void> => {
      while (!this.stopped && next < numbers.length) answers.push(await this.pool.run({ basis, number: numbers[next++]! } satisfies Task) as Trial | string)
    }
    try {
      await Promise.all(Array.from({ length: 2 * this.count }, lane))
    } finally {
      clearInterval(tell)
    }
    return answers
  }

  async end(): Promise<void> {
    process.off('SIGINT', this.stop)
    await this.pool.destroy()
  }
}
