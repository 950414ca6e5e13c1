import type { RuleData } from '../program'
import type { Bool } from './machine'

/**
 * What works out, once a tick, whether a rule wants control; plain rules get the short form. Where a condition can only be
 * true for a tick (`moments`), each time it is true is a time of its own, also in two ticks one after the other.
 */
export function wantsOf(when: Bool, until: Bool | null, { once, moments, wantCell, latch, doneCell }: RuleData): Bool {
  if (until === null && (!once || moments)) {
    return (m) => {
      const wanting = when(m)
      m.cells[wantCell] = wanting ? 1 : 0
      return wanting
    }
  }
  return (m) => {
    let wanting = when(m)
    if (until !== null) {
      const ended = until(m)
      // `until` wins over the condition (ruling 2).
      wanting = !ended && (wanting || m.cells[latch]! > 0)
      m.cells[latch] = wanting ? 1 : -1
    }
    if (once) {
      if (!wanting) m.cells[doneCell] = -1
      else if (m.cells[doneCell]! > 0) wanting = false
    }
    m.cells[wantCell] = wanting ? 1 : 0
    return wanting
  }
}
