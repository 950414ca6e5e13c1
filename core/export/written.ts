import type { Names } from './names'

/** A program in another language. */
export interface WrittenProgram {
  readonly title: string | null
  /** The program: a function a rule, in its own names. */
  readonly program: string
  /** What the program calls each device that it has to do with. */
  readonly devices: ReadonlyMap<string, string>
  /** What it calls the screen of each display that it writes on. */
  readonly screens: ReadonlyMap<string, string>
}

/** What writing steps stands on; `V` writes expressions. */
export interface StepWords<V> {
  readonly values: V
  readonly names: Names
  cell(cell: number): string
  list(cell: number): string
  timer(cell: number): number
  /** Of some cells, the numbers in `t` of those that have one. */
  timers(cells: readonly number[]): readonly number[]
  motion(motion: number): string
  /** A mode of the lane that is written. */
  mode(mode: number): string
  signal(signal: number): string
  /** A reading by its device, its attribute, and its place among the device's readings. */
  place(reading: string): { readonly device: string, readonly attribute: string, readonly index: number }
  line(step: number): number
  /** What was remarked at a line of the program, as lines of the language; each remark once. */
  remarks(line: number): readonly string[]
}
