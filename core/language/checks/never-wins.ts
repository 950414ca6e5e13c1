import { numberOf } from '../constants'
import { activeSteps } from '../nodes'
import type { Rule } from '../tree'
import { say } from '../wording'
import type { Check } from './index'
import { implies } from './implies'
import { allBodies } from './walk'

/** A rule under one that wants control whenever it does; a branch behind one that is taken whenever it would be. */
export const neverWins: Check = (program, findings) => {
  const covers = (above: Rule, below: Rule): boolean => {
    if (above.when === null || above.until !== null || above.once || below.when === null) return false
    const [wait, longer] = [above.when.held, below.when.held].map(h => h === null ? 0 : numberOf(h))
    if (wait === null || longer === null || wait! > longer!) return false
    return implies(program, below.when.expression, above.when.expression)
  }
  for (const lane of program.lanes) {
    for (const mode of lane.modes) {
      const rules = [...lane.above, ...mode.rules]
      rules.forEach((rule, i) => {
        const above = rules.slice(0, i).find(r => covers(r, rule))
        if (above !== undefined && rule.until === null) findings.warning(say.neverWins(program.line(above.range)), rule.when!.range)
      })
    }
  }
  const bodies = allBodies(program)
  for (const step of bodies.flatMap(activeSteps)) {
    if (step.tag !== 'if') continue
    step.branches.forEach((branch, i) => {
      const before = step.branches.slice(0, i).find(b => b.condition !== null && branch.condition !== null && implies(program, branch.condition, b.condition))
      if (before !== undefined) findings.warning(say.neverTaken(program.line(before.range)), branch.condition!.range)
    })
  }
}
