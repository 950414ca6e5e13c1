import type { StepMachine, StepPlan } from '../devices'
import type { Kind } from '../units'
import type { Range } from './tree'

/**
 * What runs: code as closures over a machine, everything that changes in numbered cells.
 * A compiled program is read only; all state of a run is in the machine and is plain data.
 */
export interface Compiled {
  readonly title: string | null
  readonly cellCount: number
  /** What the cells hold when a run begins. */
  readonly initial: Float64Array
  readonly dials: readonly CompiledDial[]
  readonly memories: readonly { readonly name: string, readonly cell: number, readonly kind: Kind | null }[]
  readonly lanes: readonly CompiledLane[]
  readonly signals: readonly string[]
  readonly code: readonly Instruction[]
  /** Motions that instructions start, by number. */
  readonly motions: readonly Motion[]
  readonly steps: readonly CompiledStep[]
  /** Every rule of every lane, by number. */
  readonly rules: readonly CompiledRule[]
  /** Thresholds that the program compares readings with, for the traces. */
  readonly thresholds: readonly Threshold[]
}

export interface CompiledDial {
  readonly name: string
  readonly cell: number
  readonly kind: Kind
  readonly share: boolean
  /** SI. */
  readonly value: number
  readonly from: number
  readonly to: number
  /** The unit as the author wrote it. */
  readonly unit: string | null
  /** Where its value stands in the text. */
  readonly range: Range
}

export interface Threshold {
  readonly reading: string
  readonly rule: number
  readonly mode: string
  /** SI; null when it comes from a dial or an expression, then `cell` or nothing. */
  readonly value: number | null
  readonly cell: number | null
  readonly operator: string
}

export interface CompiledStep {
  readonly range: Range
  /** Line of the step, from 1. */
  readonly line: number
  readonly loop: boolean
}

export interface Motion {
  readonly plan: StepPlan
  /** Its cells. */
  readonly at: number
  /** Indices of the actuators that it moves, among the robot's. */
  readonly actuators: readonly number[]
  /** Whether any lane may speak to one of them. */
  readonly shared: boolean
  readonly step: number
}

export interface CompiledLane {
  readonly name: string
  /** -1 when it has none. */
  readonly start: number
  readonly above: readonly CompiledRule[]
  readonly modes: readonly CompiledMode[]
  /** A lane that was only a `start`. */
  readonly sequence: boolean
}

export interface CompiledMode {
  readonly name: string
  readonly start: number
  readonly rules: readonly CompiledRule[]
}

export interface CompiledRule {
  readonly number: number
  readonly range: Range
  readonly line: number
  /** Where it stands in its list, from 1, those above all modes counted first. */
  readonly urgency: number
  /** Works out whether it wants control; called exactly once a tick. */
  readonly wants: (m: Machine) => boolean
  /** First cell and number of cells of its timers, set to -1 when its mode is entered. */
  readonly cells: readonly [number, number]
  readonly body: number
  readonly live: boolean
  readonly once: boolean
  /** Cell that holds 1 when a `once` rule has been done. */
  readonly doneCell: number
  /** Cell with what it wanted last (1 or 0), for whoever watches. */
  readonly wantCell: number
}

/** Instructions return where to go on, or one of these. */
export const WAIT = -1
export const DONE = -2
export const GONE = -3
export const FINISHED = -4

export type Instruction = (m: Machine) => number

/** What compiled code can do to a running program. */
export interface Machine extends StepMachine {
  /** Ticks since the run began. */
  readonly tick: number
  /** How many looks each device has taken, by the index of its first reading. */
  readonly looks: Float64Array
  readonly still: boolean
  /** Tick at which the mode of the lane at work was entered. */
  modeEntered(): number
  heard(signal: number): boolean
  send(signal: number): void
  random(low: number, high: number): number
  reset(reading: number): void
  note(text: string): void
  finish(why: string): void
  /** Asks for a mode; true when it is entered now, false when it has to wait for the next tick. */
  go(mode: number): void
  /** Marks the step at work. */
  at(step: number): void
  startMotion(motion: number): void
  /** Ends a motion. */
  stopMotion(motion: number): void
  /** Ends the motions numbered from `first` up to but not `end`. */
  stopMotions(first: number, end: number): void
  /** Applies a setting now, unless a higher lane spoke to its actuator in this tick. */
  applySetting(motion: number): void
  /** Whether an actuator of a running motion has been stalled for as long as ends it. */
  blocked(motion: number): boolean
  /** Whether a live rule's instant step may act: not reached the tick before. */
  edge(cell: number): boolean
  fail(code: 'division' | 'root', step: number): void
  loop(step: number): void
}

export type Num = (m: Machine) => number
export type Bool = (m: Machine) => boolean
export type Str = (m: Machine) => string
