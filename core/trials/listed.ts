import type { TrialPlan } from './plan'

/** How a plan stands. `enough`: it stopped early, as all was known well enough. */
export type PlanState = 'waiting' | 'running' | 'done' | 'enough' | 'cancelled' | 'failed'

/** A plan as a server lists it. */
export interface PlanRow {
  readonly id: string
  /** null for one of another version. */
  readonly plan: TrialPlan | null
  readonly programs: readonly { readonly name: string, readonly revision: number | null }[]
  readonly total: number
  readonly done: number
  readonly met: number
  readonly state: PlanState
  /** Why it failed; '' while it did not. */
  readonly why: string
  /** Milliseconds that it has been under way. */
  readonly spent: number
  readonly at: string
}

/** A program as a plan has it; the revision of the project that it is, null for none. */
export interface PlanProgram { readonly name: string, readonly text: string, readonly revision: number | null }

/** How far a plan has come that is under way. */
export interface TrialProgress {
  readonly id: string
  readonly done: number
  /** Runs a second, of late; seconds that are left at that. null before anything is known. */
  readonly rate: number | null
  readonly left: number | null
}
