import type { Analysis } from '../analysis'
import type { Findings } from '../diagnostics'
import { actsOnce } from './acts-once'
import { ending } from './ending'
import { habits } from './habits'
import { hands } from './hands'
import { heldMotions } from './held-motions'
import { lanesAndActuators } from './actuators'
import { loopsWithoutTime } from './loops'
import { motors } from './motors'
import { names } from './names'
import { overTime } from './over-time'
import { neverLeft } from './never-left'
import { neverWins } from './never-wins'
import { sights } from './sights'
import { size } from './size'
import { reach } from './reach'
import { reaction } from './reaction'
import { thresholdPairs } from './threshold-pairs'
import { thresholds } from './thresholds'
import { timing } from './timing'

/** One thing the checker looks for in a program whose names and kinds are known. */
export type Check = (program: Analysis, findings: Findings) => void

/** Every check. A new one is a file and a line here. */
export const CHECKS: readonly Check[] = [
  size, loopsWithoutTime, heldMotions, lanesAndActuators, reach, thresholds, neverWins, neverLeft, names, motors, actsOnce,
  thresholdPairs, reaction, timing, sights, hands, habits, overTime, ending,
]
