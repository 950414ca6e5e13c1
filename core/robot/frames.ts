import type { LinkSpec, Mount } from '../devices'
import { multiply, rotate, rotationMatrix, somePose, type BodyState, type MutablePose, type Pose, type Quaternion } from '../geometry'
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
}

/** The frames of a robot's joints, each behind the one that carries it. */
export function framesOf(robot: Pick<Robot, 'devices'>): readonly FrameSpec[] {
  const frames: FrameSpec[] = []
  const left = robot.devices.filter(d => d.kind.link !== undefined)
  while (left.length > 0) {
    const next = left.findIndex(d => d.on === null || frames.some(f => f.name === d.on))
    if (next === -1) throw new Error('joints that carry one another')
    const [d] = left.splice(next, 1)
    frames.push({ name: d!.name, parent: frames.findIndex(f => f.name === d!.on), mount: d!.mount, link: d!.kind.link!(d!.parameters) })
  }
  return frames
}

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

const UPRIGHT: Quaternion = { x: 0, y: 0, z: 0, w: 1 }

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

/** The pose of each frame in the chassis' frame, with the joints at these values (radians, metres). */
export function placeFrames(frames: readonly FrameSpec[], values: ArrayLike<number>): Pose[] {
  const poses: Pose[] = []
  frames.forEach((frame, i) => {
    const { mount, link } = frame
    const seat = seatOf(mount)
    const [x, y, z] = axisOf(link.axis)
    const value = values[i] ?? link.start
    const moved: Pose = link.motion === 'turning'
      ? { position: { x: 0, y: 0, z: 0 }, rotation: { x: x * sin(value / 2), y: y * sin(value / 2), z: z * sin(value / 2), w: cos(value / 2) } }
      : { position: { x: x * value, y: y * value, z: z * value }, rotation: UPRIGHT }
    const local = within(seat, moved)
    poses.push(frame.parent === -1 ? local : within(poses[frame.parent]!, local))
  })
  return poses
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
