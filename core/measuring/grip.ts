import { driveOf, withDrive, type Robot, type RobotFacts } from '../robot'
import { errorAt, hardest, leastBetween, movedApart, type TapeMade } from './again'
import type { Found } from './wheels'

/** Wheels may slip at this share of full power and more. */
export const HARD = 0.5
/** So many grips are tried first, from the least on, each so many times the one before: to 1.65; then nearer, in so many steps of the golden section. */
const [LEAST, FACTOR, TRIED, NEARER] = [0.1, 1.29, 12, 12]
/** A tape of which a simulated robot with the best grip leaves more than this share of what one leaves that never slips, does not tell it. */
const TELLS = 0.8
/** For the curve at the best grip, this share to either side. */
const ASIDE = 0.05

/**
 * How well the wheels grip the floor, as so many times what they carry: the commands of each tape come again to a simulated robot, with other and other grips, and that is taken
 * with which wheels and gyro turn in it as they do on the tape. `robot` is as it was measured otherwise. Only tapes with hard power
 * are looked at, as when a robot spins on the spot at full power, to and fro; null where none is, or where the wheels never slip.
 */
export function findGrip(tapes: readonly TapeMade[], robot: Robot, facts: RobotFacts): Found | null {
  const hard = tapes.filter(({ tape }) => isHard(tape, facts))
  if (driveOf(facts) === null || hard.length === 0) return null
  const apart = (grip: number) => movedApart(hard, withDrive(robot, { grip }), facts)
  const left = (grip: number): number => apart(grip).left
  const tried: { readonly grip: number, readonly left: number }[] = []
  for (let grip = LEAST; tried.length < TRIED; grip *= FACTOR) tried.push({ grip, left: left(grip) })
  const best = tried.reduce((a, b) => b.left < a.left ? b : a)
  if (best.left > TELLS * tried[TRIED - 1]!.left || best === tried[0]) return null
  const value = leastBetween(best.grip / FACTOR, best.grip * FACTOR, NEARER, left)
  return { value, error: errorAt(value, value * ASIDE, apart) }
}

/** Whether a tape commands the wheels hard, by power: then they may slip. */
export const isHard = (tape: TapeMade['tape'], facts: RobotFacts): boolean => hardest(tape, facts) >= HARD
