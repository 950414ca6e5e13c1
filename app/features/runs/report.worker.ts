import { reportSays, runReport } from '~~/core/runs/report'
import type { FromReport, ToReport } from './report'

/** Makes a run of what a board reported over its serial line, beside the page. */
self.onmessage = async ({ data: { title, inputs, text } }: MessageEvent<ToReport>) => {
  const post = (message: FromReport): void => { (self as unknown as { postMessage(m: FromReport): void }).postMessage(message) }
  const run = await runReport(title, inputs, text)
  if (run.ok) post({ file: run.file, says: reportSays(run) })
  else post({ file: null, why: run.problems.map(p => `${p.document === 'run' ? '' : `${p.document}: `}${p.path}: found ${p.value}; ${p.message}`).join('; ') || `the program cannot run: ${run.diagnostics.find(d => d.severity === 'error')?.message ?? ''}` })
}
