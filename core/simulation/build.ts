import { turned, type Arena, type Layout, type PieceShape, type PlacedPiece } from '../arena'
import { REFLECTS } from '../colors'
import { Scene, Solid, yawQuaternion, type Pose, type SolidShape, type Surface } from '../geometry'
import { atan2 } from '../maths'
import { World, type BodyId, type ColliderPart } from '../physics'
import { framesOf, partsOf, placeFrames, within, type Robot } from '../robot'

/** A piece in a running world. */
export interface WorldPiece {
  readonly name: string
  readonly kind: string
  readonly placed: PlacedPiece
  readonly solid: Solid
  readonly mass: number
  /** null for a fixed one. */
  readonly body: BodyId | null
}

/** Something that moves by a plan of its own: a visitor, or a belt's band. */
export interface WorldMover { readonly name: string, readonly kind: string, readonly solid: Solid, readonly body: BodyId }

/** A solid part of the robot as physics and sensors meet it. */
export interface WorldPart extends ColliderPart {
  readonly frame: number
  /** Its pose in its frame; `pose` is in the chassis' frame. */
  readonly local: Pose
  /** The device that it is of; null for chassis and wheels. */
  readonly device: string | null
  /** How far to the left it goes for each metre that its device's jaws open. */
  readonly opens: number
  /** For a roller: newtons with which it rubs as it turns about its own axis, on what is within so many metres. */
  readonly rubs: { readonly force: number, readonly reach: number } | null
  /** As sensors meet it; null for what they need not. */
  readonly solid: Solid | null
}

export interface BuiltWorld {
  readonly physics: World
  readonly scene: Scene
  readonly pieces: readonly WorldPiece[]
  readonly visitors: readonly WorldMover[]
  readonly belts: readonly WorldMover[]
  readonly robot: BodyId
  readonly robotPose: Pose
  readonly parts: readonly WorldPart[]
}

/** Names of contacts that are the ground itself. */
export const GROUND = 'ground:'
/** Names of contacts with walls. */
export const WALL = 'wall:'
/** What stands behind the name of a crate in the names of its parts. */
export const PART_OF = '#'
/** The robot's own hull, among what contacts are told of. */
const HULL = 'hull'

const DECK_THICKNESS = 0.3
/** Where things that fell off come to rest: the bed of the harbour, metres below the deck. */
const BED = -1.2
/** How far down things are that are out of the arena: what a feeder has not put out yet, what a hand took. Metres. */
export const STORE = -30
const WALL_FRICTION = 0.6
const BELT_FRICTION = 1.1

const UPRIGHT = { x: 0, y: 0, z: 0, w: 1 }

export function solidShape(body: PieceShape): SolidShape {
  return body.shape === 'box'
    ? { shape: 'box', hx: body.length / 2, hy: body.width / 2, hz: body.height / 2 }
    : { shape: body.shape, radius: body.diameter / 2, hz: body.height / 2 }
}

const surfaceOf = (friction: number, echo: Surface['echo'], color: keyof typeof REFLECTS): Surface => ({ friction, echo, paint: REFLECTS[color], steel: false, tag: null, part: null })

/** Builds the bodies of arena and robot, in the order of the documents. */
export function buildWorld(arena: Arena, layout: Layout, robot: Robot, dt: number): BuiltWorld {
  const physics = new World(dt)
  const scene = new Scene()
  const fixed = (id: string, shape: SolidShape, pose: Pose, surface: Surface): void => {
    physics.addFixed(id, shape, pose, surface.friction)
    scene.solids.push(new Solid(id, shape, surface, pose.position, pose.rotation))
  }
  buildFloor(arena, physics, scene)
  arena.walls.forEach((wall, i) => {
    const dx = wall.to[0] - wall.from[0]
    const dy = wall.to[1] - wall.from[1]
    const shape: SolidShape = { shape: 'box', hx: Math.max(0.001, Math.sqrt(dx * dx + dy * dy) / 2), hy: wall.thickness / 2, hz: wall.height / 2 }
    fixed(`${WALL}${i}`, shape, {
      position: { x: (wall.from[0] + wall.to[0]) / 2, y: (wall.from[1] + wall.to[1]) / 2, z: wall.height / 2 },
      rotation: yawQuaternion(atan2(dy, dx)),
    }, surfaceOf(WALL_FRICTION, wall.echo, wall.color))
  })
  for (const crate of arena.crates) buildCrate(crate, fixed)
  const belts = arena.belts.map((belt): WorldMover => {
    const shape: SolidShape = { shape: 'box', hx: belt.size[0] / 2, hy: belt.size[1] / 2, hz: belt.height / 2 }
    const pose: Pose = { position: { x: belt.at[0], y: belt.at[1], z: belt.height / 2 }, rotation: yawQuaternion(-belt.turn) }
    const solid = new Solid(belt.name, shape, surfaceOf(BELT_FRICTION, 'rough', 'black'), pose.position, pose.rotation)
    scene.solids.push(solid)
    return { name: belt.name, kind: 'belt', solid, body: physics.addBelt(belt.name, shape, pose, BELT_FRICTION) }
  })
  const pieces = layout.pieces.map((piece): WorldPiece => {
    const shape = solidShape(piece.body)
    const waits = piece.fed !== null && piece.fed > 0
    const pose = { position: { x: piece.at[0], y: piece.at[1], z: waits ? STORE : piece.up + shape.hz }, rotation: yawQuaternion(-piece.turn) }
    const surface: Surface = { friction: piece.friction, echo: piece.echo, paint: REFLECTS[piece.color], steel: piece.steel, tag: piece.tag, part: null }
    const solid = new Solid(piece.name, shape, surface, pose.position, pose.rotation)
    scene.solids.push(solid)
    let body: BodyId | null = null
    if (piece.fixed) physics.addFixed(piece.name, shape, pose, piece.friction)
    else {
      body = physics.addLoose(piece.name, shape, pose, piece.friction, piece.mass)
      if (waits) physics.setPresent(body, false)
    }
    return { name: piece.name, kind: piece.kind, placed: piece, solid, mass: piece.mass, body }
  })
  const visitors = arena.visitors.map((v): WorldMover => {
    const shape: SolidShape = { shape: 'cylinder', radius: v.diameter / 2, hz: v.height / 2 }
    const pose: Pose = { position: { x: v.path[0]![0], y: v.path[0]![1], z: v.height / 2 }, rotation: UPRIGHT }
    const solid = new Solid(v.name, shape, surfaceOf(0.5, v.echo, v.color), pose.position, pose.rotation)
    scene.solids.push(solid)
    return { name: v.name, kind: v.kind, solid, body: physics.addMover(v.name, shape, pose, 0.5) }
  })
  const { x, y, heading } = layout.start
  const robotPose: Pose = { position: { x, y, z: robot.height }, rotation: yawQuaternion(-heading) }
  const parts = worldParts(robot)
  for (const part of parts) if (part.solid !== null) scene.solids.push(part.solid)
  const body = physics.addBody('robot', parts, robotPose, robot.mass, robot.inertia, robot.fixed)
  return { physics, scene, pieces, visitors, belts, robot: body, robotPose, parts }
}

