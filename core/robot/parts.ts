import type { Pose, SolidShape } from '../geometry'
import { framesOf, seatOf, within, type FrameSpec } from './frames'
import type { Robot } from './robot'

/** One solid part of a robot: which of its frames it rides on (-1 is the chassis), and its pose in that frame. */
export interface RobotPart {
  readonly what: 'chassis' | 'wheel' | 'device'
  readonly shape: SolidShape
  readonly frame: number
  readonly local: Pose
  readonly friction: number
  /** The device that it is of; null for chassis and wheels. */
  readonly device: string | null
  /** Whether it is the link that a joint moves. */
  readonly link: boolean
  /** Whether contact forces on it are measured. */
  readonly pad: boolean
  /** How far to the left it goes for each metre that its device's jaws open. */
  readonly opens: number
  /** For a roller: newtons with which it rubs as it turns about its own axis, on what is within so many metres. */
  readonly rubs: { readonly force: number, readonly reach: number } | null
}

/** Wheel bodies are this share of the wheel: they meet what stands in the way, never the floor. */
const WHEEL_BODY = 0.86
const HULL_FRICTION = 0.3
const UPRIGHT = { x: 0, y: 0, z: 0, w: 1 }

/** Chassis, wheels, and the parts of devices, in the order of the document. */
export function partsOf(robot: Robot, frames: readonly FrameSpec[] = framesOf(robot)): readonly RobotPart[] {
  const { chassis, drive } = robot
  const plain = { friction: HULL_FRICTION, frame: -1, device: null, link: false, pad: false, opens: 0, rubs: null }
  const parts: RobotPart[] = [{
    ...plain, what: 'chassis', shape: { shape: 'box', hx: chassis.length / 2, hy: chassis.width / 2, hz: chassis.height / 2 },
    local: { position: { x: 0, y: 0, z: 0 }, rotation: UPRIGHT },
  }]
  if (drive !== null) {
    // A wheel's axle lies across: turned a quarter about the forward axis.
    const across = { x: Math.SQRT1_2, y: 0, z: 0, w: Math.SQRT1_2 }
    for (const side of [1, -1]) {
      parts.push({
        ...plain, what: 'wheel', shape: { shape: 'cylinder', radius: drive.radius * WHEEL_BODY, hz: drive.width / 2 },
        local: { position: { x: drive.forward, y: side * drive.track / 2, z: drive.radius - robot.height }, rotation: across },
      })
    }
  }
  for (const device of robot.devices) {
    const seat = seatOf(device.mount)
    const carrier = frames.findIndex(f => f.name === device.on)
    const own = frames.findIndex(f => f.name === device.name)
    for (const part of device.kind.parts?.(device.parameters) ?? []) {
      parts.push({
        what: 'device', shape: part.shape, frame: part.onLink ? own : carrier, local: part.onLink ? part.pose : within(seat, part.pose),
        friction: part.friction, device: device.name, link: part.onLink, pad: part.pad, opens: part.opens ?? 0, rubs: part.rubs ?? null,
      })
    }
  }
  return parts
}
