import type { Asked } from '~~/core/language'
import type { CheckAnswer, CheckRequest } from './protocol'

/** A check that takes longer is ended, milliseconds: a thousand lines take some forty. */
const LONGEST = 5000

/**
 * Asks the language worker about a program. While it works, only the newest question waits: nothing is asked that is stale.
 * Every question is answered, also by a failure; a worker that fails or never ends is begun anew.
 */
export class ProgramChecker {
  private worker: Worker | null = null
  private next = 0
  private asked = -1
  private waiting: CheckRequest | null = null
  private late: ReturnType<typeof setTimeout> | null = null

  constructor(private readonly hear: (answer: CheckAnswer) => void) {}

  ask(text: string, robot: unknown, asked: Asked): void {
    // The documents come out of reactive state; a worker takes plain data.
    const request: CheckRequest = { id: this.next++, text, robot: JSON.parse(JSON.stringify(robot)) as unknown, asked }
    if (this.asked === -1) this.send(request)
    else this.waiting = request
  }

  private send(request: CheckRequest): void {
    this.worker ??= this.begin()
    this.asked = request.id
    this.late = setTimeout(() => this.fail(`Checking took longer than ${LONGEST / 1000} s and was ended. What was typed last may be why`), LONGEST)
    this.worker.postMessage(request)
  }

  private begin(): Worker {
    const worker = new Worker(new URL('./language.worker.ts', import.meta.url), { type: 'module' })
    worker.onmessage = (event: MessageEvent<CheckAnswer>) => this.answered(event.data)
    worker.onerror = event => this.fail(`Checking the program failed: ${event.message || 'its worker could not be loaded'}`)
    return worker
  }

  private answered(answer: CheckAnswer): void {
    this.rest()
    const { waiting } = this
    this.waiting = null
    if (waiting !== null) this.send(waiting)
    else this.hear(answer)
  }

  private fail(failure: string): void {
    const id = this.asked
    this.worker?.terminate()
    this.worker = null
    this.answered({ id, diagnostics: [], runs: false, dials: [], failure })
  }

  private rest(): void {
    if (this.late !== null) clearTimeout(this.late)
    this.late = null
    this.asked = -1
  }

  close(): void {
    this.rest()
    this.worker?.terminate()
    this.worker = null
    this.waiting = null
  }
}
