import type { Arena, Layout } from '~~/core/arena'
import type { PictureMark, RunRealism } from '~~/core/devices'
import type { RoundTrip, Stage } from '~~/core/firmata'
import type { SolidShape } from '~~/core/geometry'
import type { Asked, Diagnostic, ProgramMap } from '~~/core/language'
import type { RobotFacts } from '~~/core/robot'
import type { Doing, KnownReading, Poke, ProblemIn, RunEnd, RunInputs, RunRecord } from '~~/core/simulation'
import type { Stuck } from '~~/core/runs'
import type { TapeEvent, TapeLayout } from '~~/core/tape'
import type { GoalState } from '~~/core/task'
import type { Carried } from '~~/core/vm'
import type { LivePart, Why } from '~~/core/why'

/** What page and simulation worker tell one another. */
export type ToSimulation =
  /** `by` the wire: with the real devices that are joined, once they are ready. By a client: it drives the robot through the pins of a board. */
  | { readonly type: 'open', readonly run: number, readonly inputs: RunInputs, readonly go: boolean, readonly factor: number, readonly by: DrivenBy }
  /** There is a wire to a board: the devices of this robot are real from the next run on, but for those that are to be simulated. */
  | { readonly type: 'join', readonly robot: unknown, readonly simulated: readonly string[] }
  /** There is none any more; a run that is under way ends where it says why. */
  | { readonly type: 'part', readonly why: string | null }
  /** What the client says that drives the robot; null when it has gone. */
  | { readonly type: 'client', readonly bytes: Uint8Array | null }
  /** What came over the wire. */
  | { readonly type: 'heard', readonly bytes: Uint8Array }
  /** The run that there is goes on from one of its instants, with this program, and with other noise where a seed of it is given; what came after stays in the run that was. */
  | { readonly type: 'goOn', readonly run: number, readonly program: string, readonly tick: number, readonly noise: number | null, readonly go: boolean, readonly factor: number }
  /** A kept run to be looked at, from its file. */
  | { readonly type: 'show', readonly run: number, readonly file: Uint8Array }
  /** The run as far as it has come as the bytes of a file. */
  | { readonly type: 'keep', readonly run: number, readonly title: string }
  | { readonly type: 'go' }
  | { readonly type: 'pause' }
  | { readonly type: 'tick' }
  /** How many simulated seconds a second; Infinity for as fast as it goes. */
  | { readonly type: 'speed', readonly factor: number }
  | { readonly type: 'poke', readonly poke: Poke }
  /** The run as far as it has come, to be kept and run again. */
  | { readonly type: 'record', readonly title: string }
  /** Why did the lanes do what they did in this tick? */
  | { readonly type: 'why', readonly tick: number }
  /** When, before this tick, was a part of a rule's condition true? The part by where it stands in the program. */
  | { readonly type: 'wasTrue', readonly tick: number, readonly lane: number, readonly rule: number, readonly from: number, readonly to: number }
  /** What were the parts of every condition worth in this tick? */
  | { readonly type: 'live', readonly tick: number }

/** What a run has besides the simulation: nothing, real devices at the other end of a wire, or a client that drives its robot. */
export type DrivenBy = 'itself' | 'wire' | 'client'

export type FromSimulation =
  /** For the client that drives the robot. */
  | { readonly type: 'answer', readonly bytes: Uint8Array<ArrayBuffer> }
  /** To go over the wire. */
  | { readonly type: 'tell', readonly bytes: Uint8Array<ArrayBuffer> }
  | { readonly type: 'link', readonly link: LinkState }
  | { readonly type: 'opened', readonly run: number, readonly opened: Opened }
  | { readonly type: 'refused', readonly run: number, readonly problems: readonly ProblemIn[], readonly diagnostics: readonly Diagnostic[] }
  /** `earlier`: the tick is of a run that this one went on from, with the program that it had. */
  | { readonly type: 'because', readonly run: number, readonly tick: number, readonly lanes: readonly Why[], readonly earlier: boolean }
  | ({ readonly type: 'behind', readonly run: number } & Behind)
  /** The latest tick in which it was, null for none; answers come in the order of the questions. */
  | { readonly type: 'wasTrue', readonly run: number, readonly tick: number | null }
  | ({ readonly type: 'live', readonly run: number } & LiveAt)
  | { readonly type: 'record', readonly run: number, readonly record: RunRecord }
  | { readonly type: 'kept', readonly run: number, readonly file: Uint8Array<ArrayBuffer> }
  /** A kept run was run again beside the page: whether it is the same to the bit, else in what it first differs. */
  | { readonly type: 'replayed', readonly run: number, readonly same: boolean, readonly says: string }
  | Failed
  | Rows

