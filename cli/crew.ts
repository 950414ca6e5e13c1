import type { Trial, TrialBasis } from '../core/trials'
import { runJobs, shareOf, type Runner } from '../jobs/runner'

/** Milliseconds between two words about how far it is. */
const TELL = 5000

/** Has jobs done by a runner, telling how far they are; after Ctrl-C no more of them. */
export class Crew {
  private readonly stop = new AbortController()
  private readonly onInterrupt = (): void => this.stop.abort()

  constructor(private readonly runner: Runner) { process.on('SIGINT', this.onInterrupt) }

  get stopped(): boolean { return this.stop.signal.aborted }

  /** Does these jobs; what came of them by their numbers, of fewer where it was stopped. */
  async run(basis: TrialBasis, numbers: readonly number[]): Promise<ReadonlyMap<number, Trial | string>> {
    const answers = new Map<number, Trial | string>()
    const begun = Date.now()
    const tell = setInterval(() => {
      const rate = answers.size / (Date.now() - begun) * 1000
      process.stderr.write(`mindpath: ${answers.size} of ${numbers.length} runs, ${rate.toFixed(1)} a second${rate > 0 ? `, about ${Math.ceil((numbers.length - answers.size) / rate)} s left` : ''}\n`)
    }, TELL)
    try {
      await runJobs(this.runner, shareOf(basis), numbers, this.stop.signal, (number, answer) => { answers.set(number, answer) })
    } finally {
      clearInterval(tell)
    }
    return answers
  }

  async end(): Promise<void> {
    process.off('SIGINT', this.onInterrupt)
    await this.runner.close()
  }
}
