import { atan2, asin, clamp } from '../maths'
import type { Pose, Quaternion, SolidShape, Vector } from '../geometry'
import { axisOf, framesOf, seatOf } from './frames'
import { partsOf } from './parts'
import type { Robot } from './robot'

/**
 * The robot in the Unified Robot Description Format (URDF, XML): links with their shapes, masses and
 * inertia, joints with their axes and limits, wheels that turn for ever, sensors as fixed frames.
 * Metres, kilograms, radians; x forward, y left, z up, from the middle of the chassis.
 */
export function toUrdf(robot: Robot): string {
  const frames = framesOf(robot)
  const parts = partsOf(robot, frames)
  const out: string[] = [`<?xml version="1.0"?>`, `<robot name="${escape(robot.name)}">`]
  const { chassis, drive } = robot
  const shapesOf = (frame: number): string[] => parts.filter(p => p.frame === frame && p.what !== 'wheel').flatMap(p => ['visual', 'collision'].map(tag =>
    `    <${tag}><origin ${origin(p.local)}/><geometry>${geometry(p.shape)}</geometry></${tag}>`))
  out.push(`  <link name="chassis">`, inertial(chassis.mass, { x: 0, y: 0, z: 0 }, [chassis.length, chassis.width, chassis.height]), ...shapesOf(-1), `  </link>`)
  if (drive !== null) {
    for (const [name, side] of [['left', 1], ['right', -1]] as const) {
      const shape: SolidShape = { shape: 'cylinder', radius: drive.radius, hz: drive.width / 2 }
      out.push(`  <link name="wheel_${name}">`, ...['visual', 'collision'].map(tag => `    <${tag}><origin xyz="0 0 0" rpy="1.5707963 0 0"/><geometry>${geometry(shape)}</geometry></${tag}>`), `  </link>`)
      out.push(`  <joint name="axle_${name}" type="continuous">`, `    <parent link="chassis"/><child link="wheel_${name}"/>`,
        `    <origin ${origin({ position: { x: drive.forward, y: side * drive.track / 2, z: drive.radius - robot.height }, rotation: UPRIGHT })}/><axis xyz="0 1 0"/>`, `  </joint>`)
    }
  }
  frames.forEach((frame, i) => {
    const device = robot.devices.find(d => d.name === frame.name)!
    const p = device.parameters as { from: number, to: number, speed: number, torque?: number, force?: number, length: number, width: number, height: number, mass: number }
    const [x, y, z] = axisOf(frame.link.axis)
    out.push(`  <link name="${escape(frame.name)}">`, inertial(p.mass, { x: frame.link.center[0], y: frame.link.center[1], z: frame.link.center[2] }, [p.length, p.width, p.height]), ...shapesOf(i), `  </link>`)
    out.push(`  <joint name="joint_${escape(frame.name)}" type="${frame.link.motion === 'turning' ? 'revolute' : 'prismatic'}">`,
      `    <parent link="${frame.parent === -1 ? 'chassis' : escape(frames[frame.parent]!.name)}"/><child link="${escape(frame.name)}"/>`,
      `    <origin ${origin(seatOf(frame.mount))}/><axis xyz="${x} ${y} ${z}"/>`,
      `    <limit lower="${number(p.from)}" upper="${number(p.to)}" effort="${number(p.torque ?? p.force ?? 0)}" velocity="${number(p.speed)}"/>`, `  </joint>`)
  })
  for (const device of robot.devices) {
    if (device.kind.link !== undefined) continue
    out.push(`  <link name="${escape(device.name)}_frame"/>`, `  <joint name="mount_${escape(device.name)}" type="fixed">`,
      `    <parent link="${escape(device.on ?? 'chassis')}"/><child link="${escape(device.name)}_frame"/><origin ${origin(seatOf(device.mount))}/>`, `  </joint>`)
  }
  out.push(`</robot>`, '')
  return out.join('\n')
}

const UPRIGHT: Quaternion = { x: 0, y: 0, z: 0, w: 1 }
const number = (x: number): string => String(Math.round(x * 1e6) / 1e6)
const escape = (text: string): string => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('"', '&quot;')

function origin({ position: p, rotation: q }: Pose): string {
  // Fixed-axis roll, pitch, yaw, as URDF has them.
  const roll = atan2(2 * (q.w * q.x + q.y * q.z), 1 - 2 * (q.x * q.x + q.y * q.y))
  const pitch = asin(clamp(2 * (q.w * q.y - q.z * q.x), -1, 1))
  const yaw = atan2(2 * (q.w * q.z + q.x * q.y), 1 - 2 * (q.y * q.y + q.z * q.z))
  return `xyz="${number(p.x)} ${number(p.y)} ${number(p.z)}" rpy="${number(roll)} ${number(pitch)} ${number(yaw)}"`
}

function geometry(shape: SolidShape): string {
  return shape.shape === 'box' ? `<box size="${number(shape.hx * 2)} ${number(shape.hy * 2)} ${number(shape.hz * 2)}"/>`
    : `<cylinder radius="${number(shape.radius)}" length="${number(shape.hz * 2)}"/>`
}

/** A homogeneous box. */
function inertial(mass: number, center: Vector, [a, b, c]: readonly [number, number, number]): string {
  const about = (p: number, q: number): string => number(mass * (p * p + q * q) / 12)
  return `    <inertial><origin xyz="${number(center.x)} ${number(center.y)} ${number(center.z)}"/><mass value="${number(mass)}"/><inertia ixx="${about(b, c)}" iyy="${about(a, c)}" izz="${about(a, b)}" ixy="0" ixz="0" iyz="0"/></inertial>`
}
