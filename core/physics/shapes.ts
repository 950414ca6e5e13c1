import RAPIER from '@dimforge/rapier3d-deterministic-compat'
import { multiply, rotate, type Pose, type Quaternion, type SolidShape, type Vector } from '../geometry'

/** How near two solids are: metres between their nearest points (below 0 inside of one another), where, and the way from the first to the second. */
export interface Gap { readonly distance: number, readonly at: Vector, readonly normal: Vector }

/** Bounciness of everything: harbour things thud. */
const RESTITUTION = 0.05

/** Boxes and cylinders are upright along z here; the library's cylinders stand along y. */
const UPRIGHT = { x: Math.SQRT1_2, y: 0, z: 0, w: Math.SQRT1_2 }

/** How much the rims of cylinders are rounded off, metres; of what is small, a fifth of its half height or radius. */
const RIM = 0.001

/** Shapes made once, to ask how near they are. */
const MADE = new WeakMap<SolidShape, RAPIER.Shape>()

function shapeOf(shape: SolidShape): RAPIER.Shape {
  let made = MADE.get(shape)
  if (made === undefined) {
    made = shape.shape === 'box' ? new RAPIER.Cuboid(shape.hx, shape.hy, shape.hz) : shape.shape === 'ball' ? new RAPIER.Ball(shape.radius) : new RAPIER.Cylinder(shape.hz, shape.radius)
    MADE.set(shape, made)
  }
  return made
}

/** A cylinder with round rims: of sharp ones on a common axis the library finds no contact at a third of all places, and one falls through the other. */
function rounded(hz: number, radius: number): RAPIER.ColliderDesc {
  const rim = Math.min(RIM, hz / 5, radius / 5)
  return RAPIER.ColliderDesc.roundCylinder(hz - rim, radius - rim, rim)
}

/** What a collider of a shape at a pose is made from. */
export function describe(shape: SolidShape, pose: Pose, friction: number): RAPIER.ColliderDesc {
  const description = shape.shape === 'box' ? RAPIER.ColliderDesc.cuboid(shape.hx, shape.hy, shape.hz) : shape.shape === 'ball' ? RAPIER.ColliderDesc.ball(shape.radius) : rounded(shape.hz, shape.radius)
  return description
    .setRotation(standing(shape, pose.rotation))
    .setTranslation(pose.position.x, pose.position.y, pose.position.z)
    .setFriction(friction)
    .setRestitution(RESTITUTION)
}

/** How near two shapes at these poses are; null when farther than `within` metres. */
export function gap(a: SolidShape, at: Pose, b: SolidShape, other: Pose, within: number): Gap | null {
  const found = shapeOf(a).contactShape(at.position, standing(a, at.rotation), shapeOf(b), other.position, standing(b, other.rotation), within)
  if (found === null) return null
  const { point1: p, point2: q, normal1, distance } = found
  return { distance, at: { x: (p.x + q.x) / 2, y: (p.y + q.y) / 2, z: (p.z + q.z) / 2 }, normal: { x: normal1.x, y: normal1.y, z: normal1.z } }
}

/** A place in a pose's frame, in the world. */
export function placed(pose: Pose, local: Vector): Vector {
  const p = rotate(pose.rotation, local)
  return { x: pose.position.x + p.x, y: pose.position.y + p.y, z: pose.position.z + p.z }
}

/** A shape's rotation as the library counts it. */
export function standing(shape: SolidShape, rotation: Quaternion): Quaternion {
  return shape.shape === 'cylinder' ? multiply(rotation, UPRIGHT) : rotation
}
