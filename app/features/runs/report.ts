import type { RunInputs } from '~~/core/simulation'

/** What a board reported, to be made a run of. */
export interface ToReport { readonly title: string, readonly inputs: RunInputs, readonly text: string }
/** The run's file and what is to be said of it; else why there is none. */
export type FromReport = { readonly file: Uint8Array<ArrayBuffer>, readonly says: readonly string[] } | { readonly file: null, readonly why: string }

/** Makes a run of what a board reported, beside the page. */
export function ofReport(report: ToReport): Promise<FromReport> {
  return new Promise((resolve) => {
    const worker = new Worker(new URL('./report.worker.ts', import.meta.url), { type: 'module' })
    const done = (answer: FromReport): void => { worker.terminate(); resolve(answer) }
    worker.onmessage = ({ data }: MessageEvent<FromReport>) => done(data)
    worker.onerror = event => done({ file: null, why: event.message || 'it could not be loaded' })
    worker.postMessage(JSON.parse(JSON.stringify(report)))
  })
}
