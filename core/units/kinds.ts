/**
 * The kind of a quantity: its powers of length, angle, time and mass. Angle counts as a
 * dimension of its own, so that a heading never passes for a plain number.
 */
export interface Kind {
  readonly length: number
  readonly angle: number
  readonly time: number
  readonly mass: number
}

const kind = (length: number, angle: number, time: number, mass = 0): Kind => ({ length, angle, time, mass })

export const PLAIN: Kind = kind(0, 0, 0)

/** The kinds that have a name of their own. */
export const KINDS = {
  number: PLAIN,
  length: kind(1, 0, 0),
  angle: kind(0, 1, 0),
  time: kind(0, 0, 1),
  speed: kind(1, 0, -1),
  'turning speed': kind(0, 1, -1),
  frequency: kind(0, 0, -1),
  acceleration: kind(1, 0, -2),
  mass: kind(0, 0, 0, 1),
  force: kind(1, 0, -2, 1),
  torque: kind(2, 0, -2, 1),
} as const satisfies Record<string, Kind>

export type KindName = keyof typeof KINDS

export function sameKind(a: Kind, b: Kind): boolean {
  return a.length === b.length && a.angle === b.angle && a.time === b.time && a.mass === b.mass
}

export function timesKind(a: Kind, b: Kind): Kind {
  return kind(a.length + b.length, a.angle + b.angle, a.time + b.time, a.mass + b.mass)
}

export function overKind(a: Kind, b: Kind): Kind {
  return kind(a.length - b.length, a.angle - b.angle, a.time - b.time, a.mass - b.mass)
}

export function kindOf(name: KindName): Kind {
  return KINDS[name]
}

/** The kind's name; for one that has none, its powers, as in "angle/length". */
export function kindName(k: Kind): string {
  for (const [name, named] of Object.entries(KINDS)) if (sameKind(named, k)) return name
  const parts = (sign: number) => (['mass', 'length', 'angle', 'time'] as const)
    .filter(part => Math.sign(k[part]) === sign)
    .map(part => Math.abs(k[part]) === 1 ? part : `${part}^${Math.abs(k[part])}`)
  const over = parts(1).join(' ') || '1'
  const under = parts(-1).join(' ')
  return under === '' ? over : `${over}/${under}`
}
