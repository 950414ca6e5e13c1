import type { ColorName } from '../colors'
import type { SolidShape } from '../geometry'
import type { Echo } from './materials'

/**
 * What stands in an arena, as figures: whatever builds bodies, senses or draws reads these and knows no kind of thing by name.
 * Metres; x east, y north, z up from the deck.
 */
export interface Figures {
  /** What is stood on, as flat figures and as solids, in the same order. */
  readonly floor: readonly PaintFigure[]
  readonly ground: readonly SolidFigure[]
  /** Paint on it; the later covers the earlier. */
  readonly paint: readonly PaintFigure[]
  /** Solids that stay where they are, in the order in which they are built. */
  readonly fixed: readonly SolidFigure[]
  /** Solids that walk a plan of their own, where they begin. */
  readonly walking: readonly WalkingFigure[]
  /** Outlines that people alone see. */
  readonly marks: readonly { readonly name: string, readonly at: Place, readonly size: Place }[]
  readonly lights: readonly LightFigure[]
}

type Place = readonly [number, number]

/** How people see a thing: plain grey ones look like what they are made for. */
export type Tint = 'deck' | 'wall' | `paint-${ColorName}`

/** Something flat. `turn`: radians, to the right. */
export type PaintFigure = { readonly color: ColorName } & (
  | { readonly shape: 'box', readonly at: Place, readonly size: Place, readonly turn: number }
  | { readonly shape: 'disc', readonly at: Place, readonly radius: number }
  | { readonly shape: 'way', readonly points: readonly Place[], readonly width: number }
)

/** A solid that stands upright: `middle` is how high its middle is, `yaw` its turn, radians counter-clockwise. */
export interface SolidFigure {
  /** What contacts with it are called. */
  readonly id: string
  readonly shape: SolidShape
  readonly at: Place
  readonly middle: number
  readonly yaw: number
  readonly color: ColorName
  readonly tint: Tint
  readonly friction: number
  readonly echo: Echo
  /** The bottom of something hollow: people look into it from above. */
  readonly hollow?: boolean
  /** Metres between the seams of its planks, by which distance can be judged. */
  readonly seams?: number
  /** Its surface runs along its length, metres a second. */
  readonly runs?: number
}

export interface WalkingFigure extends SolidFigure { readonly kind: string }

export interface LightFigure { readonly name: string, readonly at: Place, readonly up: number, readonly on: readonly { readonly from: number, readonly to: number }[] }

/** Names of contacts that are the ground itself, and with walls. */
export const GROUND = 'ground:'
export const WALL = 'wall:'
/** What stands behind the name of a thing of several solids, in the names of those. */
export const PART_OF = '#'
