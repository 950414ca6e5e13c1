import type { Asked } from '~~/core/language'
import type { CheckAnswer, CheckRequest } from '~/workers/protocol'

/** Asks the language worker about a program; only the newest question is answered. */
export class ProgramChecker {
  private worker: Worker | null = null
  private next = 0
  private asked = 0

  constructor(private readonly hear: (answer: CheckAnswer) => void) {}

  ask(text: string, robot: unknown, asked: Asked): void {
    if (this.worker === null) {
      this.worker = new Worker(new URL('../workers/language.worker.ts', import.meta.url), { type: 'module' })
      this.worker.onmessage = (event: MessageEvent<CheckAnswer>) => {
        if (event.data.id === this.asked) this.hear(event.data)
      }
    }
    this.asked = this.next++
    // The documents come out of reactive state; a worker takes plain data.
    this.worker.postMessage({ id: this.asked, text, robot: JSON.parse(JSON.stringify(robot)) as unknown, asked } satisfies CheckRequest)
  }

  close(): void {
    this.worker?.terminate()
    this.worker = null
  }
}
