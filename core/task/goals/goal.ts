import type { ObjectSchema } from 'yup'
import { quantity, text, type ReadBy, type Reads } from '../../document'
import type { Arena } from '../../arena'
import type { BodyState, Solid } from '../../geometry'

/** What goals can see of a run. SI units. */
export interface GoalWorld {
  /** Seconds since the run began. */
  readonly time: number
  readonly body: BodyState
  /** The robot's chassis as a solid. */
  readonly hull: Solid
  /** Pieces by name, with their kind. */
  readonly pieces: readonly { readonly name: string, readonly kind: string, readonly solid: Solid }[]
  /** Who walks about, where they are now. */
  readonly visitors: readonly { readonly name: string, readonly kind: string, readonly solid: Solid }[]
  /** Contacts of the robot that began in this tick. */
  readonly touched: readonly { readonly name: string, readonly kind: string }[]
  readonly fell: boolean
  /** Whether the program ended the run itself. */
  readonly finished: boolean
  /** Metres that the robot's centre has moved in all. */
  readonly path: number
  readonly arena: Arena
  /** How light it is all about, 1 is bright daylight indoors. */
  readonly light: number
  /** Whether the robot's device of that name is at work: a joint or claw moves, a motor turns, a horn sounds, a lamp shines, a magnet is on. */
  acts(device: string): boolean
  /** Whether the robot holds the piece of that name. */
  holds(piece: string): boolean
  /** Whether a point on the plan is over a deck. */
  onDeck(x: number, y: number): boolean
  /** All that stands about and is not the robot: walls, crates, pieces, who walks. */
  readonly others: readonly Solid[]
}

/** How nearly a goal is met or lost: a number that is above zero as far as it is met, and below as far as it is not. */
export interface Margin<P extends object> {
  /** Of all instants the least counts, where something must never happen; the best, where it must be so once; or the last, where it must be so at the end. */
  counts(parameters: P): 'least' | 'best' | 'last'
  /** Metres, seconds, or how many of something. */
  readonly unit: 'm' | 's' | 'pieces' | 'times'
  /** So much is much: margins of several goals are weighed by it. In its unit. */
  much(parameters: P): number
  /** At an instant; null where that says nothing. */
  now(parameters: P, state: GoalState, world: GoalWorld): number | null
}

/** `open` may still be met or fail; `held` is met as long as nothing breaks it. */
export type GoalStatus = 'open' | 'held' | 'met' | 'failed'

/** A goal in one run: plain data between ticks. */
export interface GoalState {
  status: GoalStatus
  /** Seconds at which it was met or failed; null before. */
  at: number | null
  /** What it counts, for the panel: "4 of 6"; empty when it counts nothing. */
  progress: string
  /** Numbers of its own. */
  memo: number[]
}

/** A kind of goal by its schema, which says what its parameters are. The list of kinds knows them as goals of any parameters. */
export function defineGoal<S extends Reads<unknown>>(kind: Omit<GoalKind<Extract<ReadBy<S>, object>>, 'schema'> & { readonly schema: S }): GoalKind {
  return kind as unknown as GoalKind
}

/** A kind of goal. A new one is a file and a line in the list. */
export interface GoalKind<P extends object = object> {
  readonly goal: string
  /** What it asks, in a few words, for the list that one is chosen from. */
  readonly summary: string
  /** What a new one begins with, as documents write it, beside the things and places that it names. */
  readonly example?: Readonly<Record<string, string>>
  readonly schema: ObjectSchema<P>
  /** As a person says it, with units. */
  sentence(parameters: P): string
  /** Pieces or kinds that it names, to be checked against the arena. */
  about(parameters: P): readonly string[]
  /** Areas, crates or painted colours that it names. */
  places?(parameters: P): readonly string[]
  /** Devices of the robot that it names. */
  devices?(parameters: P): readonly string[]
  /** Painted lines that it names. */
  lines?(parameters: P): readonly string[]
  begin(parameters: P): GoalState
  /** Once a tick, after everything moved. */
  update(parameters: P, state: GoalState, world: GoalWorld): void
  /** How nearly it is met or lost, for who looks for where it fails; left out where only met or not can be told. */
  readonly margin?: Margin<P>
}

/** How a goal about a state of things counts: it need be so once, for a time without a break, or when the run ends. */
export const COUNTS = ['once', 'held', 'at the end'] as const
export type Counts = (typeof COUNTS)[number]

/** The fields of such a goal. */
export const countsFields = (counts: Counts | undefined, hold: number) => ({
  counts: text().oneOf([...COUNTS], `allowed is ${COUNTS.join(', ')}`).default(counts),
  hold: quantity('time', { min: 0, max: 600 }).default(hold),
})

/** What such a goal's parameters say of it; where they do not say, a time to hold makes it one that is held. */
export interface Counting { readonly counts?: Counts, readonly hold: number }

const countsOf = (p: Counting): Counts => p.counts ?? (p.hold > 0 ? 'held' : 'once')

/** How it counts, as the end of a sentence. */
export function countsWords(p: Counting): string {
  const counts = countsOf(p)
  return counts === 'once' ? ', once' : counts === 'at the end' ? ', at the end' : `, for ${p.hold} s`
}

/** So many of a kind, or every one of it: kinds are people's own words, which take no other form here. */
export const manyOf = (count: number | undefined, kind: string): string => count === undefined ? `every ${kind}` : `${count} × ${kind}`

/** Takes note whether things are so in this tick; `memo[0]` holds since when they are. */
export function count(state: GoalState, p: Counting, so: boolean, time: number): void {
  const counts = countsOf(p)
  if (state.status === 'met' || state.status === 'failed') return
  if (counts === 'at the end') { state.status = so ? 'held' : 'open'; return }
  if (!so) { state.memo[0] = -1; return }
  if (state.memo[0]! < 0) state.memo[0] = time
  if (counts === 'once' || time - state.memo[0]! >= p.hold - 1e-9) settle(state, 'met', time)
}

/** Which instant of such a goal's margin counts. */
export const marginCounts = (p: Counting): 'best' | 'last' => countsOf(p) === 'at the end' ? 'last' : 'best'

export const openGoal = (): GoalState => ({ status: 'open', at: null, progress: '', memo: [] })
export const heldGoal = (): GoalState => ({ status: 'held', at: null, progress: '', memo: [] })

/** What tallies say, by how many of how many: goals say it in every tick, and it seldom changes. */
const TALLIES = new Map<number, string>()
const MOST = 10_000

/** "4 of 6". */
export function tally(count: number, of: number): string {
  const key = count * MOST + of
  let said = TALLIES.get(key)
  if (said === undefined) TALLIES.set(key, said = `${count} of ${of}`)
  return said
}

/** Settles a goal, once. */
export function settle(state: GoalState, status: 'met' | 'failed', time: number): void {
  if (state.status === 'met' || state.status === 'failed') return
  state.status = status
  state.at = time
}

/**
 * Smallest distance between two convex solids, metres; 0 when they touch. Alternating
 * projections (von Neumann, 1933): each point moves to the other's nearest until both rest.
 */
export function gapBetween(a: Solid, b: Solid): number {
  let p = { x: a.px, y: a.py, z: a.pz }
  let gap = Infinity
  for (let i = 0; i < 40; i++) {
    const q = b.nearest(p.x, p.y, p.z)
    p = a.nearest(q.x, q.y, q.z)
    const d = Math.sqrt((p.x - q.x) * (p.x - q.x) + (p.y - q.y) * (p.y - q.y) + (p.z - q.z) * (p.z - q.z))
    if (gap - d < 1e-7) return Math.min(gap, d)
    gap = d
  }
  return gap
}
