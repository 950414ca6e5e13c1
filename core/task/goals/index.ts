import { answers } from './answers'
import { atDistance } from './at-distance'
import { clearDeck } from './clear-deck'
import { emptyArea } from './empty-area'
import { finish } from './finish'
import { follow } from './follow'
import type { GoalKind } from './goal'
import { inArea } from './in-area'
import { neverTouch } from './never-touch'
import { ownCrate } from './own-crate'
import { rests } from './rests'
import { robotIn } from './robot-in'
import { stacked } from './stacked'
import { stayAboard } from './stay-aboard'
import { topple } from './topple'
import { travels } from './travels'

/** Every kind of goal. A new one is a file and a line here. */
export const GOAL_KINDS: readonly GoalKind[] = [
  atDistance, neverTouch, travels, stayAboard, finish, clearDeck, inArea, emptyArea, stacked, ownCrate, robotIn, topple, follow, answers, rests,
]

export { placeNames, thingNames } from './places'
export type { GoalKind, GoalState, GoalWorld } from './goal'

/** A goal as a task names it. */
export interface Goal {
  readonly kind: GoalKind
  readonly parameters: object
  readonly sentence: string
}
