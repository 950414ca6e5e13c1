import { UNITS, formatQuantity, kindOf, readQuantity, sameKind, type KindName } from '~~/core/units'

/** The unit in which people set a quantity of each kind on a robot. */
const USUAL: Readonly<Record<string, string>> = { 'length': 'cm', 'angle': 'deg', 'time': 'ms', 'speed': 'cm/s', 'turning speed': 'deg/s', 'mass': 'g', 'force': 'N', 'torque': 'Nm', 'number': '%' }

/** A value in SI units as a document writes it: "12.5 cm". */
export function writeQuantity(kind: string, value: number): string {
  const unit = UNITS.find(u => u.name === USUAL[kind]) ?? UNITS.find(u => sameKind(u.kind, kindOf(kind as KindName)))
  return unit === undefined ? String(value) : formatQuantity(value, unit)
}

/** What a document wrote, in SI units; the other value where it cannot be read. */
export function readLength(text: unknown, kind: KindName, otherwise: number): number {
  const read = typeof text === 'string' ? readQuantity(text, kindOf(kind)) : null
  return read?.ok === true ? read.value : otherwise
}

/** A written quantity moved by steps of its own unit: one, or a tenth with `fine`. null where it cannot be read. */
export function nudged(text: string, by: number, fine: boolean): string | null {
  const match = /^\s*(-?\d+(?:\.\d+)?)\s*(.*)$/.exec(text)
  if (match === null) return null
  const step = fine ? 0.1 : 1
  return `${Math.round((Number(match[1]) + by * step) * 1000) / 1000}${match[2] === '' ? '' : ` ${match[2]!}`}`
}
