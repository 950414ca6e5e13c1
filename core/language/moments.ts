import { childrenOf } from './nodes'
import type { Expression, Rule } from './tree'

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
export function isMoment(e: Expression): boolean {
  return e.tag === 'heard' || e.tag === 'every' || childrenOf(e).some(part => isMoment(part as Expression))
}
