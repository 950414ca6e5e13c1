import { availableParallelism } from 'node:os'
import { Threads } from '../../jobs/threads'
import { TrialEngine } from '../trials/engine'
import type { Store } from './store'

/** Threads that do trials' jobs: one core is left for the run that somebody looks at. */
export const TRIAL_THREADS = Math.max(1, availableParallelism() - 1)

let engine: TrialEngine | null = null

/** The one engine of this server, which goes on with what was under way. */
export async function useTrials({ trials, notice }: Store): Promise<TrialEngine> {
  if (engine !== null) return engine
  engine = new TrialEngine(trials, new Threads(TRIAL_THREADS))
  if (notice === null) {
    await trials.clear()
    engine.wake()
  }
  return engine
}

export async function closeTrials(): Promise<void> {
  await engine?.close()
  engine = null
}
