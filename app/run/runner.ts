import type { FromSimulation, ToSimulation } from './protocol'

const begin = (): Worker => new Worker(new URL('./simulation.worker.ts', import.meta.url), { type: 'module' })

/** One that loads before anybody asks for it: the next that needs a worker takes it. */
let spare: Worker | null = null

/** Begins to load a worker: the physics library takes as long as the Bench's own code, and can come beside it. */
export function prepareRunner(): void {
  if (spare !== null) return
  const worker = spare = begin()
  // One that could not be loaded is none; whoever needs it then hears of it from its own.
  worker.onerror = () => { if (spare === worker) spare = null }
}

/** The simulation worker as the page holds it: one, made when first needed. */
export class Runner {
  private worker: Worker | null = null

  /** `begun` is called with each worker that is begun with, before anything is sent to it. */
  constructor(private readonly hear: (message: FromSimulation) => void, private readonly begun: (worker: Worker) => void = () => undefined) {}

  send(message: ToSimulation): void { this.ready().postMessage(message) }

  /** The worker, made where there is none: whoever will soon need it has it loaded before. */
  ready(): Worker {
    if (this.worker !== null) return this.worker
    const worker = this.worker = spare ?? begin()
    spare = null
    // A worker that could not be loaded, or threw where nothing caught it, is done with; the next message begins another.
    worker.onerror = (event) => { this.close(); this.hear({ type: 'failed', run: null, doing: 'running', message: event.message || 'the worker could not be loaded' }) }
    worker.onmessageerror = () => { this.close(); this.hear({ type: 'failed', run: null, doing: 'answering', message: 'a message could not be read' }) }
    worker.onmessage = (event: MessageEvent<FromSimulation>) => this.hear(event.data)
    this.begun(worker)
    return worker
  }

  close(): void {
    this.worker?.terminate()
    this.worker = null
  }
}
