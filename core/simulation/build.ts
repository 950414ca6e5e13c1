import { GROUND, figuresOf, pieceFigure, type Arena, type Layout, type PlacedPiece, type SolidFigure } from '../arena'
import { REFLECTS } from '../colors'
import { Scene, Solid, yawQuaternion, type Pose, type Surface } from '../geometry'
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

/** A loose piece: one that the physics library moves. */
export type Loose = WorldPiece & { readonly body: BodyId }

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

/** The robot's own hull, among what contacts are told of. */
const HULL = 'hull'

/** Where things that fell off come to rest: the bed of the harbour, metres below the deck. */
const BED = -1.2
/** How far down things are that are out of the arena: what a feeder has not put out yet, what a hand took. Metres. */
export const STORE = -30

const UPRIGHT = { x: 0, y: 0, z: 0, w: 1 }

const surfaceOf = (friction: number, echo: Surface['echo'], color: keyof typeof REFLECTS): Surface => ({ friction, echo, paint: REFLECTS[color], steel: false, tag: null, part: null })

const poseOf = ({ at, middle, yaw }: SolidFigure): Pose => ({ position: { x: at[0], y: at[1], z: middle }, rotation: yawQuaternion(yaw) })
const solidOf = (figure: SolidFigure, { position, rotation }: Pose): Solid => new Solid(figure.id, figure.shape, surfaceOf(figure.friction, figure.echo, figure.color), position, rotation)

/** Builds the bodies of arena and robot: the ground, what stands fast, pieces, who walks, the robot. */
export function buildWorld(arena: Arena, layout: Layout, robot: Robot, dt: number): BuiltWorld {
  const physics = new World(dt)
  const scene = new Scene()
  const { ground, fixed, walking } = figuresOf(arena)
  for (const figure of ground) {
    const pose = poseOf(figure)
    physics.addFixed(figure.id, figure.shape, pose, figure.friction)
    scene.ground.push(solidOf(figure, pose))
  }
  physics.addFixed(`${GROUND}bed`, { shape: 'box', hx: 100, hy: 100, hz: 0.5 }, { position: { x: arena.size[0] / 2, y: arena.size[1] / 2, z: BED - 0.5 }, rotation: UPRIGHT }, 1)
  const belts: WorldMover[] = []
  for (const figure of fixed) {
    const { id, shape, friction } = figure
    const pose = poseOf(figure)
    const solid = solidOf(figure, pose)
    scene.solids.push(solid)
    if (figure.runs === undefined) physics.addFixed(id, shape, pose, friction)
    else belts.push({ name: id, kind: 'belt', solid, body: physics.addBelt(id, shape, pose, friction) })
  }
  const pieces = layout.pieces.map((piece): WorldPiece => {
    const figure = pieceFigure(piece)
    const { shape, friction } = figure
    const waits = piece.fed !== null && piece.fed > 0
    const pose = poseOf(waits ? { ...figure, middle: STORE } : figure)
    const surface: Surface = { ...surfaceOf(friction, figure.echo, figure.color), steel: piece.steel, tag: piece.tag }
    const solid = new Solid(piece.name, shape, surface, pose.position, pose.rotation)
    scene.solids.push(solid)
    let body: BodyId | null = null
    if (piece.fixed) physics.addFixed(piece.name, shape, pose, friction)
    else {
      body = physics.addLoose(piece.name, shape, pose, friction, piece.mass)
      if (waits) physics.setPresent(body, false)
    }
    return { name: piece.name, kind: piece.kind, placed: piece, solid, mass: piece.mass, body }
  })
  const visitors = walking.map((figure): WorldMover => {
    const pose = poseOf(figure)
    const solid = solidOf(figure, pose)
    scene.solids.push(solid)
    return { name: figure.id, kind: figure.kind, solid, body: physics.addMover(figure.id, figure.shape, pose, figure.friction) }
  })
  const { x, y, heading } = layout.start
  const robotPose: Pose = { position: { x, y, z: robot.height }, rotation: yawQuaternion(-heading) }
  const parts = worldParts(robot)
  for (const part of parts) if (part.solid !== null) scene.solids.push(part.solid)
  const body = physics.addBody('robot', parts, robotPose, robot.mass, robot.inertia, robot.fixed)
  return { physics, scene, pieces, visitors, belts, robot: body, robotPose, parts }
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
