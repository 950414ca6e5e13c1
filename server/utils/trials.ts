import { availableParallelism } from 'node:os'
import { QueueRunner } from '../../jobs/queue'
import type { Runner } from '../../jobs/runner'
import { Threads } from '../../jobs/threads'
import { TrialEngine } from '../trials/engine'
import { log } from './log'
import type { Store } from './store'

/** Threads that do trials' jobs: one core is left for the run that somebody looks at. */
export const TRIAL_THREADS = Math.max(1, availableParallelism() - 1)

let engine: Promise<TrialEngine> | null = null

/** Who does the jobs: whoever serves the queue that the server was given, else threads. */
async function runnerOf(): Promise<Runner> {
  const queue = process.env['MINDPATH_QUEUE'] ?? ''
  if (queue === '') return new Threads(TRIAL_THREADS)
  return QueueRunner.at(queue, line => log.warn(line))
}

/** The one engine of this server, which goes on with what was under way. */
export function useTrials({ trials, notice }: Store): Promise<TrialEngine> {
  engine ??= (async () => {
    const made = new TrialEngine(trials, await runnerOf())
    if (notice === null) {
      await trials.clear()
      made.wake()
    }
    return made
  })()
  return engine
}

export async function closeTrials(): Promise<void> {
  await (await engine?.catch(() => null))?.close()
  engine = null
}
