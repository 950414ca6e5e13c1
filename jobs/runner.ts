import { createHash } from 'node:crypto'
import { setMaxListeners } from 'node:events'
import type { Trial, TrialBasis } from '../core/trials'

/** What the jobs of a plan are made of, under a name that is the same wherever it is the same. */
export interface Shared { readonly id: string, readonly basis: TrialBasis }

export const shareOf = (basis: TrialBasis): Shared => ({ id: createHash('sha256').update(JSON.stringify(basis)).digest('hex').slice(0, 32), basis })

/** Who does jobs: threads of this machine, or a queue that many machines serve. */
export interface Runner {
  /** How many jobs it is to be given at once, so that none of those who work waits for the next. */
  readonly lanes: number
  /** Why nothing can be done at present, though it is tried again; null while all is well. */
  readonly trouble: string | null
  /** Is called whenever that changed; whoever has the runner sets it. */
  onTrouble: () => void
  /** Does a job; a string says why it cannot be done. Rejects when the signal aborts, or when whoever did it came to an end. */
  run(shared: Shared, number: number, signal: AbortSignal): Promise<Trial | string>
  close(): Promise<void>
}

/** Who does a job may end in the middle of it so often, by no fault of the job. */
const TRIES = 5

/** Does jobs by a runner, each told to `done` once, in any order. Ends early, and without a word, when the signal aborts. */
export async function runJobs(runner: Runner, shared: Shared, numbers: Iterable<number>, signal: AbortSignal, done: (number: number, answer: Trial | string) => void): Promise<void> {
  // Every lane listens to it.
  setMaxListeners(4 * runner.lanes, signal)
  const left = numbers[Symbol.iterator]()
  const lane = async (): Promise<void> => {
    for (let next = left.next(); next.done !== true && !signal.aborted; next = left.next()) {
      const answer = await tried(runner, shared, next.value, signal)
      if (answer !== null) done(next.value, answer)
    }
  }
  await Promise.all(Array.from({ length: runner.lanes }, lane))
}

/** The answer of a job, that is begun anew where its thread or machine ended; null when the signal aborted. */
async function tried(runner: Runner, shared: Shared, number: number, signal: AbortSignal): Promise<Trial | string | null> {
  for (let i = 1; ; i++) {
    try {
      return await runner.run(shared, number, signal)
    } catch (error) {
      if (signal.aborted) return null
      if (i === TRIES) return `whoever did it came to an end ${TRIES} times: ${error instanceof Error ? error.message : String(error)}`
    }
  }
}
