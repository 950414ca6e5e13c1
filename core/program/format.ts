import type { Kind } from '../units'
import type { FunctionName } from './functions'

/**
 * A program as plain data: what the compiler makes, what the machine runs, what a tape names and exports read. It is JSON and
 * back without loss, belongs to one robot (its readings and actuators are named), and says where in the text each part stands.
 * docs/program-format.md explains it to whoever writes another back end. All quantities are SI.
 */
export const PROGRAM_VERSION = 2

/** A stretch of the text: from this offset up to, not with, that one (UTF-16). */
export interface Range { readonly from: number, readonly to: number }

export interface ProgramData {
  readonly mindpath: 'program'
  readonly version: typeof PROGRAM_VERSION
  readonly title: string | null
  /** The robot that it is for. */
  readonly robot: string
  /** Names of colours by their number. */
  readonly colors: readonly string[]
  /** What the cells hold when a run begins: all that a program remembers stands in numbered cells. */
  readonly cells: readonly number[]
  readonly dials: readonly DialData[]
  readonly memories: readonly MemoryData[]
  /** What is worked out at the beginning of every tick, in order, before any lane. */
  readonly everyTick: readonly EveryTick[]
  readonly lanes: readonly LaneData[]
  readonly signals: readonly string[]
  /** Every rule of every lane, by number. */
  readonly rules: readonly RuleData[]
  readonly steps: readonly StepData[]
  readonly code: readonly Op[]
  /** What code moves or sets, by number. */
  readonly motions: readonly MotionData[]
  /** Thresholds that the program compares readings with, for the traces. */
  readonly thresholds: readonly Threshold[]
}

export interface DialData {
  readonly name: string
  readonly cell: number
  readonly kind: Kind
  readonly share: boolean
  readonly value: number
  readonly from: number
  readonly to: number
  /** The unit as the author wrote it. */
  readonly unit: string | null
  /** Where its value stands in the text. */
  readonly range: Range
}

export interface MemoryData {
  /** Of a routine's own: `routine.name`. */
  readonly name: string
  /** The first of its cells. */
  readonly cell: number
  /** How many values it holds, in cells one behind another; `per` says what each is for, from colour 0 or from number 1. */
  readonly count: number
  readonly per: 'color' | 'number' | null
  readonly kind: Kind | null
  readonly shown: ShownAs
}

/** A named value, or one that is followed over time. `name` is how it is written, and `cell` holds what it is worth. */
export type EveryTick = { readonly name: string, readonly cell: number, readonly shown: ShownAs, readonly step: number } & (
  | { readonly does: 'let', readonly value: Value }
  /** Over the latest values: one a tick, as many as the time has ticks (at least one), or as there were. Behind `cell`: how many there were, then `most` of them, round and round. */
  | { readonly does: 'mean' | 'lowest' | 'highest', readonly of: Value, readonly time: Value, readonly most: number }
  /** Change a second, from look to look of its devices; every tick where it has none. Behind `cell`: the value then, its tick (-1: none), and the looks of each device. */
  | { readonly does: 'rate', readonly of: Value, readonly devices: readonly string[] }
  /** Sum over time, in seconds; 0 again when its mode is entered. */
  | { readonly does: 'total', readonly of: Value }
  /** `cell`: the tick in which it was true last; -1: never. */
  | { readonly does: 'since', readonly test: Value })

export interface Threshold {
  readonly reading: string
  readonly rule: number
  readonly mode: string
  /** null when it comes from a dial or an expression, then `cell` or nothing. */
  readonly value: number | null
  readonly cell: number | null
  readonly operator: string
}

export interface StepData {
  readonly range: Range
  /** Line of the step, from 1. */
  readonly line: number
  readonly loop: boolean
}

export interface LaneData {
  readonly name: string
  /** Where its `start` begins in the code; -1 when it has none. */
  readonly start: number
  /** Numbers of the rules above all modes, the most urgent first. */
  readonly above: readonly number[]
  readonly modes: readonly ModeData[]
  /** A lane that was only a `start`. */
  readonly sequence: boolean
}

export interface ModeData {
  /** The lane's own for the only one of a lane without modes. */
  readonly name: string
  readonly start: number
  readonly rules: readonly number[]
  /** Cells that are set to 0 when it is entered: sums over its time. */
  readonly totals: readonly number[]
}

export interface RuleData {
  readonly number: number
  readonly range: Range
  readonly line: number
  /** Where it stands in its list, from 1, those above all modes counted first. */
  readonly urgency: number
  /** null for `otherwise`. */
  readonly when: Value | null
  readonly until: Value | null
  /** Acts once each time its condition comes true. */
  readonly once: boolean
  /** Its condition can be true for a tick only, at moments that are told apart. */
  readonly moments: boolean
  /** What it remembers: cells that are set to -1 when its mode is entered. */
  readonly cells: readonly number[]
  /** Where its steps begin in the code. */
  readonly body: number
  /** None of its steps takes time: it is gone through anew every tick. */
  readonly live: boolean
  /** Cell with what it wanted last (1 or 0). */
  readonly wantCell: number
  /** Cell that keeps `until`: above 0 while it goes on wanting. */
  readonly latch: number
  /** Cell that holds 1 when a `once` rule has been done. */
  readonly doneCell: number
}

