import { rotate, type Vector } from '../geometry'
import { placeFrames, within, type FrameSpec } from './frames'

const UPRIGHT = { x: 0, y: 0, z: 0, w: 1 }
/** Step of the numerical derivative, rad or m. */
const STEP = 1e-5
const ROUNDS = 80
/** By how much a step that led away is held back more, and one that did not less; beyond the second, nothing moves any more. */
const BOLDER = 3
const STILL = 10
/** Keeps an arm that is stretched out from swinging wildly: what moves a held point less than this, m, moves little. */
const DAMPING = 0.01
/** The farthest that one round moves a joint, rad; a slide's metres count for more, as an arm is some 20 cm long. */
const LARGEST = 0.3
const SLIDE = 0.2

/** A point of a drawing, metres. */
type Flat = readonly [number, number]

/** A point of a joint's link that a hand holds, in the link's frame. */
export interface Grip { readonly frame: number, readonly point: Vector }

/**
 * The point of a frame's link that stands nearest to a seen place of the drawing when the frame is at this pose:
 * the seen place itself, taken in the plane of the drawing through the link's origin.
 */
export function gripAt(frames: readonly FrameSpec[], values: readonly number[], frame: number, place: Vector): Grip {
  const pose = placeFrames(frames, values)[frame]!
  const { x, y, z, w } = pose.rotation
  const { position: p } = pose
  return { frame, point: rotate({ x: -x, y: -y, z: -z, w }, { x: place.x - p.x, y: place.y - p.y, z: place.z - p.z }) }
}

/**
 * What a hand does that drags a link on a drawing: the joints behind it move, as little as they can, until the
 * held point is as near to the target as it gets within their ranges. `see` puts a point of the chassis' frame
 * on the drawing. The new values of all joints. Damped least squares (Wampler 1986) on a numerical Jacobian.
 */
export function posedBy(
  frames: readonly FrameSpec[], values: readonly number[], range: (joint: string) => readonly [number, number],
  grip: Grip, see: (point: Vector) => Flat, target: Flat,
): readonly number[] {
  const chain: number[] = []
  for (let joint = grip.frame; joint !== -1; joint = frames[joint]!.parent) chain.push(joint)
  const weight = (joint: number): number => frames[joint]!.link.motion === 'turning' ? 1 : SLIDE
  const seenAt = (at: readonly number[]): Flat => see(within(placeFrames(frames, at)[grip.frame]!, { position: grip.point, rotation: UPRIGHT }).position)
  let now = [...values]
  let damping = DAMPING
  for (let round = 0; round < ROUNDS; round++) {
    const [x, y] = seenAt(now)
    const slopes = chain.map((joint): Flat => {
      // On both sides, so that a joint whose motion does not show has no slope at all.
      const [x1, y1] = seenAt(now.map((v, i) => i === joint ? v - STEP : v))
      const [x2, y2] = seenAt(now.map((v, i) => i === joint ? v + STEP : v))
      return [(x2 - x1) / (2 * STEP) * weight(joint), (y2 - y1) / (2 * STEP) * weight(joint)]
    })
    const sum = (of: (s: Flat) => number): number => slopes.reduce((all, s) => all + of(s), 0)
    const xx = sum(([a]) => a * a) + damping * damping
    const yy = sum(([, b]) => b * b) + damping * damping
    const xy = sum(([a, b]) => a * b)
    const [ex, ey] = [target[0] - x, target[1] - y]
    const determinant = xx * yy - xy * xy
    const [fx, fy] = [(ex * yy - ey * xy) / determinant, (ey * xx - ex * xy) / determinant]
    const next = [...now]
    chain.forEach((joint, k) => {
      const step = slopes[k]![0] * fx + slopes[k]![1] * fy
      const [from, to] = range(frames[joint]!.name)
      next[joint] = Math.min(to, Math.max(from, now[joint]! + weight(joint) * Math.min(LARGEST, Math.max(-LARGEST, step))))
    })
    // A step that leads away was too bold (Levenberg 1944): once more from here, held back more.
    const [nx, ny] = seenAt(next)
    if ((target[0] - nx) * (target[0] - nx) + (target[1] - ny) * (target[1] - ny) > ex * ex + ey * ey) {
      damping *= BOLDER
      if (damping > STILL) break
      continue
    }
    damping = Math.max(DAMPING, damping / BOLDER)
    const still = next.every((v, i) => Math.abs(v - now[i]!) < 1e-7)
    now = next
    if (still) break
  }
  return now
}
