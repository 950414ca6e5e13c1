import { yawOf } from '~~/core/geometry'

/** Heading (radians to the left, from east) of a pose in a row of the tape whose quaternion begins at a column. */
export const yawAt = (row: ArrayLike<number>, q: number): number => yawOf({ x: row[q]!, y: row[q + 1]!, z: row[q + 2]!, w: row[q + 3]! })