/** A step that commands a device, by its form; how it moves is told by the form (docs/program-format.md). */
export interface MotionData {
  readonly form: string
  readonly slots: readonly SlotData[]
  /** First of its own cells, and how many. */
  readonly at: number
  readonly cells: number
  /** The actuators that it moves, by name. */
  readonly actuators: readonly string[]
  readonly step: number
}

/** A filled place of a form: a value with its kind, or a word. */
export interface SlotData {
  readonly name: string
  readonly value: Value | null
  readonly kind: Kind | null
  readonly word: string | null
  /** As a text, for forms that show one. */
  readonly text: Value | null
}

/** A `do … at most` around a step: when its cell's tick has come, motions from `first` up to `end` stop and code goes on at `exit`. */
export interface Guard { readonly cell: number, exit: number, readonly first: number, end: number }

/** What is drawn once, when a step begins: `random` in a slot. */
export interface Draw { readonly cell: number, readonly value: Value }

/**
 * An instruction. Those that end a tick for their lane are `end`, `wait`, `wait until`, `move`, `go` and `finish`; all others
 * go on with the one behind them, or where they say. `edge`: in a live rule, acts only where that cell says that it was not
 * reached the tick before; null: always.
 */
export type Op =
  | { readonly op: 'end' }
  | { readonly op: 'jump', readonly to: number }
  /** Goes on behind it when the test holds, else at `no`. */
  | { readonly op: 'test', readonly test: Value, readonly no: number }
  /** A count for `repeat n times`, rounded to whole rounds. */
  | { readonly op: 'count', readonly cell: number, readonly times: Value }
  /** One round less; at `end` when none is left. */
  | { readonly op: 'round', readonly cell: number, readonly end: number }
  /** The next of some values into a cell, counted by another; at `end` when all were. */
  | { readonly op: 'each', readonly step: number, readonly cell: number, readonly into: number, readonly values: readonly Value[], readonly end: number }
  /** Back to the top of a loop. */
  | { readonly op: 'again', readonly step: number, readonly to: number }
  | { readonly op: 'set', readonly step: number, readonly cell: number, readonly value: Value, readonly edge: number | null }
  /** Into one of a memory's cells, as `one` reads it. */
  | { readonly op: 'put', readonly step: number, readonly place: Place, readonly value: Value, readonly edge: number | null }
  | { readonly op: 'reset', readonly step: number, readonly reading: string, readonly edge: number | null }
  | { readonly op: 'send', readonly step: number, readonly signal: number, readonly edge: number | null }
  | { readonly op: 'note', readonly step: number, readonly text: Value, readonly edge: number | null }
  | { readonly op: 'finish', readonly step: number, readonly why: Value }
  | { readonly op: 'go', readonly step: number, readonly mode: number }
  /** Writes into the cell the tick in which a time from now is over. */
  | { readonly op: 'deadline', readonly step: number, readonly cell: number, readonly time: Value }
  /** Goes on when the cell's tick has come. */
  | { readonly op: 'wait', readonly cell: number, readonly guards: readonly Guard[] }
  /** Begins the timers of a `wait until`, and its `at most`. */
  | { readonly op: 'await', readonly step: number, readonly timers: readonly number[], readonly cell: number, readonly limit: Value | null }
  /** `late`, here and of `move`: where it goes on when its limit was over first; null: behind it too. */
  | { readonly op: 'wait until', readonly test: Value, readonly cell: number, readonly limited: boolean, readonly late: number | null, readonly guards: readonly Guard[] }
  /** Works out a routine's parameters, and its `at most`. */
  | { readonly op: 'call', readonly step: number, readonly given: readonly Draw[], readonly cell: number, readonly limit: Value | null }
  /** Applies a setting, which stays. */
  | { readonly op: 'setting', readonly step: number, readonly motion: number, readonly draws: readonly Draw[] }
  /** Starts a motion that is held until something else moves its actuators, or its rule ends. */
  | { readonly op: 'hold', readonly step: number, readonly motion: number, readonly draws: readonly Draw[], readonly edge: number | null }
  /** Begins a motion that ends by itself, after a time, or when something is true; goes on behind the `move` when there is nothing to do. */
  | { readonly op: 'begin', readonly step: number, readonly motion: number, readonly draws: readonly Draw[], readonly timers: readonly number[], readonly until: Value | null, readonly lasting: Value | null, readonly ends: number, readonly limit: Value | null, readonly deadline: number }
  | { readonly op: 'move', readonly motion: number, readonly until: Value | null, readonly lasts: boolean, readonly ends: number, readonly timed: boolean, readonly limited: boolean, readonly late: number | null, readonly deadline: number, readonly guards: readonly Guard[] }

