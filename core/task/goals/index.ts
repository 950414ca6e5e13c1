import { atDistance } from './at-distance'
import { clearDeck } from './clear-deck'
import { finish } from './finish'
import type { GoalKind } from './goal'
import { neverTouch } from './never-touch'
import { stayAboard } from './stay-aboard'
import { travels } from './travels'

/** Every kind of goal. A new one is a file and a line here. */
export const GOAL_KINDS: readonly GoalKind[] = [atDistance, neverTouch, travels, stayAboard, finish, clearDeck] as readonly unknown[] as readonly GoalKind[]

export type { GoalKind, GoalState, GoalWorld } from './goal'

/** A goal as a task names it. */
export interface Goal {
  readonly kind: GoalKind
  readonly parameters: object
  readonly sentence: string
}
