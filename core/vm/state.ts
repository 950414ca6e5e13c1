import type { StreamState } from '../random'

/** What a lane is at. `rules` covers the time in which none has control. */
export const PHASE = { laneStart: 0, modeStart: 1, rules: 2, ended: 3, failed: 4 } as const

export type VmEvent =
  | { readonly type: 'note', readonly lane: string, readonly text: string }
  | { readonly type: 'finish', readonly lane: string, readonly why: string }
  | { readonly type: 'signal', readonly lane: string, readonly name: string }
  | { readonly type: 'blocked', readonly lane: string, readonly actuator: string, readonly line: number }
  /** An actuator was asked for more than it can do. */
  | { readonly type: 'clipped', readonly lane: string, readonly actuator: string }
  | { readonly type: 'error', readonly lane: string, readonly message: string, readonly line: number }

/** What the world tells the program at the beginning of a tick. */
export interface VmInput {
  /** Latest looks, one value per reading, before resets. */
  readonly raw: Float64Array
  /** Looks taken by each device, at the index of its first reading. */
  readonly looks: Float64Array
  /** The tick in which the latest look of each device was begun, at the same places. */
  readonly began: Float64Array
  readonly still: boolean
}

/** A lane as others see it. */
export interface LaneView {
  readonly name: string
  readonly phase: number
  readonly mode: number
  /** Number of the rule in control; -1 when none is. */
  readonly rule: number
  /** Number of the step it is at; -1 when none. */
  readonly step: number
  /** The tick in which it entered its mode. */
  readonly entered: number
}

export interface LaneState {
  phase: number
  mode: number
  /** Place of the rule in control among the rules above and of the mode; -1 none. */
  control: number
  /** -1 when no stepped rule is in the middle of its steps. */
  pc: number
  entered: number
  goTick: number
  pendingGo: number
  step: number
  motions: number[]
}

export interface VmSnapshot {
  readonly tick: number
  readonly cells: readonly number[]
  readonly commands: readonly number[]
  readonly texts: readonly string[]
  readonly offsets: readonly number[]
  /** The tick in which each reading was reset last; -1 where it never was. */
  readonly resetAt: readonly number[]
  readonly stalled: readonly number[]
  readonly heard: readonly number[]
  readonly sent: readonly number[]
  readonly lanes: readonly LaneState[]
  readonly streams: readonly StreamState[]
}
