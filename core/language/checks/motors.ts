import { driveOf } from '../../robot'
import { findUnit, formatQuantity, unitsOfKind, kindOf } from '../../units'
import type { Analysis } from '../analysis'
import { numberOf } from '../constants'
import { activeSteps } from '../nodes'
import type { Action, Expression } from '../tree'
import { say } from '../wording'
import type { Check } from './index'
import { allBodies, blocksOf, fixedValue } from './walk'

/** What is asked of motors and joints that they cannot do, and speeds worked out from a reading that may be missing. */
export const motors: Check = (program, findings) => {
  const bodies = allBodies(program)
  for (const step of bodies.flatMap(activeSteps)) {
    if (step.tag !== 'action') continue
    beyondMotor(program, step, findings)
    beyondJoint(program, step, findings)
  }
  for (const { body, rule } of blocksOf(program)) {
    const asked = rule?.when == null ? '' : program.text.slice(rule.when.range.from, rule.when.range.to)
    for (const step of activeSteps(body)) {
      if (step.tag !== 'action' || step.form !== 'drive') continue
      const value = step.slots.find(s => s.name === 'amount')?.value
      if (value == null || program.planOf(step)?.plan.timing !== 'held') continue
      const lost = missing(program, value)
      // Somebody who asks whether there is an echo, or only what is near, has thought of it.
      const text = rule === null ? '' : program.text.slice(rule.range.from, rule.range.to)
      if (lost !== null && !text.includes(`${lost}.sees`) && !asked.includes(`${lost}.distance <`)) findings.hint(say.lostEcho(lost), value.range)
    }
  }
}

const valueOf = (step: Action, slot: string): Expression | null => step.slots.find(s => s.name === slot)?.value ?? null

function beyondMotor(program: Analysis, step: Action, findings: Parameters<Check>[1]): void {
  const drive = driveOf(program.facts)
  if (drive === null || !['drive', 'turn', 'turnTo'].includes(step.form)) return
  const held = program.planOf(step)?.plan.timing === 'held'
  const slot = step.form === 'turnTo' || !held ? 'speed' : 'amount'
  const given = valueOf(step, slot)
  const value = given === null ? null : fixedValue(program, given)
  if (given === null || value === null) return
  const turning = step.form !== 'drive'
  const most = turning ? 2 * drive['top speed'] / drive.track : drive['top speed']
  if (Math.abs(value) <= most * 1.0001) return
  const unit = (given.tag === 'number' && given.unit !== null ? findUnit(given.unit) : undefined) ?? unitsOfKind(kindOf(turning ? 'turning speed' : 'speed'))[0]!
  findings.warning(say.beyondMotor(formatQuantity(most, unit)), given.range)
}

function beyondJoint(program: Analysis, step: Action, findings: Parameters<Check>[1]): void {
  if (step.form !== 'move') return
  const device = program.facts.devices.find(d => d.name === step.slots.find(s => s.name === 'device')?.word)
  const given = valueOf(step, 'target')
  const value = given === null ? null : numberOf(given)
  if (device === undefined || given === null || value === null) return
  const { from, to } = device.parameters as { from: number, to: number }
  if (value >= from - 1e-6 && value <= to + 1e-6) return
  const unit = (given.tag === 'number' && given.unit !== null ? findUnit(given.unit) : undefined) ?? unitsOfKind(kindOf(device.kind === 'slide' ? 'length' : 'angle'))[0]!
  findings.warning(say.beyondJoint(device.name, formatQuantity(from, unit), formatQuantity(to, unit)), given.range)
}

/** The device whose reading may be missing in arithmetic that nothing bounds; null where there is none. */
function missing(program: Analysis, e: Expression, within = false): string | null {
  switch (e.tag) {
    case 'reading': {
      const spec = program.facts.devices.find(d => d.name === e.device.text)?.readings.find(r => r.name === e.reading.text)
      return within && spec?.mayMiss === true ? e.device.text : null
    }
    case 'bracket': return missing(program, e.inner, within)
    case 'minus': return missing(program, e.of, within)
    case 'arithmetic': return missing(program, e.left, true) ?? missing(program, e.right, true)
    default: return null
  }
}
