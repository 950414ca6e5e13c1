import { Beam } from '../devices'
import { PLAIN_SURFACE, Ray, Solid, resting, type BodyState, type Pose } from '../geometry'
import { atan2, clamp, cos, sin } from '../maths'
import { framesOf, placeFrames, within } from './frames'
import { partsOf } from './parts'
import type { Robot } from './robot'

/** A sensor that sees its own robot: which part, how near, and with which joint where (null: always). */
export interface SelfView { readonly device: string, readonly part: string, readonly distance: number, readonly joint: { readonly name: string, readonly at: number } | null }

/** Places of each joint that are tried, from one end of its range to the other. */
const PLACES = 9
/** Rays about the middle of a cone. */
const RING = 12

/**
 * Ranging sensors and gates that see a part of their own robot, each with the nearest such part. Every
 * joint is tried over its range with the others where they begin.
 */
export function selfViews(robot: Robot): readonly SelfView[] {
  const frames = framesOf(robot)
  const parts = partsOf(robot, frames).filter(p => p.what !== 'wheel' && !p.pad)
  const start = frames.map(f => f.link.start)
  const poses = [{ joint: null as SelfView['joint'], values: start }, ...frames.flatMap((f, i) => {
    const { from, to } = robot.devices.find(d => d.name === f.name)!.parameters as { from: number, to: number }
    return Array.from({ length: PLACES }, (_, k) => {
      const at = from + (to - from) * k / (PLACES - 1)
      return { joint: { name: f.name, at }, values: start.map((v, n) => n === i ? at : v) }
    })
  })]
  const found: SelfView[] = []
  for (const device of robot.devices) {
    const reach = reachOf(device.parameters)
    if (reach === null) continue
    let nearest: SelfView | null = null
    for (const { joint, values } of poses) {
      const placed = placeFrames(frames, values)
      const carrier = resting(device.on === null ? ORIGIN : placed[frames.findIndex(f => f.name === device.on)]!)
      const seen = lookAt(device.mount, carrier, reach, parts.filter(p => (p.device ?? 'chassis') !== (device.on ?? 'chassis') && p.device !== device.name)
        .map(p => ({ name: p.device ?? 'chassis', pose: p.frame === -1 ? p.local : within(placed[p.frame]!, p.local), shape: p.shape })))
      if (seen !== null && (nearest === null || seen.distance < nearest.distance)) nearest = { device: device.name, part: seen.part, distance: seen.distance, joint }
      // What is seen as the robot begins is seen always, for all that the drawing tells.
      if (seen !== null && joint === null) break
    }
    if (nearest !== null) found.push(nearest)
  }
  return found
}

/** A ranging sensor that sees a part of its own robot while a joint stands between two places (radians, metres), and not as the robot begins. */
export interface HiddenView { readonly device: string, readonly joint: string, readonly part: string, readonly from: number, readonly to: number }

/** Where moving a joint brings a part before a ranging sensor, each joint tried over its range with the others where they begin. */
export function hiddenViews(robot: Robot): readonly HiddenView[] {
  const frames = framesOf(robot)
  const ranging = robot.devices.flatMap((device) => {
    const reach = reachOf(device.parameters)
    return reach === null ? [] : [{ device, reach }]
  })
  if (frames.length === 0 || ranging.length === 0) return []
  const parts = partsOf(robot, frames).filter(p => p.what !== 'wheel' && !p.pad)
  const start = frames.map(f => f.link.start)
  const seenAt = (device: Robot['devices'][number], reach: NonNullable<ReturnType<typeof reachOf>>, values: readonly number[]): string | null => {
    const placed = placeFrames(frames, values)
    const carrier = resting(device.on === null ? ORIGIN : placed[frames.findIndex(f => f.name === device.on)]!)
    return lookAt(device.mount, carrier, reach, parts.filter(p => (p.device ?? 'chassis') !== (device.on ?? 'chassis') && p.device !== device.name)
      .map(p => ({ name: p.device ?? 'chassis', pose: p.frame === -1 ? p.local : within(placed[p.frame]!, p.local), shape: p.shape })))?.part ?? null
  }
  return ranging.flatMap(({ device, reach }) => {
    if (seenAt(device, reach, start) !== null) return []
    return frames.flatMap((frame, i): HiddenView[] => {
      const { from, to } = robot.devices.find(d => d.name === frame.name)!.parameters as { from: number, to: number }
      const places = Array.from({ length: PLACES }, (_, k) => from + (to - from) * k / (PLACES - 1))
      const seen = places.map(at => seenAt(device, reach, start.map((v, n) => n === i ? at : v)))
      const first = seen.findIndex(s => s !== null)
      if (first === -1) return []
      // The first stretch of places, to the half of what lies between two.
      const clear = seen.findIndex((s, k) => k > first && s === null)
      const half = (to - from) / (PLACES - 1) / 2
      return [{ device: device.name, joint: frame.name, part: seen[first]!, from: Math.max(from, places[first]! - half), to: Math.min(to, places[clear === -1 ? PLACES - 1 : clear - 1]! + half) }]
    })
  })
}

