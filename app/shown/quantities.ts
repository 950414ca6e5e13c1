import type { SettingSpec } from '~~/core/devices'
import { UNITS, formatQuantity, kindOf, readQuantity, sameKind, type KindName } from '~~/core/units'
import { shownLength } from '~/shown/lengths'

/** The unit in which people set a quantity of each kind on a robot, but for lengths and speeds: those have the preferred one. */
const USUAL: Readonly<Record<string, string>> = { 'angle': 'deg', 'time': 'ms', 'turning speed': 'deg/s', 'mass': 'g', 'force': 'N', 'torque': 'Nm', 'number': '%' }

/** A value in SI units as a document writes it: "12.5 cm". */
export function writeQuantity(kind: string, value: number): string {
  if (kind === 'length') return shownLength(value)
  if (kind === 'speed') return shownLength(value, '/s')
  const usual = kind === 'mass' && value >= 1 ? 'kg' : USUAL[kind]
  const unit = UNITS.find(u => u.name === usual) ?? UNITS.find(u => sameKind(u.kind, kindOf(kind as KindName)))
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

/** What an arrow key makes of a written quantity: up and down move it by one of its unit, with alt by a tenth. null for any other key. */
export function nudgedByKey(text: string, event: KeyboardEvent): string | null {
  const by = event.key === 'ArrowUp' ? 1 : event.key === 'ArrowDown' ? -1 : 0
  const next = by === 0 ? null : nudged(text, by, event.altKey)
  if (next !== null) event.preventDefault()
  return next
}

/** Writes what was typed for a setting into its part of the document; nothing typed leaves it out. */
export function setWritten(part: Record<string, unknown>, name: string, value: string, as: SettingSpec['kind']): void {
  if (value.trim() === '') delete part[name]
  else if (as === 'number') part[name] = Number.isNaN(Number(value)) ? value : Number(value)
  else if (as === 'list') part[name] = value.replaceAll(/[[\]"]/g, '').split(/[\s,]+/).filter(w => w !== '').map(w => /^\d+$/.test(w) ? Number(w) : w)
  else part[name] = value
}
