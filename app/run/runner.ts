import type { FromSimulation, ToSimulation } from './protocol'

/** The simulation worker as the page holds it: one, made when first needed. */
export class Runner {
  private worker: Worker | null = null

  constructor(private readonly hear: (message: FromSimulation) => void) {}

  send(message: ToSimulation): void {
    if (this.worker === null) {
      this.worker = new Worker(new URL('./simulation.worker.ts', import.meta.url), { type: 'module' })
      // A worker that could not be loaded, or threw where nothing caught it, is done with; the next message begins another.
      this.worker.onerror = (event) => { this.close(); this.hear({ type: 'failed', run: null, doing: 'running', message: event.message || 'the worker could not be loaded' }) }
      this.worker.onmessageerror = () => { this.close(); this.hear({ type: 'failed', run: null, doing: 'answering', message: 'a message could not be read' }) }
      this.worker.onmessage = (event: MessageEvent<FromSimulation>) => this.hear(event.data)
    }
    this.worker.postMessage(message)
  }

  close(): void {
    this.worker?.terminate()
    this.worker = null
  }
}
