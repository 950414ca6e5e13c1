import type { Bool } from './compiled'
import type { Expression } from './tree'

/** When a rule wants control. */

/** The code that works out, once a tick, whether a rule wants control; plain rules get the short form. */
export function wantsOf(when: Bool, until: Bool | null, once: boolean, cells: { wantCell: number, latch: number, doneCell: number }): Bool {
  const { wantCell, latch, doneCell } = cells
  if (until === null && !once) {
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

/** A condition that is true for a tick only: a signal or a beat. */
export function isMoment(e: Expression): boolean {
  switch (e.tag) {
    case 'heard':
    case 'every': return true
    case 'logic': return e.operands.some(isMoment)
    case 'bracket': return isMoment(e.inner)
    case 'not': return isMoment(e.of)
    default: return false
  }
}
