import type { ReadingSpec } from '~~/core/devices'
import { readingName, type DeviceFacts, type RobotFacts } from '~~/core/robot'
import { KINDS, UNITS, sameKind, unitsOfKind, type Unit } from '~~/core/units'
import { DEVICE_COLORS } from '~/theme'
import { lengthUnit } from './lengths'

/** The place in the list of device colours that the wheels keep: a quiet grey. */
const WHEEL_COLOR = 5

/** Name of the theme colour of a device: the same everywhere. */
export function deviceColor(facts: RobotFacts, device: string): string {
  if (device === 'wheels') return `device-${WHEEL_COLOR}`
  const others = facts.devices.filter(d => d.name !== 'wheels')
  const at = Math.max(0, others.findIndex(d => d.name === device))
  return placeColor(at)
}

/** Name of the theme colour of the device at a place in the robot's list. */
export function placeColor(at: number): string {
  const place = at % (DEVICE_COLORS - 1)
  return `device-${place >= WHEEL_COLOR ? place + 1 : place}`
}

export { readingLabel, readingName } from '~~/core/robot'

export interface ShownReading {
  readonly device: DeviceFacts
  readonly spec: ReadingSpec
  /** Column among the readings. */
  readonly index: number
  readonly name: string
}

/** The reading that stands for a device: its first. */
export function mainReading(device: DeviceFacts): ShownReading {
  return { device, spec: device.readings[0]!, index: device.first, name: readingName(device, device.readings[0]!) }
}

/** The unit in which a reading is shown; undefined for truths and colours. */
export function readingUnit(spec: Pick<ReadingSpec, 'type'>): Unit | undefined {
  if (spec.type.type !== 'quantity') return undefined
  if (sameKind(spec.type.kind, KINDS.length)) return UNITS.find(u => u.name === lengthUnit.value)
  if (sameKind(spec.type.kind, KINDS.speed)) return UNITS.find(u => u.name === `${lengthUnit.value}/s`)
  if (sameKind(spec.type.kind, KINDS.number) && !spec.type.share) return undefined
  return spec.type.share ? UNITS.find(u => u.name === '%') : unitsOfKind(spec.type.kind)[0]
}

/** A live value for display, its figure of steady width, and the unit apart. */
export function shownValue(spec: Pick<ReadingSpec, 'name' | 'type'>, value: number, colors: readonly string[]): { readonly figure: string, readonly unit: string } {
  switch (spec.type.type) {
    case 'truth': return { figure: value !== 0 ? `● ${spec.name}` : `○ not ${spec.name}`, unit: '' }
    case 'color': return { figure: colors[value] ?? 'none', unit: '' }
    case 'quantity': {
      if (value === Infinity) return { figure: 'no echo', unit: '' }
      const unit = readingUnit(spec)
      const scaled = value / (unit?.scale ?? 1)
      if (unit === undefined && Number.isInteger(scaled)) return { figure: String(scaled), unit: '' }
      const text = Math.abs(scaled) < 0.05 ? '0.0' : scaled.toFixed(1)
      return { figure: text, unit: unit?.name ?? '' }
    }
  }
}
