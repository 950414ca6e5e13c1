import { flatSteps } from '../nodes'
import { say } from '../wording'
import type { Check } from './index'
import { allBodies, eachBlock } from './walk'

/** Steps that nothing reaches, modes that nothing enters, `leave` outside of a loop. */
export const reach: Check = (program, findings) => {
  const bodies = allBodies(program)
  const entered = new Set<string>()
  for (const body of bodies) {
    eachBlock(body, block => {
      const at = block.steps.findIndex(s => program.neverEnds(s))
      const next = at === -1 ? undefined : block.steps[at + 1]
      if (next !== undefined) findings.warning(say.endless(), { from: next.range.from, to: block.steps.at(-1)!.range.to })
    })
    for (const step of flatSteps(body)) if (step.tag === 'go') entered.add(step.mode.text)
    for (const step of flatSteps(body, s => s.tag !== 'repeat')) if (step.tag === 'leave') findings.error(say.leaveAlone(), step.range)
  }
  for (const lane of program.lanes) {
    lane.modes.forEach((mode, i) => {
      if (i > 0 && mode.node !== null && !entered.has(mode.name)) findings.warning(say.neverEntered(mode.name), mode.node.name.range)
    })
  }
}
