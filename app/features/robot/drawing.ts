import type { SolidShape, Pose, Vector } from '~~/core/geometry'
import { partsOf, placeFrames, seatOf, within, type FrameSpec, type Robot } from '~~/core/robot'
import { rotate } from '~~/core/geometry'
import { shadowOf } from '~/shown/shadow'

/** Which way a drawing looks at the robot: from above, or from its right side. */
export type Side = 'above' | 'side'

/** A shape on a drawing. Metres: across is forward, down is right (above) or down (side). `frame` is the joint's link that carries it, -1 the chassis. */
export interface Outline { readonly points: readonly (readonly [number, number])[], readonly what: 'chassis' | 'wheel' | 'part', readonly device: string | null, readonly frame: number }
/** Where a device sits and which way it looks on a drawing, and the outline of its field. */
export interface Spot { readonly name: string, readonly kind: string, readonly x: number, readonly y: number, readonly dx: number, readonly dy: number, readonly field: readonly (readonly [number, number])[] }

export interface Drawing { readonly outlines: readonly Outline[], readonly spots: readonly Spot[], readonly floor: number }

/** Steps along the far edge of a field. */
const ARC = 16

/** A point of the chassis' frame on the drawing. */
export function onto(side: Side, x: number, y: number, z: number): readonly [number, number] {
  return side === 'above' ? [x, -y] : [x, -z]
}

/** A place of a drawing in the chassis' frame, in the plane through a point. */
export function off(side: Side, [across, down]: readonly [number, number], through: Vector): Vector {
  return side === 'above' ? { x: across, y: -down, z: through.z } : { x: across, y: through.y, z: -down }
}

/** The robot's true geometry, with its joints at these values. */
export function drawingOf(robot: Robot, frames: readonly FrameSpec[], values: readonly number[], side: Side): Drawing {
  const poses = placeFrames(frames, values)
  const { drive } = robot
  const outlines: Outline[] = partsOf(robot, frames).map((part) => {
    const pose = part.frame === -1 ? part.local : within(poses[part.frame]!, part.local)
    return { points: silhouette(part.shape, pose, side), what: part.what === 'device' ? 'part' as const : part.what, device: part.device, frame: part.frame }
  })
  if (drive !== null) {
    // Wheels at their true size: the bodies that meet things are a little smaller.
    const across = { x: Math.SQRT1_2, y: 0, z: 0, w: Math.SQRT1_2 }
    outlines.splice(1, 2, ...[1, -1].map(s => ({
      points: silhouette({ shape: 'cylinder', radius: drive.radius, hz: drive.width / 2 }, { position: { x: drive.forward, y: s * drive.track / 2, z: drive.radius - robot.height }, rotation: across }, side),
      what: 'wheel' as const, device: null, frame: -1,
    })))
    for (const { forward, right } of drive.castors) {
      const r = 0.006
      outlines.push({ what: 'wheel', device: null, frame: -1, points: Array.from({ length: 12 }, (_, i) => onto(side, forward + r * Math.cos(i * Math.PI / 6), -right + (side === 'above' ? r * Math.sin(i * Math.PI / 6) : 0), -robot.height + r + (side === 'side' ? r * Math.sin(i * Math.PI / 6) : 0))) })
    }
  }
  const spots = robot.devices.map((d): Spot => {
    const carrier: Pose = d.on === null ? { position: { x: 0, y: 0, z: 0 }, rotation: { x: 0, y: 0, z: 0, w: 1 } } : poses[frames.findIndex(f => f.name === d.on)]!
    const seat = within(carrier, seatOf(d.mount))
    const looks = rotate(seat.rotation, { x: 1, y: 0, z: 0 })
    const [x, y] = onto(side, seat.position.x, seat.position.y, seat.position.z)
    const [dx, dy] = onto(side, looks.x, looks.y, looks.z)
    return { name: d.name, kind: d.kind.kind, x, y, dx, dy, field: fieldOf(d.parameters, seat, side) }
  })
  return { outlines, spots, floor: robot.height }
}

function silhouette(shape: SolidShape, pose: Pose, side: Side): readonly (readonly [number, number])[] {
  if (side === 'above') {
    const { position: p, rotation: q } = pose
    return shadowOf(shape, [p.x, p.y, p.z, q.x, q.y, q.z, q.w], 0).map(([x, y]) => [x, -y] as const)
  }
  // From the right: turned so that the side lies on the plan.
  const tip = { x: Math.SQRT1_2, y: 0, z: 0, w: Math.SQRT1_2 }
  const turned = within({ position: { x: 0, y: 0, z: 0 }, rotation: { x: -tip.x, y: 0, z: 0, w: tip.w } }, pose)
  const { position: p, rotation: q } = turned
  return shadowOf(shape, [p.x, p.y, p.z, q.x, q.y, q.z, q.w], 0).map(([x, y]) => [x, -y] as const)
}

/** The true field of a sensor on the drawing: as far and as wide as it looks. */
function fieldOf(parameters: object, seat: Pose, side: Side): readonly (readonly [number, number])[] {
  const p = parameters as { 'range'?: number, 'cone'?: number, 'span'?: number, 'reach'?: number, 'spot'?: number, 'field of view'?: number, 'width'?: number, 'height'?: number }
  const point = (forward: number, left: number, up: number): readonly [number, number] => {
    const at = rotate(seat.rotation, { x: forward, y: left, z: up })
    return onto(side, seat.position.x + at.x, seat.position.y + at.y, seat.position.z + at.z)
  }
  const fan = (range: number, half: number): (readonly [number, number])[] => [point(0, 0, 0), ...Array.from({ length: ARC + 1 }, (_, i) => {
    const a = half * (2 * i / ARC - 1)
    return side === 'above' ? point(range * Math.cos(a), range * Math.sin(a), 0) : point(range * Math.cos(a), 0, range * Math.sin(a))
  })]
  if (p['field of view'] !== undefined) {
    const half = p['field of view'] / 2
    return fan(1, side === 'above' ? half : Math.atan(Math.tan(half) * (p.height ?? 3) / (p.width ?? 4)))
  }
  if (p.range !== undefined && p.cone !== undefined) return fan(p.range, Math.max(p.cone / 2, 0.01))
  if (p.reach !== undefined) {
    const r = (p.spot ?? 0.01) / 2
    return side === 'above' ? [point(0, r, 0), point(p.reach, r, 0), point(p.reach, -r, 0), point(0, -r, 0)] : [point(0, 0, r), point(p.reach, 0, r), point(p.reach, 0, -r), point(0, 0, -r)]
  }
  if (p.span !== undefined) return [point(0, 0.002, 0.002), point(p.span, 0.002, 0.002), point(p.span, -0.002, -0.002), point(0, -0.002, -0.002)]
  return []
}
