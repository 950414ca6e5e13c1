import type { Bool } from './compiled'
import type { Expression, Rule } from './tree'

/** When a rule wants control. */

/** The code that works out, once a tick, whether a rule wants control; plain rules get the short form. */
/**
 * `moments`: the condition can only be true for a tick, so each time it is true is a time of its own, also in two ticks one after the other.
 */
export function wantsOf(when: Bool, until: Bool | null, once: boolean, moments: boolean, cells: { wantCell: number, latch: number, doneCell: number }): Bool {
  const { wantCell, latch, doneCell } = cells
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

/** Whether a rule acts once each time its condition comes true: as it is written, or because it waits for a moment. */
export function actsOnce(rule: Rule): boolean {
  return rule.once || (rule.until === null && rule.when !== null && isMoment(rule.when.expression))
}

/** A condition that can be true for a tick only, at moments that are told apart. */
export function onlyMoments(e: Expression): boolean {
  switch (e.tag) {
    case 'heard':
    case 'every': return true
    case 'logic': return e.operator === 'and' ? e.operands.some(onlyMoments) : e.operands.every(onlyMoments)
    case 'bracket': return onlyMoments(e.inner)
    default: return false
  }
}

/** A condition in which a moment matters: a signal or a beat. */
function isMoment(e: Expression): boolean {
  switch (e.tag) {
    case 'heard':
    case 'every': return true
    case 'logic': return e.operands.some(isMoment)
    case 'bracket': return isMoment(e.inner)
    case 'not': return isMoment(e.of)
    default: return false
  }
}
