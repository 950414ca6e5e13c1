import { formatQuantity, kindOf, unitsOfKind } from '../../units'
import type { Analysis } from '../analysis'
import { numberOf } from '../constants'
import { activeSteps } from '../nodes'
import type { Expression, Rule } from '../tree'
import { say } from '../wording'
import type { Check } from './index'
import { allBodies, askedBy, conditionsOf, eachPart, fixedValue, readingsIn } from './walk'

/** What a sensor does not see: an arm before it, a thing that is not in the picture; and alarms that stand too low to be heard. */
export const sights: Check = (program, findings) => {
  armBefore(program, findings)
  lostSight(program, findings)
  for (const lane of program.lanes) for (const mode of lane.modes) urgentBelow(program, [...lane.above, ...mode.rules], findings)
}

/** A joint is sent where its arm stands before a sensor that the program asks. */
function armBefore(program: Analysis, findings: Parameters<Check>[1]): void {
  if (program.facts.devices.every(d => d.hidden.length === 0)) return
  const bodies = allBodies(program).flatMap(activeSteps)
  const asked = new Set([...conditionsOf(program), ...bodies.flatMap(askedBy)].flatMap(readingsIn).map(r => r.device.text))
  const told = new Set<string>()
  for (const step of bodies) {
    if (step.tag !== 'action' || step.form !== 'move') continue
    const joint = step.slots.find(s => s.name === 'device')?.word
    const given = step.slots.find(s => s.name === 'target')?.value
    const target = given == null ? null : numberOf(given)
    if (target === null || given == null) continue
    for (const device of program.facts.devices) {
      const hidden = device.hidden.find(h => h.joint === joint && target >= h.from && target <= h.to)
      if (hidden === undefined || !asked.has(device.name) || told.has(`${device.name} ${joint ?? ''}`)) continue
      told.add(`${device.name} ${joint ?? ''}`)
      const sliding = program.facts.devices.find(d => d.name === joint)?.kind === 'slide'
      const unit = unitsOfKind(kindOf(sliding ? 'length' : 'angle'))[0]!
      findings.hint(say.armBefore(device.name, hidden.part, hidden.joint, formatQuantity(Math.round(hidden.from * 1000) / 1000, unit), formatQuantity(Math.round(hidden.to * 1000) / 1000, unit)), given.range)
    }
  }
}

/** Where a thing is in a picture, without having asked whether it is: then the reading is what was seen last. */
function lostSight(program: Analysis, findings: Parameters<Check>[1]): void {
  if (![...program.uses.readings].some(r => r.includes('.bearing'))) return
  for (const lane of program.lanes) {
    for (const mode of lane.modes) {
      const rules = [...lane.above, ...mode.rules]
      rules.forEach((rule, i) => {
        // Asked here, or by a rule above that takes over when it is not seen.
        const around = program.text.slice(rule.range.from, rule.range.to) + rules.slice(0, i).map(r => r.when === null ? '' : program.text.slice(r.when.range.from, r.when.range.to)).join(' ')
        for (const step of activeSteps(rule.body)) {
          for (const reading of askedBy(step).flatMap(readingsIn)) {
            if (reading.reading.text !== 'bearing') continue
            const device = program.facts.devices.find(d => d.name === reading.device.text)
            if (device?.kind !== 'camera' || around.includes(`${device.name}.sees`)) continue
            findings.hint(say.lostSight(program.text.slice(reading.range.from, reading.range.to), device.name), reading.range)
            return
          }
        }
      })
    }
  }
}

/** Whether a condition is of something touched or of a deck that ends. */
function urgent(rule: Rule): boolean {
  let found = false
  if (rule.when !== null) eachPart(rule.when.expression, (e) => { if (e.tag === 'reading' && e.reading.text === 'pressed') found = true })
  return found && rule.when?.expression.tag !== 'not'
}

/** Whether a rule wants control nearly all the time: while nothing is near, or nothing is touched. */
function nearlyAlways(program: Analysis, e: Expression): boolean {
  switch (e.tag) {
    case 'bracket': return nearlyAlways(program, e.inner)
    case 'not': return e.of.tag === 'reading' && e.of.reading.text === 'pressed'
    case 'logic': return e.operator === 'or' ? e.operands.some(o => nearlyAlways(program, o)) : e.operands.every(o => nearlyAlways(program, o))
    case 'compare': {
      const [reading, limit] = e.operator.startsWith('>') ? [e.left, e.right] : [e.right, e.left]
      if (reading.tag !== 'reading' || reading.reading.text !== 'distance') return false
      const spec = program.facts.devices.find(d => d.name === reading.device.text)?.readings.find(r => r.name === 'distance')
      const bound = fixedValue(program, limit)
      return bound !== null && spec?.range != null && bound < spec.range[1] / 2
    }
    default: return false
  }
}

function urgentBelow(program: Analysis, rules: readonly Rule[], findings: Parameters<Check>[1]): void {
  rules.forEach((rule, i) => {
    if (!urgent(rule)) return
    const above = rules.slice(0, i).find(r => r.when !== null && r.until === null && !r.once && nearlyAlways(program, r.when.expression))
    if (above !== undefined) findings.warning(say.urgentBelow(program.line(above.range)), rule.when!.range)
  })
}
