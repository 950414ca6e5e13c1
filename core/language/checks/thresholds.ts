import { formatQuantity, kindOf, unitsOfKind } from '../../units'
import type { Analysis } from '../analysis'
import type { Compare, Reading } from '../tree'
import { readingName } from '../types'
import { say } from '../wording'
import type { Check } from './index'
import { conditionsOf, eachPart, fixedValue } from './walk'

/** Comparisons with values that the device can never read. */
export const thresholds: Check = (program, findings) => {
  for (const condition of conditionsOf(program)) {
    eachPart(condition, (e) => {
      if (e.tag === 'is' && !e.negated && e.value.tag === 'reading' && measured(program, e.value)) findings.hint(say.isMeasure(readingName(e.value)), e.range)
      if (e.tag !== 'compare') return
      const floor = floorBefore(program, e)
      if (floor !== null) findings.warning(floor, e.range)
      const said = beyond(program, e)
      if (said !== null) findings.warning(said, e.range)
    })
  }
}

/** A distance asked for that lies behind the floor which the sensor sees. */
function floorBefore(program: Analysis, e: Compare): { code: string, message: string } | null {
  const { reading, bound } = e.right.tag === 'reading' ? { reading: e.right, bound: e.left } : { reading: e.left, bound: e.right }
  if (reading.tag !== 'reading' || reading.reading.text !== 'distance') return null
  const from = program.facts.devices.find(d => d.name === reading.device.text)?.floorFrom ?? null
  const value = fixedValue(program, bound)
  const cm = unitsOfKind(kindOf('length'))[0]!
  return from === null || value === null || value <= from ? null : say.floorBefore(reading.device.text, formatQuantity(from, cm))
}

/** Whether a reading is a measure, which hardly ever is exactly a value; counts and joints' places are not meant. */
function measured(program: Analysis, reading: Reading): boolean {
  const spec = program.facts.devices.find(d => d.name === reading.device.text)?.readings.find(r => r.name === reading.reading.text)
  return spec?.type.type === 'quantity' && spec.name !== 'count'
}

function beyond(program: Analysis, e: Compare): { code: string, message: string } | null {
  const flipped = e.right.tag === 'reading'
  const reading = flipped ? e.right : e.left
  const bound = flipped ? e.left : e.right
  if (reading.tag !== 'reading') return null
  const value = fixedValue(program, bound)
  const spec = program.facts.devices.find(d => d.name === reading.device.text)?.readings.find(r => r.name === reading.reading.text)
  if (value === null || spec?.range == null || spec.type.type !== 'quantity') return null
  const operator = flipped ? { '<': '>', '>': '<', '<=': '>=', '>=': '<=' }[e.operator] : e.operator
  const less = operator.startsWith('<')
  const [low, high] = spec.range
  const unit = unitsOfKind(spec.type.kind)[0]
  if (unit === undefined) return null
  const name = `${reading.device.text}.${reading.reading.text}`
  if (value > high || (value === high && operator === '>')) {
    // No echo counts as farther than any distance: `> 3 m` is then true, `< 3 m` is not.
    if (!less && spec.mayMiss) return say.beyondRange(name, formatQuantity(high, unit), false)
    return say.beyondRange(name, formatQuantity(high, unit), less)
  }
  if (value < low || (value === low && operator === '<')) return say.belowRange(name, formatQuantity(low, unit), !less)
  return null
}
