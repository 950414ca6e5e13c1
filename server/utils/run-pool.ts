import { availableParallelism } from 'node:os'
import Piscina from 'piscina'
import type { Read } from '../../core/document'
import type { RunInputs } from '../../core/simulation'
import type { RunFacts } from '../database/runs'
import type { RunOutcome } from '../workers/run.worker'

/** Longest that one run may take, milliseconds; its thread ends then. */
export const RUN_BUDGET = 60_000
/** And one that was left: an hour of a robot, the longest that there is, takes a minute or two. */
const LEFT_BUDGET = 600_000
/** Runs that may be under way or wait at once; more are turned away. */
const MOST = 16

/** Threads for those who wait, and one for runs that nobody waits for. */
const pools = new Map<'asked' | 'left', Piscina>()
let underWay = 0

type Refusal = { readonly ran: false, readonly why: 'busy' | 'too-long' | 'gone' }
export type RunAnswer = RunOutcome | Refusal

/**
 * Runs a project on one of the server's worker threads. The thread ends with the budget, and when `gone` says that
 * nobody waits for the answer any more. Errors of the worker itself are thrown.
 */
export const runOnThread = (request: RunInputs, gone: AbortSignal): Promise<RunAnswer> => onThread<RunOutcome>('default', request, gone)

/** Reads a kept run's file there. */
export const factsOnThread = (file: Uint8Array, gone: AbortSignal): Promise<Read<RunFacts> | Refusal> => onThread<Read<RunFacts>>('facts', file, gone)

/** Runs one again there that was left, as far as it had come, and makes its file. Nobody waits for it. */
export const leftOnThread = (record: object): Promise<Read<{ readonly facts: RunFacts, readonly file: Uint8Array }> | Refusal> =>
  onThread('left', record, new AbortController().signal, 'left')

/** Runs one there with its tape, and makes its file. */
export const fileOnThread = (title: string, inputs: RunInputs, gone: AbortSignal): Promise<Read<Uint8Array> | Refusal> => onThread('tapedFile', { title, inputs }, gone)

async function onThread<T>(name: string, what: unknown, gone: AbortSignal, whose: 'asked' | 'left' = 'asked'): Promise<T | Refusal> {
  if (underWay >= MOST) return { ran: false, why: 'busy' }
  const pool = pools.get(whose) ?? new Piscina({
    filename: new URL('./run.worker.mjs', import.meta.url).href, idleTimeout: 5000, maxThreads: whose === 'left' ? 1 : Math.max(1, availableParallelism() - 1),
  })
  pools.set(whose, pool)
  const late = AbortSignal.timeout(whose === 'left' ? LEFT_BUDGET : RUN_BUDGET)
  underWay++
  try {
    return await pool.run(what, { name, signal: AbortSignal.any([late, gone]) }) as T
  } catch (error) {
    if (gone.aborted) return { ran: false, why: 'gone' }
    if (late.aborted) return { ran: false, why: 'too-long' }
    throw error
  } finally {
    underWay--
  }
}

/** What a refused run is answered with. */
export const REFUSALS = {
  'busy': { statusCode: 503, statusMessage: 'too many runs at once', message: 'Too many runs are asked for at once. Ask again when one of them is done.' },
  'too-long': { statusCode: 422, statusMessage: 'the run takes too long', message: `The run took longer than ${RUN_BUDGET / 1000} s and was ended.` },
  'gone': { statusCode: 499, statusMessage: 'nobody waits for the answer' },
} as const

export async function closePool(): Promise<void> {
  for (const pool of pools.values()) await pool.destroy()
  pools.clear()
}
