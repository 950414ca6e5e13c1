import { formatQuantity, findUnit } from '../../units'
import type { Analysis } from '../analysis'
import { numberOf } from '../constants'
import { flatSteps } from '../nodes'
import type { Rule } from '../tree'
import { say } from '../wording'
import type { Check } from './index'
import { eachPart, fixedValue } from './walk'

/** What the devices' own clocks mean for a program: how far it goes blindly, and `for` that is shorter than a look. */
export const reaction: Check = (program, findings) => {
  for (const lane of program.lanes) {
    for (const mode of lane.modes) {
      const rules = [...lane.above, ...mode.rules]
      // From below: the fastest of the rules that a rule may cut into.
      let fastest = 0
      for (const rule of rules.toReversed()) {
        if (fastest > 0) tooFast(program, rule, fastest, findings)
        tooShort(program, rule, findings)
        fastest = Math.max(fastest, speedOf(program, rule))
      }
    }
  }
}

/** The fastest that a rule drives forward, metres a second; 0 when it does not say. */
function speedOf(program: Analysis, rule: Rule): number {
  let fastest = 0
  for (const step of flatSteps(rule.body)) {
    if (step.tag !== 'action' || step.off || step.form !== 'drive' || step.slots.some(s => s.name === 'back')) continue
    const amount = step.slots.find(s => s.name === 'amount')
    const slot = program.planOf(step)?.plan.timing === 'held' ? amount : step.slots.find(s => s.name === 'speed')
    if (slot?.value != null) fastest = Math.max(fastest, fixedValue(program, slot.value) ?? 0)
  }
  return fastest
}

function tooFast(program: Analysis, rule: Rule, speed: number, findings: Parameters<Check>[1]): void {
  if (rule.when === null) return
  eachPart(rule.when.expression, (e) => {
    if (e.tag !== 'compare' || !e.operator.startsWith('<') || e.left.tag !== 'reading' || e.left.reading.text !== 'distance' || (e.left.given ?? []).length > 0) return
    const { left } = e
    const device = program.facts.devices.find(d => d.name === left.device.text)
    const limit = fixedValue(program, e.right)
    if (device === undefined || limit === null) return
    const held = rule.when!.held === null ? 0 : numberOf(rule.when!.held) ?? 0
    const blind = speed * (device.round + device.latency + program.facts.tick + held)
    const cm = findUnit('cm')!
    if (blind > limit) findings.warning(say.tooFast(device.name, formatQuantity(speed, findUnit('cm/s')!), formatQuantity(Math.round(blind * 1000) / 1000, cm), formatQuantity(limit, cm)), e.range)
  })
}

function tooShort(program: Analysis, rule: Rule, findings: Parameters<Check>[1]): void {
  for (const condition of [rule.when, rule.until]) {
    if (condition?.held == null) continue
    const time = numberOf(condition.held)
    if (time === null) continue
    const used: { name: string, period: number }[] = []
    eachPart(condition.expression, (e) => {
      const sides = e.tag === 'compare' ? [e.left, e.right] : e.tag === 'between' || e.tag === 'is' ? [e.value] : [e]
      for (const side of sides) {
        if (side.tag !== 'reading') continue
        const device = program.facts.devices.find(d => d.name === side.device.text)
        if (device !== undefined) used.push({ name: device.name, period: device.round })
      }
    })
    const slowest = used.sort((a, b) => b.period - a.period)[0]
    if (slowest !== undefined && time < slowest.period - 1e-9) findings.warning(say.shorterThanLook(slowest.name, Math.round(slowest.period * 1000)), condition.held.range)
  }
}
