import { atan2, cos, sin } from '../maths'

/** Metres, in the world (x east, y north, z up) or in a body (x forward, y left, z up). */
export interface Vector { readonly x: number, readonly y: number, readonly z: number }

export interface MutableVector { x: number, y: number, z: number }

/** A rotation, of length 1. */
export interface Quaternion { readonly x: number, readonly y: number, readonly z: number, readonly w: number }

export interface MutableQuaternion { x: number, y: number, z: number, w: number }

export interface Pose { readonly position: Vector, readonly rotation: Quaternion }

/** A pose that is changed in place. */
export interface MutablePose { readonly position: MutableVector, readonly rotation: MutableQuaternion }

/** One at the origin, upright, to be written into. */
export const somePose = (): MutablePose => ({ position: { x: 0, y: 0, z: 0 }, rotation: { x: 0, y: 0, z: 0, w: 1 } })

/** Pose and motion of a body in the world: metres, metres a second, radians a second. */
export interface BodyState {
  readonly pose: MutablePose
  readonly matrix: Float64Array
  readonly velocity: MutableVector
  readonly spin: MutableVector
}

/** A body at rest, at a copy of a pose. */
export function resting({ position, rotation }: Pose): BodyState {
  const matrix = new Float64Array(9)
  rotationMatrix(rotation, matrix)
  const { x, y, z, w } = rotation
  return { pose: { position: { x: position.x, y: position.y, z: position.z }, rotation: { x, y, z, w } }, matrix, velocity: { x: 0, y: 0, z: 0 }, spin: { x: 0, y: 0, z: 0 } }
}

/** The vector turned by the rotation, written into `into`, which is another. */
export function rotate(q: Quaternion, v: Vector, into: MutableVector = { x: 0, y: 0, z: 0 }): Vector {
  const tx = 2 * (q.y * v.z - q.z * v.y)
  const ty = 2 * (q.z * v.x - q.x * v.z)
  const tz = 2 * (q.x * v.y - q.y * v.x)
  into.x = v.x + q.w * tx + q.y * tz - q.z * ty
  into.y = v.y + q.w * ty + q.z * tx - q.x * tz
  into.z = v.z + q.w * tz + q.x * ty - q.y * tx
  return into
}

/** First b, then a, written into `into`, which is another. */
export function multiply(a: Quaternion, b: Quaternion, into: MutableQuaternion = { x: 0, y: 0, z: 0, w: 1 }): Quaternion {
  into.x = a.w * b.x + a.x * b.w + a.y * b.z - a.z * b.y
  into.y = a.w * b.y - a.x * b.z + a.y * b.w + a.z * b.x
  into.z = a.w * b.z + a.x * b.y - a.y * b.x + a.z * b.w
  into.w = a.w * b.w - a.x * b.x - a.y * b.y - a.z * b.z
  return into
}

/** A turn about the vertical, radians, counter-clockwise seen from above. */
export function yawQuaternion(yaw: number): Quaternion {
  return { x: 0, y: 0, z: sin(yaw / 2), w: cos(yaw / 2) }
}

/** The heading of a body's forward axis, radians counter-clockwise from east. */
export function yawOf(q: Quaternion): number {
  return atan2(2 * (q.w * q.z + q.x * q.y), 1 - 2 * (q.y * q.y + q.z * q.z))
}

/** Row-major 3x3 matrix of a rotation, written into `into`. */
export function rotationMatrix(q: Quaternion, into: Float64Array): void {
  const { x, y, z, w } = q
  into[0] = 1 - 2 * (y * y + z * z)
  into[1] = 2 * (x * y - z * w)
  into[2] = 2 * (x * z + y * w)
  into[3] = 2 * (x * y + z * w)
  into[4] = 1 - 2 * (x * x + z * z)
  into[5] = 2 * (y * z - x * w)
  into[6] = 2 * (x * z - y * w)
  into[7] = 2 * (y * z + x * w)
  into[8] = 1 - 2 * (x * x + y * y)
}

/** A point of a turned frame on the plan (turn right positive). */
export function turned(x: number, y: number, turn: number): { x: number, y: number } {
  const c = cos(-turn)
  const s = sin(-turn)
  return { x: c * x - s * y, y: s * x + c * y }
}
