import { KINDS, kindName, overKind, sameKind, type Kind } from './kinds'

/** A written unit: its kind and how many SI units (metre, radian, second, kilogram) one of it is. */
export interface Unit {
  readonly name: string
  readonly kind: Kind
  readonly scale: number
  /** False for units of documents alone (masses, forces), which no program can write. */
  readonly inPrograms: boolean
}

const DEG = Math.PI / 180
const TURN = 2 * Math.PI

const unit = (name: string, kind: Kind, scale: number, inPrograms = true): Unit => ({ name, kind, scale, inPrograms })

/** Every unit, in the order in which they are offered. */
export const UNITS: readonly Unit[] = [
  unit('cm', KINDS.length, 0.01),
  unit('mm', KINDS.length, 0.001),
  unit('m', KINDS.length, 1),
  unit('in', KINDS.length, 0.0254),
  unit('s', KINDS.time, 1),
  unit('ms', KINDS.time, 0.001),
  unit('min', KINDS.time, 60),
  unit('deg', KINDS.angle, DEG),
  unit('turn', KINDS.angle, TURN),
  unit('cm/s', KINDS.speed, 0.01),
  unit('mm/s', KINDS.speed, 0.001),
  unit('m/s', KINDS.speed, 1),
  unit('in/s', KINDS.speed, 0.0254),
  unit('deg/s', KINDS['turning speed'], DEG),
  unit('turn/s', KINDS['turning speed'], TURN),
  unit('rpm', KINDS['turning speed'], TURN / 60),
  unit('Hz', KINDS.frequency, 1),
  unit('%', KINDS.number, 0.01),
  unit('cm/s2', KINDS.acceleration, 0.01, false),
  unit('m/s2', KINDS.acceleration, 1, false),
  unit('g', KINDS.mass, 0.001, false),
  unit('kg', KINDS.mass, 1, false),
  unit('N', KINDS.force, 1, false),
  unit('Nm', KINDS.torque, 1, false),
  unit('mNm', KINDS.torque, 0.001, false),
]

const byName = new Map(UNITS.map(u => [u.name, u]))

/**
 * The unit of that name, also a gain such as `cm/s per cm`; undefined when there is none.
 */
export function findUnit(name: string): Unit | undefined {
  const plain = byName.get(name)
  if (plain !== undefined) return plain
  const gain = /^(\S+) per (\S+)$/.exec(name)
  if (gain === null) return undefined
  const over = byName.get(gain[1]!)
  const under = byName.get(gain[2]!)
  if (over === undefined || under === undefined) return undefined
  return unit(name, overKind(over.kind, under.kind), over.scale / under.scale)
}

/** The units in which a kind may be written in a program, the usual one first. */
export function unitsOfKind(kind: Kind): readonly Unit[] {
  return UNITS.filter(u => u.inPrograms && sameKind(u.kind, kind))
}

export type QuantityReading =
  | { readonly ok: true, readonly value: number, readonly unit: Unit | undefined }
  | { readonly ok: false, readonly reason: string }

/** Reads "12.5 cm" from a document into SI. The kind must be the wanted one. */
export function readQuantity(text: string, wanted: Kind): QuantityReading {
  const match = /^\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)\s*(\S.*?)?\s*$/i.exec(text)
  const example = UNITS.find(u => sameKind(u.kind, wanted))
  const hint = example === undefined ? 'a plain number' : `${/^[aeiou]/.test(kindName(wanted)) ? 'an' : 'a'} ${kindName(wanted)} such as "12 ${example.name}"`
  if (match === null) return { ok: false, reason: `expected ${hint}` }
  const number = Number(match[1])
  if (match[2] === undefined) {
    if (sameKind(wanted, KINDS.number)) return { ok: true, value: number, unit: undefined }
    return { ok: false, reason: `the number has no unit; expected ${hint}` }
  }
  const found = findUnit(match[2])
  if (found === undefined) return { ok: false, reason: `"${match[2]}" is not a unit; expected ${hint}` }
  if (!sameKind(found.kind, wanted)) {
    return { ok: false, reason: `"${match[2]}" is a unit of ${kindName(found.kind)}; expected ${hint}` }
  }
  return { ok: true, value: number * found.scale, unit: found }
}

/** An SI value in a unit, with as many digits as are useful: "34.2 cm". */
export function formatQuantity(value: number, u: Unit, digits = 3): string {
  const scaled = value / u.scale
  const magnitude = Math.abs(scaled)
  const decimals = magnitude >= 100 ? Math.max(0, digits - 3) : magnitude >= 10 ? digits - 2 : digits - 1
  const fixed = scaled.toFixed(Math.max(0, decimals))
  const text = fixed.includes('.') ? fixed.replace(/0+$/, '').replace(/\.$/, '') : fixed
  return `${text === '-0' ? '0' : text} ${u.name}`
}
