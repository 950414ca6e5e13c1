import { flatSteps } from '../nodes'
import { say } from '../wording'
import type { Check } from './index'
import { allBodies } from './walk'

/** A task that asks the robot to stop by itself, and a program that never finishes. */
export const ending: Check = (program, findings) => {
  if (!program.asked.finish || program.lanes.length === 0) return
  if (program.lanes.every(l => l.above.length === 0 && l.modes.every(m => m.rules.length === 0))) return
  const bodies = allBodies(program)
  if (bodies.some(b => flatSteps(b).some(s => s.tag === 'finish' && !s.off))) return
  findings.warning(say.neverFinishes(), { from: 0, to: program.text.indexOf('\n') === -1 ? program.text.length : program.text.indexOf('\n') })
}
