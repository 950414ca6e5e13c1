import { MOTOR_CONNECTIONS } from '../devices'

/** The way in which something is connected: what stands behind a motor's driver is reached alike, by whichever lines that is told. */
export const wayOf = (by: string): string => MOTOR_CONNECTIONS.some(c => c.name === by) ? 'motor' : by

/** Edges of an encoder in a turn, of one that counts so many while something goes from one end to the other, radians or metres: its shaft turns in that unit. */
export const countsOver = (counts: number, range: number): number => counts * 2 * Math.PI / range

/** Why nothing moves what a motor moves between two ends. */
export const UNCOUNTED = 'how many edges its encoder counts from end to end is not given: `counts`, in its wiring'

/** What the board does not have or an export does not drive. */
export interface Missing { readonly device: string, readonly why: string }

export interface Parts {
  /** A file that makes the robot's parts, and how they are reached. */
  readonly hardware: string
  readonly missing: readonly Missing[]
}
