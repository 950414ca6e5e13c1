import type { LoadedRule } from './load'
import type { Machine } from './machine'

/**
 * Whether a rule that ends by a condition of its own, or acts once, wants control in a tick in which its condition `is` true or not.
 * Where a condition can only be true for a tick (`moments`), each time it is true is a time of its own, also in two ticks one after the other.
 */
export function wantsStill(is: boolean, { ends, once, moments, latch, doneCell }: LoadedRule, m: Machine): boolean {
  let wanting = is
  if (ends !== null) {
    const ended = ends(m)
    // `until` wins over the condition (ruling 2).
    wanting = !ended && (wanting || m.cells[latch]! > 0)
    m.cells[latch] = wanting ? 1 : -1
  }
  if (!once || (moments && ends === null)) return wanting
  if (!wanting) m.cells[doneCell] = -1
  else if (m.cells[doneCell]! > 0) return false
  return wanting
}
