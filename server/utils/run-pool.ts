import Piscina from 'piscina'
import type { RunOutcome, RunRequest } from '../workers/run.worker'

let pool: Piscina | null = null

/** Runs a project on one of the server's worker threads. */
export async function runOnThread(request: RunRequest): Promise<RunOutcome> {
  pool ??= new Piscina({ filename: new URL('./run.worker.mjs', import.meta.url).href, idleTimeout: 5000, maxQueue: 64 })
  return await pool.run(request) as RunOutcome
}

export async function closePool(): Promise<void> {
  await pool?.destroy()
  pool = null
}
