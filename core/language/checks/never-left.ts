import type { Block } from '../tree'
import { say } from '../wording'
import type { Analysis } from '../analysis'
import type { Check } from './index'
import { reaches } from './walk'

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
function leaves(program: Analysis, body: Block): boolean {
  return reaches(program, body, step => step.tag === 'go' || step.tag === 'finish')
}
