import { rotationMatrix, type Pose, type SolidShape, type Vector } from '../geometry'
import { GRAVITY } from '../maths'
import type { World } from '../physics'
import type { Loose } from './build'

/** A loose thing that moving parts press: what impulses make of it within a step. */

export type Triple = [number, number, number]

export interface Thing {
  readonly piece: Loose
  readonly position: Vector
  readonly matrix: Float64Array
  readonly inertia: Vector
  /** The parts that it meets. */
  readonly parts: Set<number>
  /** With gravity's share of the step. */
  readonly v: Triple
  readonly w: Triple
  /** What of that is gravity's share; what all its contacts would make of it, were it alone; and which share of that it gets. */
  readonly fall: number
  readonly alone: { readonly v: Triple, readonly w: Triple }
  share: number
}

/** One as the step begins, at a pose. */
export function pressedThing(piece: Loose, at: Pose, physics: World, dt: number): Thing {
  const matrix = new Float64Array(9)
  rotationMatrix(at.rotation, matrix)
  const v = physics.velocityOf(piece.body)
  const w = physics.spinOf(piece.body)
  return {
    piece, position: at.position, matrix, inertia: momentsOf(piece.solid.shape, piece.mass), parts: new Set(),
    v: [v.x, v.y, v.z - GRAVITY * dt], w: [w.x, w.y, w.z],
    fall: GRAVITY * dt, alone: { v: [v.x, v.y, v.z - GRAVITY * dt], w: [w.x, w.y, w.z] }, share: 1,
  }
}

/** Where a place is from its centre. */
export function fromCentre({ position: p }: Thing, at: Vector): Vector { return { x: at.x - p.x, y: at.y - p.y, z: at.z - p.z } }

/** How fast a point at r from a centre goes along n. */
export function speedAlong(v: Triple, w: Triple, r: Vector, n: Vector): number {
  return n.x * (v[0] + w[1] * r.z - w[2] * r.y) + n.y * (v[1] + w[2] * r.x - w[0] * r.z) + n.z * (v[2] + w[0] * r.y - w[1] * r.x)
}

/** What an impulse at a place makes of a thing's speed and spin. */
export function takeUp(thing: Thing, v: Triple, w: Triple, at: Vector, x: number, y: number, z: number): void {
  const { position: p, piece: { mass } } = thing
  v[0] += x / mass
  v[1] += y / mass
  v[2] += z / mass
  const spun = turnedBy(thing, cross(at.x - p.x, at.y - p.y, at.z - p.z, { x, y, z }))
  w[0] += spun.x
  w[1] += spun.y
  w[2] += spun.z
}

/** What an impulse of 1 N s along n at one place changes of the thing's speed along m at another. */
export function giveBetween(thing: Thing, at: Vector, n: Vector, there: Vector, m: Vector): number {
  const { position: p } = thing
  const s = turnedBy(thing, cross(at.x - p.x, at.y - p.y, at.z - p.z, n))
  const c = cross(there.x - p.x, there.y - p.y, there.z - p.z, m)
  return (n.x * m.x + n.y * m.y + n.z * m.z) / thing.piece.mass + s.x * c.x + s.y * c.y + s.z * c.z
}

function cross(x: number, y: number, z: number, n: Vector): Vector {
  return { x: y * n.z - z * n.y, y: z * n.x - x * n.z, z: x * n.y - y * n.x }
}

/** The spin that a turning impulse gives. */
function turnedBy(thing: Thing, by: Vector): { x: number, y: number, z: number } {
  const { matrix: m, inertia: i } = thing
  const a = (m[0]! * by.x + m[3]! * by.y + m[6]! * by.z) / i.x
  const b = (m[1]! * by.x + m[4]! * by.y + m[7]! * by.z) / i.y
  const c = (m[2]! * by.x + m[5]! * by.y + m[8]! * by.z) / i.z
  return { x: m[0]! * a + m[1]! * b + m[2]! * c, y: m[3]! * a + m[4]! * b + m[5]! * c, z: m[6]! * a + m[7]! * b + m[8]! * c }
}

/** Principal moments of a full box, cylinder or ball about its centre, kg m². */
function momentsOf(shape: SolidShape, mass: number): Vector {
  if (shape.shape === 'ball') {
    const all = 0.4 * mass * shape.radius * shape.radius
    return { x: all, y: all, z: all }
  }
  if (shape.shape === 'box') {
    const { hx, hy, hz } = shape
    return { x: mass * (hy * hy + hz * hz) / 3, y: mass * (hx * hx + hz * hz) / 3, z: mass * (hx * hx + hy * hy) / 3 }
  }
  const { radius: r, hz } = shape
  const side = mass * (3 * r * r + 4 * hz * hz) / 12
  return { x: side, y: side, z: mass * r * r / 2 }
}
