import type { Asked } from '~~/core/language'
import type { CheckAnswer, CheckRequest } from '~/workers/protocol'

/** Asks the language worker about a program. While it works, only the newest question waits: nothing is asked that is stale. */
export class ProgramChecker {
  private worker: Worker | null = null
  private next = 0
  private asked = -1
  private waiting: CheckRequest | null = null

  constructor(private readonly hear: (answer: CheckAnswer) => void) {}

  ask(text: string, robot: unknown, asked: Asked): void {
    if (this.worker === null) {
      this.worker = new Worker(new URL('../workers/language.worker.ts', import.meta.url), { type: 'module' })
      this.worker.onmessage = (event: MessageEvent<CheckAnswer>) => {
        const { waiting } = this
        this.waiting = null
        this.asked = -1
        if (waiting !== null) this.send(waiting)
        else this.hear(event.data)
      }
    }
    // The documents come out of reactive state; a worker takes plain data.
    const request: CheckRequest = { id: this.next++, text, robot: JSON.parse(JSON.stringify(robot)) as unknown, asked }
    if (this.asked === -1) this.send(request)
    else this.waiting = request
  }

  private send(request: CheckRequest): void {
    this.asked = request.id
    this.worker?.postMessage(request)
  }

  close(): void {
    this.worker?.terminate()
    this.worker = null
    this.waiting = null
    this.asked = -1
  }
}
