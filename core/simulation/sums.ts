import { yawOf } from '../geometry'
import { cos, sin, wrapAngle } from '../maths'
import type { Tape } from '../tape'

/** What a sum sums up: radians turned to the right, or metres gone forward, as the robot faced. */
export type SummedUp = 'turned' | 'forward'

/**
 * What is true of a sum of the robot's way, from one tick up to another, by its places on a tape (on the tape's grid of a millionth);
 * null where that tape does not go so far back.
 */
export function trueSum(tape: Tape, what: SummedUp, from: number, to: number): number | null {
  if (from < tape.first || to >= tape.rows) return null
  const { body } = tape.layout
  const at = (tick: number, i: number): number => tape.value(tick, body + i)
  const facing = (tick: number): number => yawOf({ x: at(tick, 3), y: at(tick, 4), z: at(tick, 5), w: at(tick, 6) })
  let sum = 0
  let before = facing(from)
  for (let t = from + 1; t <= to; t++) {
    const yaw = facing(t)
    const turned = wrapAngle(yaw - before)
    // Within a tick it goes as it faces in the middle of that.
    const along = before + turned / 2
    sum += what === 'turned' ? -turned : (at(t, 0) - at(t - 1, 0)) * cos(along) + (at(t, 1) - at(t - 1, 1)) * sin(along)
    before = yaw
  }
  return sum
}
