import type { FromSimulation, ToSimulation } from './protocol'

/** The simulation worker as the page holds it: one, made when first needed. */
export class Runner {
  private worker: Worker | null = null

  constructor(private readonly hear: (message: FromSimulation) => void) {}

  send(message: ToSimulation): void { this.ready().postMessage(message) }

  /** The worker, made where there is none: whoever will soon need it has it loaded before. */
  ready(): Worker {
    if (this.worker !== null) return this.worker
    const worker = this.worker = new Worker(new URL('./simulation.worker.ts', import.meta.url), { type: 'module' })
    // A worker that could not be loaded, or threw where nothing caught it, is done with; the next message begins another.
    worker.onerror = (event) => { this.close(); this.hear({ type: 'failed', run: null, doing: 'running', message: event.message || 'the worker could not be loaded' }) }
    worker.onmessageerror = () => { this.close(); this.hear({ type: 'failed', run: null, doing: 'answering', message: 'a message could not be read' }) }
    worker.onmessage = (event: MessageEvent<FromSimulation>) => this.hear(event.data)
    return worker
  }

  close(): void {
    this.worker?.terminate()
    this.worker = null
  }
}
