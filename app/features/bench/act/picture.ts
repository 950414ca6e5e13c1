import type { Opened } from '~/run/protocol'
import type { HandsShown } from './hands-shown'
import type { Measured } from './plan-ruler'
import type { Frame, Point } from './plan-view'

/** A way of showing the arena: it holds no state of the run and draws the row that it is given. */
export interface Picture {
  /** Makes the picture of an arena and a robot; what stood there before is gone. */
  build(opened: Opened, looks: RobotLooks): void
  /** Shows the world as a row of the tape has it. */
  draw(row: Float64Array, tick: number, beside: Beside): void
  /** The place on the page changed its size, page pixels. */
  resize(width: number, height: number): void
  /** Sees `factor` times as much; where it can, what lies at (x, y), page pixels, stays there. */
  zoom(factor: number, x: number, y: number): void
  /** Moves the picture by page pixels, where it can be moved. */
  pan(dx: number, dy: number): void
  /** Turns the picture and lifts the eye, radians. */
  turnEye(around: number, up: number): void
  /** What stands still on it. */
  setFrame(frame: Frame): void
  /** As it was at first. */
  rest(): void
  /** Lays a ruler between two places, page pixels; null puts it away. */
  measure(ends: readonly [Point, Point] | null): void
  /** What the ruler measures now; null while none is laid, or where none can be. */
  measured(): Measured | null
  dispose(): void
  /** How far (metres) the hand before a device would be from it at a place of the picture, page pixels; null where the picture cannot say. */
  alongHand(device: string, x: number, y: number): number | null
  /** What stands at a place of the picture (page pixels): the robot, a loose piece or a hand before a device (`hand:` and its name), and where the place is (metres). null where the picture cannot say. */
  pick(x: number, y: number): Pick | null
}

/** What else a picture needs to show an instant. */
export interface Beside {
  /** The row of another tick; null where there is none. */
  rowOf(tick: number): Float64Array | null
  /** What stands on a display. */
  screenOf(display: string): string
  /** Hands as they are then. */
  readonly hands: HandsShown
}

/** A run of which only one instant is shown. */
export const NOTHING_BESIDE: Beside = { rowOf: () => null, screenOf: () => '', hands: { before: new Map(), light: 1 } }

/** What stands before the name of a device for the hand before it. */
export const HAND = 'hand:'

export interface Pick { readonly what: string | null, readonly x: number, readonly y: number }

/** What a picture needs of a robot's body, metres. Places are forward, left and up from the floor. */
export interface RobotLooks {
  readonly length: number
  readonly width: number
  readonly height: number
  readonly clearance: number
  /** null for a robot without a drive. */
  readonly wheel: { readonly radius: number, readonly width: number, readonly track: number, readonly forward: number } | null
  readonly devices: readonly {
    readonly name: string, readonly kind: string, readonly onChassis: boolean, readonly forward: number, readonly left: number, readonly up: number
    /** Which way it looks: radians to the left, and upwards. */
    readonly yaw: number, readonly pitch: number
    /** Radians; null for what has no cone. */
    readonly cone: number | null
    readonly pad: { readonly width: number, readonly height: number } | null
    /** How wide the glass of a display is; null for what is none. */
    readonly glass: number | null
  }[]
}
