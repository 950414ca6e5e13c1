import { openRun, summarise, type RunInputs, type RunSummary } from '../../core/simulation'

export type RunOutcome =
  | { readonly ran: true, readonly summary: RunSummary }
  | { readonly ran: false, readonly problems: readonly string[] }

/** One headless run, on a worker thread of the server. */
export default async function run(request: RunInputs): Promise<RunOutcome> {
  const opened = await openRun(request)
  if (!opened.ok) {
    return {
      ran: false,
      problems: [...opened.problems.map(p => `${p.document}: ${p.path}: found ${p.value}; ${p.message}`), ...opened.diagnostics.filter(d => d.severity === 'error').map(d => d.message)],
    }
  }
  const { simulation } = opened
  simulation.runToEnd()
  const summary = summarise(simulation)
  simulation.free()
  return { ran: true, summary }
}
