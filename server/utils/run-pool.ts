import { availableParallelism } from 'node:os'
import Piscina from 'piscina'
import type { RunInputs } from '../../core/simulation'
import type { RunOutcome } from '../workers/run.worker'

/** Longest that one run may take, milliseconds; its thread ends then. */
export const RUN_BUDGET = 60_000
/** Runs that may be under way or wait at once; more are turned away. */
const MOST = 16

let pool: Piscina | null = null
let underWay = 0

export type RunAnswer = RunOutcome | { readonly ran: false, readonly why: 'busy' | 'too-long' | 'gone' }

/**
 * Runs a project on one of the server's worker threads. The thread ends with the budget, and when `gone` says that
 * nobody waits for the answer any more. Errors of the worker itself are thrown.
 */
export async function runOnThread(request: RunInputs, gone: AbortSignal): Promise<RunAnswer> {
  if (underWay >= MOST) return { ran: false, why: 'busy' }
  pool ??= new Piscina({
    filename: new URL('./run.worker.mjs', import.meta.url).href, idleTimeout: 5000, maxThreads: Math.max(1, availableParallelism() - 1),
  })
  const late = AbortSignal.timeout(RUN_BUDGET)
  underWay++
  try {
    return await pool.run(request, { signal: AbortSignal.any([late, gone]) }) as RunOutcome
  } catch (error) {
    if (gone.aborted) return { ran: false, why: 'gone' }
    if (late.aborted) return { ran: false, why: 'too-long' }
    throw error
  } finally {
    underWay--
  }
}

export async function closePool(): Promise<void> {
  await pool?.destroy()
  pool = null
}
