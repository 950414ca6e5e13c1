import type { LinkSpec, Mount } from '../devices'
import { multiply, rotate, rotationMatrix, somePose, type BodyState, type MutablePose, type Pose, type Quaternion, type Vector } from '../geometry'
import { cos, sin } from '../maths'
import type { Robot } from './robot'

/** A moving part of a robot: what carries it, where, and how it moves. The chassis is no frame of this list. */
export interface FrameSpec {
  /** The joint that moves it. */
  readonly name: string
  /** Place in the list of the frame that carries the joint; -1 for the chassis. */
  readonly parent: number
  readonly mount: Mount
  readonly link: LinkSpec
  /** The mount's pose in the carrier's frame, the joint's axis in the mount's, and the link's centre in its own. */
  readonly seat: Pose
  readonly axis: Vector
  readonly center: Vector
}

/** The frames of a robot's joints, each behind the one that carries it. */
export function framesOf(robot: Pick<Robot, 'devices'>): readonly FrameSpec[] {
  const frames: FrameSpec[] = []
  const left = robot.devices.filter(d => d.kind.link !== undefined)
  while (left.length > 0) {
    const next = left.findIndex(d => d.on === null || frames.some(f => f.name === d.on))
    if (next === -1) throw new Error('joints that carry one another')
    const [d] = left.splice(next, 1)
    const link = d!.kind.link!(d!.parameters)
    frames.push({ name: d!.name, parent: frames.findIndex(f => f.name === d!.on), mount: d!.mount, link, seat: seatOf(d!.mount), axis: vectorOf(axisOf(link.axis)), center: vectorOf(link.center) })
  }
  return frames
}

const vectorOf = ([x, y, z]: readonly [number, number, number]): Vector => ({ x, y, z })

/** The turn of a mount: first up, then to the side. */
function mountRotation(mount: Mount): Quaternion {
  const yaw: Quaternion = { x: 0, y: 0, z: sin(mount.yaw / 2), w: cos(mount.yaw / 2) }
  // Upwards is against the left-pointing axis.
  const pitch: Quaternion = { x: 0, y: -sin(mount.pitch / 2), z: 0, w: cos(mount.pitch / 2) }
  return multiply(yaw, pitch)
}

/** The pose of a mount in its carrier's frame. */
export function seatOf(mount: Mount): Pose {
  return { position: { x: mount.forward, y: mount.left, z: mount.up }, rotation: mountRotation(mount) }
}

/** Where a link's joint axis points, in its mount's frame, such that a positive turn is what the axis' name says. */
export function axisOf(axis: LinkSpec['axis']): readonly [number, number, number] {
  switch (axis) {
    case 'upright': return [0, 0, -1]
    case 'across': return [0, -1, 0]
    case 'along': return [1, 0, 0]
    case 'up': return [0, 0, 1]
    case 'forward': return [1, 0, 0]
    case 'right': return [0, -1, 0]
  }
}

/** First b, then a: the pose b, given in the frame a, in a's own surroundings. Written into `into`, which is another. */
export function within(a: Pose, b: Pose, into: MutablePose = somePose()): Pose {
  const { position } = into
  rotate(a.rotation, b.position, position)
  position.x = a.position.x + position.x
  position.y = a.position.y + position.y
  position.z = a.position.z + position.z
  multiply(a.rotation, b.rotation, into.rotation)
  return into
}

/** A joint's own motion, by a turn or along its axis, and where that brings its frame in the carrier's. */
const TURNED = somePose()
const SHIFTED = somePose()
const CARRIED = somePose()

/** The pose of each frame in the chassis' frame, with the joints at these values (radians, metres). Written into `into`. */
export function placeFrames(frames: readonly FrameSpec[], values: ArrayLike<number>, into: readonly MutablePose[] = frames.map(() => somePose())): readonly Pose[] {
  for (let i = 0; i < frames.length; i++) {
    const { link: { motion, start }, seat, parent, axis: { x, y, z } } = frames[i]!
    const value = values[i] ?? start
    const moved = motion === 'turning' ? TURNED : SHIFTED
    if (motion === 'turning') {
      const s = sin(value / 2)
      moved.rotation.x = x * s
      moved.rotation.y = y * s
      moved.rotation.z = z * s
      moved.rotation.w = cos(value / 2)
    } else {
      moved.position.x = x * value
      moved.position.y = y * value
      moved.position.z = z * value
    }
    if (parent === -1) within(seat, moved, into[i]!)
    else within(into[parent]!, within(seat, moved, CARRIED), into[i]!)
  }
  return into
}

/** Writes the state of a frame that rides on a body at a pose in that body's frame. */
export function rideOn(body: BodyState, local: Pose, into: BodyState): void {
  within(body.pose, local, into.pose)
  rotationMatrix(into.pose.rotation, into.matrix)
  const rx = into.pose.position.x - body.pose.position.x
  const ry = into.pose.position.y - body.pose.position.y
  const rz = into.pose.position.z - body.pose.position.z
  const { velocity: v, spin: w } = body
  into.velocity.x = v.x + w.y * rz - w.z * ry
  into.velocity.y = v.y + w.z * rx - w.x * rz
  into.velocity.z = v.z + w.x * ry - w.y * rx
  into.spin.x = w.x
  into.spin.y = w.y
  into.spin.z = w.z
}
