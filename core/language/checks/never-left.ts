import { flatSteps } from '../analysis'
import type { Block } from '../tree'
import { say } from '../wording'
import type { Analysis } from '../analysis'
import type { Check } from './index'

/** A mode that, once entered, nothing leaves and nothing ends: the rest of its lane is dead from then on. */
export const neverLeft: Check = (program, findings) => {
  for (const lane of program.lanes) {
    if (lane.modes.length < 2 || lane.above.some(r => !r.off && leaves(program, r.body))) continue
    for (const mode of lane.modes) {
      if (mode.node === null) continue
      const bodies = [...(mode.start === null ? [] : [mode.start.body]), ...mode.rules.filter(r => !r.off).map(r => r.body)]
      if (!bodies.some(b => leaves(program, b))) findings.hint(say.neverLeft(mode.name), mode.node.name.range)
    }
  }
}

/** Whether steps can go to a mode or end the run, themselves or by a routine. */
function leaves(program: Analysis, body: Block, depth = 0): boolean {
  return flatSteps(body).some((step) => {
    if (step.tag === 'unread' || step.off) return false
    if (step.tag === 'go' || step.tag === 'finish') return true
    // Routines that come back to themselves are an error of their own.
    const routine = step.tag === 'do' && depth < program.routines.size ? program.routines.get(step.routine.text) : undefined
    return routine !== undefined && leaves(program, routine.body, depth + 1)
  })
}