function buildFloor(arena: Arena, physics: World, scene: Scene): void {
  const floor = surfaceOf(arena.floor.friction, 'smooth', arena.floor.color)
  arena.decks.forEach((deck, i) => {
    const shape: SolidShape = { shape: 'box', hx: deck.size[0] / 2, hy: deck.size[1] / 2, hz: DECK_THICKNESS / 2 }
    const pose = { position: { x: deck.at[0], y: deck.at[1], z: -DECK_THICKNESS / 2 }, rotation: yawQuaternion(-deck.turn) }
    physics.addFixed(`${GROUND}${i}`, shape, pose, arena.floor.friction)
    scene.ground.push(new Solid(`${GROUND}${i}`, shape, floor, pose.position, pose.rotation))
  })
  const bed: SolidShape = { shape: 'box', hx: 100, hy: 100, hz: 0.5 }
  physics.addFixed(`${GROUND}bed`, bed, { position: { x: arena.size[0] / 2, y: arena.size[1] / 2, z: BED - 0.5 }, rotation: UPRIGHT }, 1)
}

/** A crate: a bottom and four sides. */
function buildCrate(crate: Arena['crates'][number], fixed: (id: string, shape: SolidShape, pose: Pose, surface: Surface) => void): void {
  const [long, wide] = crate.size
  const { wall, height } = crate
  const surface = surfaceOf(WALL_FRICTION, 'rough', crate.color)
  const panel = (n: number, x: number, y: number, z: number, hx: number, hy: number, hz: number): void => {
    const at = turned(x, y, crate.turn)
    fixed(`${crate.name}${PART_OF}${n}`, { shape: 'box', hx, hy, hz }, { position: { x: crate.at[0] + at.x, y: crate.at[1] + at.y, z }, rotation: yawQuaternion(-crate.turn) }, surface)
  }
  panel(0, 0, 0, wall / 2, long / 2, wide / 2, wall / 2)
  panel(1, (long - wall) / 2, 0, height / 2, wall / 2, wide / 2, height / 2)
  panel(2, (wall - long) / 2, 0, height / 2, wall / 2, wide / 2, height / 2)
  panel(3, 0, (wide - wall) / 2, height / 2, long / 2 - wall, wall / 2, height / 2)
  panel(4, 0, (wall - wide) / 2, height / 2, long / 2 - wall, wall / 2, height / 2)
}

/** The robot's parts, each with its collider and its solid. */
export function worldParts(robot: Robot): readonly WorldPart[] {
  const frames = framesOf(robot)
  const poses = placeFrames(frames, [])
  return partsOf(robot, frames).map((part): WorldPart => {
    const { shape, frame, local, friction, device, pad, opens, rubs } = part
    const pose = frame === -1 ? local : within(poses[frame]!, local)
    const seen = part.what === 'wheel' || pad ? null : device ?? 'chassis'
    // Claws and magnets are meant to touch: nobody counts it.
    const tell = pad ? device : device === null || part.link ? HULL : null
    const solid = seen === null ? null : new Solid(`robot:${seen}`, shape, { ...surfaceOf(friction, 'smooth', 'white'), part: seen }, pose.position, pose.rotation)
    return { shape, pose, friction, tell, pad, frame, local, device, opens, rubs, solid }
  })
}
