import type { LagData, WheelsFound } from '~~/core/measuring'
import type { Band, Column, Comparison, Trace, Way } from '~~/core/runs'

/** What page and comparing worker tell one another. `ask` numbers what is asked: answers to what is no longer asked are dropped. */
export type ToCompare =
  | { readonly type: 'compare', readonly ask: number, readonly ids: readonly string[], readonly files: readonly { readonly id: string, readonly file: Uint8Array }[] }
  | { readonly type: 'trace', readonly ask: number, readonly ids: readonly string[], readonly column: string }
  | { readonly type: 'csv', readonly ask: number, readonly id: string }
  /** What the runs say of their robot; with each where it ended and what was true in it, as somebody wrote it, '' for nothing. */
  | { readonly type: 'measure', readonly ask: number, readonly runs: readonly { readonly id: string, readonly end: string, readonly truths: string }[] }
export type FromCompare =
  | { readonly type: 'compared', readonly ask: number, readonly runs: readonly Compared[], readonly columns: readonly Traceable[] }
  | { readonly type: 'trace', readonly ask: number, readonly traces: readonly (Trace | null)[] }
  | { readonly type: 'csv', readonly ask: number, readonly id: string, readonly pieces: readonly string[] }
  | { readonly type: 'measured', readonly ask: number, readonly measured: MeasuredRobot }
  | { readonly type: 'failed', readonly ask: number, readonly message: string }

/** What was found of a sensor beside what it read, in a unit that people use. */
export interface SensorFit {
  readonly device: string
  readonly unit: string
  /** How far looks were off while the robot stood, and how far they are by what was found (deviation); null where that was not found. */
  readonly still: { readonly off: readonly number[], readonly noise: number } | null
  /** What was read while it moved, beside what the wheels tell with the latency that was found. */
  readonly moved: LagData | null
}

/** What runs say of their robot: in lines, where their ways led, what its sensors read, and as its document keeps it; or what is wrong with what was written to a run. */
export type MeasuredRobot =
  | { readonly ok: true, readonly says: readonly string[], readonly ends: WheelsFound['ends'], readonly fits: readonly SensorFit[], readonly document: object, readonly found: boolean }
  | { readonly ok: false, readonly run: string, readonly field: 'end' | 'truths', readonly message: string }

/** What every compared run has: it can be traced for all. */
export type Traceable = Pick<Column, 'id' | 'title' | 'spec'>

/** A run as it is compared with the first of those chosen. */
export interface Compared {
  readonly id: string
  readonly dt: number
  readonly first: number
  readonly rows: number
  readonly program: string
  readonly arena: unknown
  readonly seed: number
  readonly way: Way
  /** In which tick something happened first, by what it was in words: to lay runs by. */
  readonly firsts: ReadonlyMap<string, number>
  readonly colors: readonly string[]
  readonly lanes: readonly { readonly name: string, readonly bands: readonly Band[] }[]
  /** Of its rules by their numbers, which of the first run's each is; those that are none are left out. */
  readonly like: ReadonlyMap<number, number>
  /** Where it first differs from the first run; null of that itself. */
  readonly difference: Comparison | null
}

/** The most that are compared at once. */
export const MOST_COMPARED = 6

/** How each of the compared runs is drawn: told apart by its line and its sign, whatever one sees of colours. */
export const STYLES = [
  { letter: 'A', color: 'device-0', dash: '', sign: '●' },
  { letter: 'B', color: 'device-7', dash: '7 4', sign: '■' },
  { letter: 'C', color: 'device-3', dash: '2 3', sign: '▲' },
  { letter: 'D', color: 'device-2', dash: '10 3 2 3', sign: '◆' },
  { letter: 'E', color: 'device-6', dash: '14 5', sign: '✚' },
  { letter: 'F', color: 'device-4', dash: '5 2 1 2 1 2', sign: '✖' },
] as const