/** How the real devices at the other end of a wire stand. */
export interface LinkState {
  readonly stage: Stage | 'lost'
  /** What the board calls itself; '' until it said so. */
  readonly board: string
  /** Why it is lost; null while it is not. */
  readonly why: string | null
  /** Devices that have not looked yet. */
  readonly waiting: readonly string[]
  readonly real: readonly string[]
  /** Milliseconds to the board and back; null while that is not known. */
  readonly roundTrip: RoundTrip | null
  /** Volts by port, where something is connected by a voltage. */
  readonly volts: Readonly<Record<string, number>>
  /** How often the board began anew, and how many ticks of the run came late. */
  readonly restarts: number
  readonly late: number
  /** What has all of it stand, whoever says it; null until that is known. */
  readonly lastWords: Uint8Array | null
}

/** What was behind a tick: what was true, what moved each motor, and where each memory got its value. */
export interface Behind {
  readonly tick: number
  readonly known: readonly KnownReading[]
  readonly moving: readonly Doing[]
  readonly set: readonly (Doing & { readonly tick: number })[]
}

/** A bug: something was asked and could not be done. The worker is of no more use. */
export interface Failed {
  readonly type: 'failed'
  /** null when it is not known of which run. */
  readonly run: number | null
  /** What was being done, to stand after "while". */
  readonly doing: string
  readonly message: string
}

/** What happened since the last message: whole rows of the tape, transferred. */
export interface Rows {
  readonly type: 'rows'
  readonly run: number
  readonly from: number
  /** Of a kept run, blocks of rows as its tape has them, before `rows`. */
  readonly blocks: readonly Uint8Array[]
  readonly rows: Float64Array
  /** What real devices read since the last message, row by row; empty where none are. */
  readonly heard: Float64Array
  readonly events: readonly TapeEvent[]
  readonly goals: readonly GoalState[]
  readonly end: RunEnd | null
  /** Fingerprint of the whole tape, once the run is over. */
  readonly hash: string | null
  readonly running: boolean
  /** When it got nowhere for a time, as far as it has come; null while it runs: nobody has looked. */
  readonly stuck: readonly Stuck[] | null
  /** What conditions are worth in the newest tick, a few times a second; null in between. */
  readonly live: LiveAt | null
  /** New pictures of cameras. */
  readonly pictures: readonly CameraPicture[]
}

/** What the parts of every condition are worth in a tick, by where the condition begins in the program. */
export interface LiveAt { readonly tick: number, readonly parts: readonly (readonly [number, readonly LivePart[]])[] }

/** What a camera saw last, and what was recognised on it. */
export interface CameraPicture {
  readonly name: string
  readonly width: number
  readonly height: number
  readonly pixels: Uint8ClampedArray<ArrayBuffer>
  readonly marks: readonly PictureMark[]
}

/** What the page must know of a run to show it. */
export interface Opened {
  readonly layout: TapeLayout
  readonly facts: RobotFacts
  readonly arena: Arena
  readonly placed: Layout
  readonly goals: readonly string[]
  readonly limit: number
  /** The robot's parts that move against its chassis, in the order of the tape. */
  readonly parts: readonly { readonly shape: SolidShape, readonly device: string | null }[]
  /** How things stand before the first tick. */
  readonly first: Float64Array
  readonly program: ProgramMap | null
  /** What the run was opened with. */
  readonly inputs: RunInputs
  /** Of a run that goes on from another: after how many of its ticks, and what of the program's state went on and what begins anew; else null. */
  readonly from: { readonly ticks: number, readonly carried: readonly Carried[] } | null
  /** What is known of a kept run that is looked at; null for one that happens now. */
  readonly kept: { readonly seed: number, readonly realism: RunRealism, readonly older: boolean } | null
}

export interface DialView {
  readonly name: string
  readonly value: number
  readonly from: number
  readonly to: number
  readonly unit: string | null
  /** How many SI units one of the unit is. */
  readonly scale: number
  /** Place of the written value in the text. */
  readonly at: { readonly from: number, readonly to: number }
}

/** What page and language worker tell one another. */
export interface CheckRequest { readonly id: number, readonly text: string, readonly robot: unknown, readonly asked: Asked }
export interface CheckAnswer {
  readonly id: number
  readonly diagnostics: readonly Diagnostic[]
  readonly runs: boolean
  readonly dials: readonly DialView[]
  /** Why there is no answer; null when there is one. */
  readonly failure: string | null
}