/** How a value is written for people. */
export type ShownAs =
  /** `unit`: null and left out: the usual one of its kind. `step`: to whole multiples of it, SI, with that many decimals. */
  | { readonly type: 'quantity', readonly kind: Kind, readonly share: boolean, readonly unit?: string | null, readonly step?: number, readonly decimals?: number }
  | { readonly type: 'truth' | 'color' | 'text' | 'unknown' }

export type Comparison = '<' | '>' | '<=' | '>='

/** One of a memory's values: that for `at`, rounded, counted from `first`. The lane stops with an error at that step where there is none. */
export interface Place { readonly name: string, readonly cell: number, readonly count: number, readonly first: number, readonly at: Value, readonly step: number }

/** Where in the text a value stands; null for what the compiler put in. */
interface Placed { readonly range: Range | null }

/** An expression: a number (truths are 1 and 0, colours their number), a truth or a text. */
export type Value = Placed & (
  // Numbers
  | { readonly is: 'number', readonly value: number }
  | { readonly is: 'cell', readonly cell: number, readonly name: string }
  /** A reading by its name. `most`: what no echo counts as; null: it stays farther than anything. */
  | { readonly is: 'reading', readonly name: string, readonly most: number | null }
  /** The reading of that name among some, by the number of a colour or tag; `none` where it is none of them: 0, or as if there was no echo. */
  | { readonly is: 'asked', readonly of: Value, readonly among: readonly { readonly value: number, readonly name: string }[], readonly none: 'zero' | 'far', readonly most: number | null }
  | { readonly is: 'one of many', readonly place: Place }
  /** How many of so many cells are not 0. */
  | { readonly is: 'how many', readonly cell: number, readonly count: number, readonly name: string }
  /** Seconds since the tick that a cell holds; where it holds none, infinite, or with `run` the seconds of the run. */
  | { readonly is: 'since', readonly cell: number, readonly name: string, readonly run: boolean }
  /** A reading worked out from values in brackets. */
  | { readonly is: 'computed', readonly device: string, readonly reading: string, readonly given: readonly Value[] }
  /** Seconds of the run, seconds in the mode, and whether the robot stands (1 or 0). */
  | { readonly is: 'run.time' | 'mode.time' | 'robot.still' }
  | { readonly is: 'minus', readonly of: Value }
  | { readonly is: '+' | '-' | '*', readonly left: Value, readonly right: Value }
  /** By 0: the lane stops with an error at that step. */
  | { readonly is: '/', readonly left: Value, readonly right: Value, readonly step: number }
  | { readonly is: 'random', readonly low: Value, readonly high: Value }
  | { readonly is: FunctionName, readonly given: readonly Value[] }
  /** Of less than 0: the lane stops with an error at that step. */
  | { readonly is: 'sqrt', readonly of: Value, readonly step: number }
  /** To whole multiples of `scale`. */
  | { readonly is: 'round', readonly of: Value, readonly scale: number }
  /** A truth as a number. */
  | { readonly is: 'one', readonly of: Value }
  // Truths
  | { readonly is: 'truth', readonly value: boolean }
  | { readonly is: Comparison, readonly left: Value, readonly right: Value }
  | { readonly is: 'between', readonly value: Value, readonly low: Value, readonly high: Value }
  | { readonly is: 'one of', readonly value: Value, readonly options: readonly Value[], readonly negated: boolean }
  /** All parts are always worked out, so that timers do not depend on their order. */
  | { readonly is: 'and' | 'or', readonly parts: readonly Value[] }
  | { readonly is: 'not', readonly of: Value }
  | { readonly is: 'heard', readonly signal: number }
  /** True for a tick, first a period after its cell was set to -1. */
  | { readonly is: 'every', readonly time: Value, readonly cell: number }
  /** True when the test has held that long without a break and each device has looked again; `cell` and one for each device. */
  | { readonly is: 'for', readonly test: Value, readonly time: Value, readonly cell: number, readonly devices: readonly string[] }
  /** A number as a truth: whether it is not 0. */
  | { readonly is: 'nonzero', readonly of: Value }
  // Texts
  | { readonly is: 'text', readonly text: string }
  | { readonly is: 'joined', readonly parts: readonly Value[] }
  | { readonly is: 'shown', readonly of: Value, readonly as: ShownAs })

/** A rule by its number, in the order in which its lane asks them in a mode. */
export function rulesIn(program: ProgramData, lane: number, mode: number): readonly RuleData[] {
  const { above, modes } = program.lanes[lane]!
  return [...above, ...modes[mode]?.rules ?? []].map(n => program.rules[n]!)
}
