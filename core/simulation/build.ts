import { turned, type Arena, type Layout, type PieceShape, type PlacedPiece } from '../arena'
import { Scene, Solid, yawQuaternion, type Pose, type SolidShape } from '../geometry'
import { atan2 } from '../maths'
import { World, type BodyId, type ColliderPart } from '../physics'
import type { Robot } from '../robot'

/** A piece in a running world. */
export interface WorldPiece {
  readonly name: string
  readonly kind: string
  readonly placed: PlacedPiece
  readonly solid: Solid
  /** null for a fixed one. */
  readonly body: BodyId | null
}

export interface BuiltWorld {
  readonly physics: World
  readonly scene: Scene
  readonly pieces: readonly WorldPiece[]
  readonly robot: BodyId
  readonly robotPose: Pose
}

/** Names of contacts that are the ground itself. */
export const GROUND = 'ground:'
/** Names of contacts with walls. */
export const WALL = 'wall:'
/** The robot's own hull, among what contacts are told of. */
const HULL = 'hull'

const DECK_THICKNESS = 0.3
/** Where things that fell off come to rest: the bed of the harbour, metres below the deck. */
const BED = -1.2
const HULL_FRICTION = 0.3
/** Wheel bodies are this share of the wheel: they meet what stands in the way, never the floor. */
const WHEEL_BODY = 0.86
const PAD_THICKNESS = 0.012

export function solidShape(body: PieceShape): SolidShape {
  return body.shape === 'box'
    ? { shape: 'box', hx: body.length / 2, hy: body.width / 2, hz: body.height / 2 }
    : { shape: 'cylinder', radius: body.diameter / 2, hz: body.height / 2 }
}

/** Builds the bodies of arena and robot, in the order of the documents. */
export function buildWorld(arena: Arena, layout: Layout, robot: Robot, dt: number): BuiltWorld {
  const physics = new World(dt)
  const scene = new Scene()
  const floor = { friction: arena.floor.friction, echo: 'smooth' as const }
  arena.decks.forEach((deck, i) => {
    const shape: SolidShape = { shape: 'box', hx: deck.size[0] / 2, hy: deck.size[1] / 2, hz: DECK_THICKNESS / 2 }
    const pose = { position: { x: deck.at[0], y: deck.at[1], z: -DECK_THICKNESS / 2 }, rotation: yawQuaternion(-deck.turn) }
    physics.addFixed(`${GROUND}${i}`, shape, pose, arena.floor.friction)
    scene.ground.push(new Solid(`${GROUND}${i}`, shape, floor, pose.position, pose.rotation))
  })
  const bed: SolidShape = { shape: 'box', hx: 100, hy: 100, hz: 0.5 }
  physics.addFixed(`${GROUND}bed`, bed, { position: { x: arena.size[0] / 2, y: arena.size[1] / 2, z: BED - 0.5 }, rotation: yawQuaternion(0) }, 1)
  arena.walls.forEach((wall, i) => {
    const dx = wall.to[0] - wall.from[0]
    const dy = wall.to[1] - wall.from[1]
    const shape: SolidShape = { shape: 'box', hx: Math.max(0.001, Math.sqrt(dx * dx + dy * dy) / 2), hy: wall.thickness / 2, hz: wall.height / 2 }
    const pose = {
      position: { x: (wall.from[0] + wall.to[0]) / 2, y: (wall.from[1] + wall.to[1]) / 2, z: wall.height / 2 },
      rotation: yawQuaternion(atan2(dy, dx)),
    }
    physics.addFixed(`${WALL}${i}`, shape, pose, 0.6)
    scene.solids.push(new Solid(`${WALL}${i}`, shape, { friction: 0.6, echo: wall.echo }, pose.position, pose.rotation))
  })
  const pieces = layout.pieces.map((piece): WorldPiece => {
    const shape = solidShape(piece.body)
    const pose = { position: { x: piece.at[0], y: piece.at[1], z: shape.hz }, rotation: yawQuaternion(-piece.turn) }
    const solid = new Solid(piece.name, shape, { friction: piece.friction, echo: piece.echo }, pose.position, pose.rotation)
    scene.solids.push(solid)
    let body: BodyId | null = null
    if (piece.fixed) physics.addFixed(piece.name, shape, pose, piece.friction)
    else body = physics.addLoose(piece.name, shape, pose, piece.friction, piece.mass)
    return { name: piece.name, kind: piece.kind, placed: piece, solid, body }
  })
  const { x, y, heading } = layout.start
  const robotPose: Pose = { position: { x, y, z: robot.drive.height }, rotation: yawQuaternion(-heading) }
  const body = physics.addBody('robot', robotParts(robot), robotPose, robot.chassis.mass, robot.drive.inertia)
  return { physics, scene, pieces, robot: body, robotPose }
}

function robotParts(robot: Robot): readonly ColliderPart[] {
  const { chassis, drive } = robot
  const upright = { x: 0, y: 0, z: 0, w: 1 }
  const parts: ColliderPart[] = [{
    shape: { shape: 'box', hx: chassis.length / 2, hy: chassis.width / 2, hz: chassis.height / 2 },
    pose: { position: { x: 0, y: 0, z: 0 }, rotation: upright }, friction: HULL_FRICTION, tell: HULL, pad: false,
  }]
  // A wheel's axle lies across: turned a quarter about the forward axis.
  const across = { x: Math.SQRT1_2, y: 0, z: 0, w: Math.SQRT1_2 }
  for (const side of [1, -1]) {
    parts.push({
      shape: { shape: 'cylinder', radius: drive.radius * WHEEL_BODY, hz: drive.wheelWidth / 2 },
      pose: { position: { x: drive.forward, y: side * drive.track / 2, z: drive.radius - drive.height }, rotation: across },
      friction: HULL_FRICTION, tell: HULL, pad: false,
    })
  }
  for (const device of robot.devices) {
    if (device.kind.pad === undefined) continue
    const { width, height } = device.kind.pad(device.parameters)
    const { forward, left, up, yaw } = device.mount
    const turnedBy = turned(PAD_THICKNESS / 2, 0, -yaw)
    parts.push({
      shape: { shape: 'box', hx: PAD_THICKNESS / 2, hy: width / 2, hz: height / 2 },
      pose: { position: { x: forward + turnedBy.x, y: left + turnedBy.y, z: up }, rotation: yawQuaternion(yaw) },
      friction: HULL_FRICTION, tell: device.name, pad: true,
    })
  }
  return parts
}
