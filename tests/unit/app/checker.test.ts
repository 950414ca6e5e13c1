import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest'
import { ProgramChecker } from '../../../app/run/checker'
import type { CheckAnswer, CheckRequest } from '../../../app/run/protocol'

/** Workers as the page sees them, answering as each test says. */
class FakeWorker {
  static made: FakeWorker[] = []
  onmessage: ((event: { data: CheckAnswer }) => void) | null = null
  onerror: ((event: { message: string }) => void) | null = null
  ended = false
  readonly asked: CheckRequest[] = []
  constructor() { FakeWorker.made.push(this) }
  postMessage(request: CheckRequest): void { this.asked.push(request) }
  terminate(): void { this.ended = true }
  answer(): void { this.onmessage!({ data: { id: this.asked.at(-1)!.id, diagnostics: [], runs: true, dials: [], failure: null } }) }
}

describe('asking the checker', () => {
  beforeEach(() => { FakeWorker.made = []; vi.stubGlobal('Worker', FakeWorker); vi.useFakeTimers() })
  afterEach(() => { vi.unstubAllGlobals(); vi.useRealTimers() })
  const asking = () => {
    const heard: CheckAnswer[] = []
    const checker = new ProgramChecker(a => heard.push(a))
    return { heard, ask: (text: string) => checker.ask(text, {}, { finish: false }) }
  }
  test('a check that never ends is ended, told, and the next is asked of a new worker', () => {
    const { heard, ask } = asking()
    ask('one')
    vi.advanceTimersByTime(5001)
    expect(heard).toEqual([expect.objectContaining({ runs: false, failure: expect.stringContaining('longer than 5 s') as string })])
    expect(FakeWorker.made[0]!.ended).toBe(true)
    ask('two')
    FakeWorker.made[1]!.answer()
    expect(heard.at(-1)).toMatchObject({ runs: true, failure: null })
  })
  test('a worker that fails is told and begun anew', () => {
    const { heard, ask } = asking()
    ask('one')
    FakeWorker.made[0]!.onerror!({ message: 'out of memory' })
    expect(heard[0]!.failure).toContain('out of memory')
    ask('two')
    expect(FakeWorker.made.length).toBe(2)
  })
  test('while one works only the newest question waits, and only its answer is heard', () => {
    const { heard, ask } = asking()
    for (const text of ['one', 'two', 'three']) ask(text)
    const [worker] = FakeWorker.made
    worker!.answer()
    expect(heard).toEqual([])
    worker!.answer()
    expect(worker!.asked.map(a => a.text)).toEqual(['one', 'three'])
    expect(heard.length).toBe(1)
  })
})
