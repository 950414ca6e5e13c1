import { findUnit, formatQuantity } from '../units'

/** By how much a world differs from its arena, of each variation that there is. SI. */
export type Drawn = Readonly<Record<string, number>>

/** What may vary of a world: what it is, the unit that it is told in (null: so many times what is usual), that unit in SI, what it is where nothing differs, and its limits in SI. */
export interface Varying { readonly says: string, readonly unit: 'cm' | 'deg' | '%' | null, readonly scale: number, readonly plain: number, readonly least: number, readonly most: number
  /** Whether it is how the robot is made, which no arena says. */
  readonly robot?: true
}

const times = (says: string, least = 0.01): Varying => ({ says, unit: null, scale: 1, plain: 1, least, most: 10 })
const share = (says: string, most: number): Varying => ({ says, unit: '%', scale: 0.01, plain: 0, least: -most, most })
const way = (says: string): Varying => ({ says, unit: 'cm', scale: 0.01, plain: 0, least: -10, most: 10 })
const angle = (says: string): Varying => ({ says, unit: 'deg', scale: Math.PI / 180, plain: 0, least: -Math.PI, most: Math.PI })

/** What varies by itself, and with a name of a thing before it (`crate_1.east`): where that stands. */
export const VARIATIONS: Readonly<Record<string, Varying>> = {
  grip: times('grip of the floor'), light: times('light'), noise: { ...times('how far sensors deviate', 0), robot: true },
  motors: { ...share('left motor stronger than the right one', 0.5), robot: true }, wheels: { ...share('left wheel larger than the right one', 0.2), robot: true },
  east: way('start, east by'), north: way('start, north by'), turn: angle('start, turned right by'),
}
export const SHIFTS: Readonly<Record<'east' | 'north' | 'turn', Varying>> = { east: way('east by'), north: way('north by'), turn: angle('turned right by') }

/** What varies under such a name; null where nothing does. */
export function variationOf(name: string): Varying & { readonly thing: string | null, readonly what: string } | null {
  const dot = name.lastIndexOf('.')
  const [thing, what] = dot === -1 ? [null, name] : [name.slice(0, dot), name.slice(dot + 1)]
  const of = thing === null ? VARIATIONS : SHIFTS as Readonly<Record<string, Varying>>
  return thing === '' || !Object.hasOwn(of, what) ? null : { ...of[what]!, thing, what }
}

/** By what a world differs, as documents write it; read again it is the same to the bit, where it has no more than twelve figures in its unit. */
export const writtenWorld = (world: Drawn): object => Object.fromEntries(Object.entries(world).map(([name, x]) => {
  const { unit, scale } = variationOf(name)!
  return [name, unit === null ? x : `${Number((x / scale).toPrecision(12))} ${unit}`]
}))

/** A value of a variation, as people read it. */
export function variedText(of: string, value: number): string {
  const { unit } = variationOf(of)!
  return unit === null ? value.toFixed(2) : formatQuantity(value, findUnit(unit)!)
}

/** How a world differs, in words: `turn 7.00 deg and grip 0.55`. */
export function worldSaid(world: Drawn): string {
  const parts = Object.entries(world).map(([of, value]) => `${of.replace('.', ' ')} ${variedText(of, value)}`)
  return parts.length === 0 ? 'the arena as it is' : parts.length === 1 ? parts[0]! : `${parts.slice(0, -1).join(', ')} and ${parts.at(-1)}`
}
