import type { StepMachine } from '../devices'

/** Instructions return where to go on, or one of these. */
export const WAIT = -1
export const DONE = -2
export const GONE = -3
export const FINISHED = -4

export type Instruction = (m: Machine) => number

/** What loaded code can do to a running program. */
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
  /** Puts a value into a cell of the program's, by a step of it. */
  set(cell: number, value: number, step: number): void
  note(text: string): void
  finish(why: string): void
  /** Asks for a mode; true when it is entered now, false when it has to wait for the next tick. */
  go(mode: number): void
  /** Marks the step at work. */
  at(step: number): void
  startMotion(motion: number): void
  /** Starts a motion that ends by itself, also where it is blocked. */
  beginMotion(motion: number): void
  /** Ends a motion. */
  stopMotion(motion: number): void
  /** Ends the motions numbered from `first` up to but not `end`. */
  stopMotions(first: number, end: number): void
  /** Applies a setting now, unless a higher lane spoke to its actuator in this tick. */
  applySetting(motion: number): void
  /** Whether an actuator of a begun motion has been stalled for as long as ends it. Asked once in each of its ticks, that in which it begins among them. */
  blocked(motion: number): boolean
  /** Whether a live rule's instant step may act: not reached the tick before. */
  edge(cell: number): boolean
  /** Stops the lane with an error that it tells. */
  fail(message: string, step: number): void
  /** A round more of a loop of so many instructions. */
  round(instructions: number, step: number): void
}

export type Num = (m: Machine) => number
export type Bool = (m: Machine) => boolean
export type Str = (m: Machine) => string
