import { say } from '../wording'
import type { Check } from './index'

/** A program that is a `start` with a wait and little after it: it reacts one single time. */
export const actsOnce: Check = (program, findings) => {
  const lane = program.lanes[0]
  if (program.lanes.length !== 1 || lane === undefined || lane.start === null) return
  if (lane.above.length > 0 || lane.modes.some(m => m.rules.length > 0)) return
  const steps = lane.start.body.steps
  const waits = steps.findIndex(s => s.tag === 'waitUntil')
  if (waits === -1 || waits > 1) return
  const after = steps.slice(waits + 1)
  const acts = after.filter(s => s.tag === 'action' && s.form !== 'halt')
  if (acts.length <= 1 && after.length <= 2 && acts.length > 0) findings.hint(say.actsOnce(), steps[waits]!.range)
}
