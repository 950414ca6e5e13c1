import type { ProgramData } from '../../core/program'
import type { RobotFacts } from '../../core/robot'
import type { VmInput } from '../../core/vm'

/** What came of each tick of an exported program's run: which rules had control, what was told its devices, what it said, and whether it was over. */
export type Ran = readonly { readonly control: string, readonly commands: Float64Array, readonly told: readonly string[], readonly over: boolean }[]

/** A language that programs are carried to, and something that runs it. */
export interface Target {
  /** A program on a course of readings. Throws Error with what was said where it does not run. */
  run(program: ProgramData, facts: RobotFacts, text: string, seed: number, course: readonly VmInput[]): Ran
  /** What is said of a program's words; null where nothing is. */
  wrong(program: ProgramData, facts: RobotFacts, text: string, seed: number): string | null
}