/** A ranging sensor whose cone meets the level floor, and from how far on, metres: the floor answers there in place of things. */
export interface FloorView { readonly device: string, readonly distance: number }

/** Time-of-flight sensors that see the floor, as the robot begins. (A sonar's cone is thrown on by a level floor, away from it.) */
export function floorViews(robot: Robot): readonly FloorView[] {
  const frames = framesOf(robot)
  const placed = placeFrames(frames, frames.map(f => f.link.start))
  return robot.devices.flatMap((device) => {
    const reach = device.kind.kind === 'tof' ? reachOf(device.parameters) : null
    if (reach === null) return []
    const beam = new Beam(device.mount)
    beam.place(resting(device.on === null ? ORIGIN : placed[frames.findIndex(f => f.name === device.on)]!))
    const down = clamp(-beam.fz, -1, 1)
    // The steepest ray of the cone, below the level.
    const angle = atan2(down, Math.sqrt(1 - down * down)) + reach.half
    if (angle <= 0) return []
    const distance = (beam.oz + robot.height) / sin(Math.min(angle, Math.PI / 2))
    return distance <= reach.range ? [{ device: device.name, distance }] : []
  })
}

const ORIGIN: Pose = { position: { x: 0, y: 0, z: 0 }, rotation: { x: 0, y: 0, z: 0, w: 1 } }

/** How far and how wide a ranging device looks; null for other devices. */
function reachOf(parameters: object): { readonly range: number, readonly half: number } | null {
  const p = parameters as { range?: number, cone?: number, span?: number }
  if (typeof p.span === 'number') return { range: p.span, half: 0 }
  return typeof p.range === 'number' && typeof p.cone === 'number' ? { range: p.range, half: p.cone / 2 } : null
}

function lookAt(mount: Robot['devices'][number]['mount'], carrier: BodyState, { range, half }: { range: number, half: number }, parts: readonly { name: string, pose: Pose, shape: Solid['shape'] }[]): { part: string, distance: number } | null {
  const beam = new Beam(mount)
  beam.place(carrier)
  const ray = new Ray().from(beam.ox, beam.oy, beam.oz)
  let best: { part: string, distance: number } | null = null
  for (let i = 0; i <= 2 * RING; i++) {
    // The middle, a ring at half the cone and one at its rim.
    const angle = i === 0 ? 0 : i <= RING ? half / 2 : half
    const around = 2 * Math.PI * i / RING
    const u = cos(angle)
    const v = sin(angle) * cos(around)
    const w = sin(angle) * sin(around)
    ray.along(u * beam.fx + v * beam.lx + w * beam.ux, u * beam.fy + v * beam.ly + w * beam.uy, u * beam.fz + v * beam.lz + w * beam.uz)
    for (const part of parts) {
      const solid = new Solid(part.name, part.shape, PLAIN_SURFACE, part.pose.position, part.pose.rotation)
      ray.reach = best?.distance ?? range
      if (solid.cast(ray)) best = { part: part.name, distance: ray.distance }
    }
  }
  return best
}
