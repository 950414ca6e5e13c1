import { expr } from '../formatter'
import type { Condition, Rule } from '../tree'
import { say } from '../wording'
import type { Check } from './index'

/** A rule that stands under one with the same condition. */
export const neverWins: Check = (program, findings) => {
  const check = (rules: readonly Rule[]): void => {
    const before = new Map<string, Rule>()
    for (const rule of rules) {
      if (rule.when === null) continue
      const key = plainText(rule.when)
      const above = before.get(key)
      if (above !== undefined && above.until === null && !above.once) {
        findings.warning(say.neverWins(program.line(above.range)), rule.when.range)
      } else if (above === undefined) before.set(key, rule)
    }
  }
  for (const lane of program.lanes) for (const mode of lane.modes) check([...lane.above, ...mode.rules])
}

function plainText(c: Condition): string {
  return `${expr(c.expression)} for ${c.held === null ? '' : expr(c.held)}`
}
