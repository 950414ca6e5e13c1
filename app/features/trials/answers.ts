import type { Answers, Drawn, PlanProgram, Result, Spoken, TrialPlan } from '~~/core/trials'

/** What page and summing worker tell one another. `ask` numbers the plan that is looked at: answers about another are dropped. */
export type ToAnswers =
  | { readonly type: 'program', readonly ask: number, readonly text: string, readonly robot: unknown, readonly arena: unknown, readonly task: unknown }
  | { readonly type: 'open', readonly ask: number, readonly plan: string }
  | { readonly type: 'more', readonly ask: number }
  | { readonly type: 'csv', readonly ask: number }
export type FromAnswers =
  | { readonly type: 'dials', readonly ask: number, readonly text: string, readonly dials: readonly DialChoice[], readonly movable: readonly Movable[], readonly limit: number }
  | { readonly type: 'answers', readonly ask: number, readonly summary: Summary }
  | { readonly type: 'csv', readonly ask: number, readonly pieces: readonly string[] }
  | { readonly type: 'failed', readonly ask: number, readonly message: string }

/** A dial of the program as it stands: as it is written and where, and between what it may be. */
export interface DialChoice { readonly name: string, readonly own: string, readonly from: string, readonly to: string, readonly at: { readonly from: number, readonly to: number } }

/** A thing of the arena that may stand elsewhere, and whether it turns. */
export interface Movable { readonly name: string, readonly turns: boolean }

/** A plan, what it says so far, and its runs. */
export interface Summary {
  readonly plan: TrialPlan
  readonly programs: readonly PlanProgram[]
  readonly goals: readonly string[]
  readonly answers: Answers
  readonly spoken: Spoken
  readonly sensitivitySaid: readonly string[]
  /** Of every result, in the order of the answers: the values of its dials as programs write them, and how long runs took that met their goals, ascending, seconds: of very many so many of them, evenly; and whether it cannot be told from the best setting. */
  readonly cells: readonly { readonly dials: readonly string[], readonly took: readonly number[], readonly best: boolean }[]
  /** The first of them, where there are very many; how many there are. */
  readonly rows: readonly TrialRow[]
  readonly runs: number
  /** null for a plan that tries all that it says. */
  readonly search: SearchSaid | null
}

/** What a search says. */
export interface SearchSaid {
  /** What was told on the way, the last thing last. */
  readonly told: readonly string[]
  /** What it came to; nothing while it is under way. */
  readonly said: readonly string[]
  /** Values that were found, as programs write them; null where none were looked for, or not yet. */
  readonly values: readonly { readonly name: string, readonly text: string }[] | null
  /** Whether those are better than the program's own. */
  readonly better: boolean
  /** How what was found, and what the text has, did on fresh seeds. */
  readonly judged: readonly { readonly name: string, readonly said: string, readonly share: Result['share'] }[]
  /** The run that fails, when that was decided (seconds), by what its world differs, that world as an arena of its own, and what no arena can say of it; null where none was found. */
  readonly fails: { readonly number: number, readonly at: number, readonly world: Drawn, readonly arena: object, readonly besides: string } | null
}

/** A run as the table shows it. */
export interface TrialRow {
  readonly number: number
  readonly program: string
  readonly realism: string
  readonly seed: number
  readonly dials: string
  /** How its world differs from the arena; '' where it does not. */
  readonly world: string
  readonly met: boolean
  /** How it ended, or why it could not be run. */
  readonly ended: string
  readonly time: number
  readonly took: number | null
  readonly path: number
  readonly contacts: number
  /** When it was decided that it would not meet its goals, seconds; null where it met them. */
  readonly lost: number | null
}

/** How a result is called: `rev. 3, rough, near 12 cm`. */
export const resultName = ({ program, where }: Pick<Spoken['results'][number], 'program' | 'where'>): string => `${program}${where === '' ? '' : `, ${where}`}`
/** How what one program came to in one realism is called, by what there is more than one of. */
export const groupName = ({ programs, plan }: Summary, program: string, realism: string): string => [programs.length > 1 ? program : '', plan.realisms.length > 1 ? realism : ''].filter(w => w !== '').join(', ')

/** How each program is drawn: told apart by its sign and its dash, whatever one sees of colours. */
export const MARKS = [
  { color: 'device-0', point: 'circle', dash: [] },
  { color: 'device-7', point: 'rect', dash: [7, 4] },
  { color: 'device-3', point: 'triangle', dash: [2, 3] },
  { color: 'device-2', point: 'rectRot', dash: [10, 3, 2, 3] },
  { color: 'device-6', point: 'crossRot', dash: [14, 5] },
  { color: 'device-4', point: 'star', dash: [5, 2, 1, 2] },
] as const
export const markOf = (i: number): (typeof MARKS)[number] => MARKS[i % MARKS.length]!
