import { driveOf, type Robot, type RobotFacts } from '../robot'
import { errorAt, hardest, leastBetween, movedApart, type TapeMade } from './again'
import { HARD } from './grip'
import type { Found } from './wheels'

/** Motors differ by no more than this either way, and are told apart in so many steps of the golden section. */
const [MOST, STEPS] = [0.4, 14]
/** For the curve at what was found, this to either side. */
const ASIDE = 0.03
/** What is not known better than this is not told. */
const KNOWN = 0.02

/**
 * By what share the left motor's stall torque is larger than the right one's, half of it either way: the commands of each tape come again to simulated robots whose motors differ more or less, and
 * that is taken with which wheels and gyro turn as they do on the tape. `robot` is as it was measured otherwise. Only tapes are looked at that tell the wheels power so that they move and do not
 * slip: speeds that are held hide it. null where none does, or none tells it.
 */
export function findMotors(tapes: readonly TapeMade[], robot: Robot, facts: RobotFacts): Found | null {
  const drive = driveOf(facts)
  const soft = drive === null ? [] : tapes.filter(({ tape }) => { const most = hardest(tape, facts); return most > 2 * drive['dead zone'] && most < HARD })
  if (soft.length === 0) return null
  const apart = (motors: number) => movedApart(soft, { ...robot, make: { ...robot.make, motors } }, facts)
  const value = leastBetween(-MOST, MOST, STEPS, motors => apart(motors).left)
  const error = errorAt(value, ASIDE, apart)
  return error > KNOWN || Math.abs(value) > MOST - ASIDE ? null : { value, error }
}
