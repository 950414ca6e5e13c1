import type { ColorName } from '../colors'

export const ECHOES = ['smooth', 'rough', 'soft'] as const
export type Echo = (typeof ECHOES)[number]

/** What something is made of: what it has of that unless its own fields say otherwise. */
export interface Material {
  /** Kilograms in a cubic metre, of the whole thing: a hollow one weighs what `mass` says. */
  readonly density: number
  /** Coefficient of friction against a dry plank. */
  readonly friction: number
  /** What its faces do to sound. */
  readonly echo: Echo
  readonly color: ColorName
  /** Whether a magnet holds it. */
  readonly steel: boolean
}

/** Materials by name. Densities and frictions are rounded from common engineering tables; they are meant to be plausible, not exact. */
export const MATERIALS = {
  wood: { density: 550, friction: 0.5, echo: 'rough', color: 'grey', steel: false },
  cork: { density: 200, friction: 0.65, echo: 'soft', color: 'orange', steel: false },
  foam: { density: 60, friction: 0.7, echo: 'soft', color: 'white', steel: false },
  plastic: { density: 950, friction: 0.35, echo: 'smooth', color: 'white', steel: false },
  rubber: { density: 1200, friction: 0.9, echo: 'rough', color: 'black', steel: false },
  rope: { density: 400, friction: 0.6, echo: 'soft', color: 'yellow', steel: false },
  stone: { density: 2500, friction: 0.6, echo: 'rough', color: 'grey', steel: false },
  steel: { density: 7800, friction: 0.4, echo: 'smooth', color: 'blue', steel: true },
} as const satisfies Readonly<Record<string, Material>>

export const MATERIAL_NAMES = Object.keys(MATERIALS) as readonly (keyof typeof MATERIALS)[]
