import type { FromSimulation, ToSimulation } from '~/workers/protocol'

/** The simulation worker as the page holds it: one, made when first needed. */
export class Runner {
  private worker: Worker | null = null

  constructor(private readonly hear: (message: FromSimulation) => void) {}

  send(message: ToSimulation): void {
    if (this.worker === null) {
      this.worker = new Worker(new URL('../workers/simulation.worker.ts', import.meta.url), { type: 'module' })
      this.worker.onmessage = (event: MessageEvent<FromSimulation>) => this.hear(event.data)
    }
    this.worker.postMessage(message)
  }

  close(): void {
    this.worker?.terminate()
    this.worker = null
  }
}
