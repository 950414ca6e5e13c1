import { $fetch, type FetchError } from 'ofetch'
import type { RunOutline } from '~~/core/runs'
import type { TravellingProject } from '~~/core/simulation'
import type { PlanProgram, PlanRow, Trial, TrialBasis, TrialProgress } from '~~/core/trials'

/** The server as the page sees it. The only place that fetches. */

export interface ProjectData {
  readonly id: string
  readonly title: string
  readonly changedAt: string
  readonly revision: number
  readonly program: string
  readonly ranProgram: string | null
  readonly robot: unknown
  readonly arena: unknown
  readonly task: unknown
}

/** A project in the list. */
export interface ListedProject {
  readonly id: string
  readonly title: string
  readonly changedAt: string
  readonly revision: number
  /** Id of its arena's document. */
  readonly arena: string
  readonly robotName: string
  readonly arenaName: string
  /** One of its documents is damaged. */
  readonly broken: boolean
}

/** A kept document that a new project may begin with. */
export interface OfferedDocument {
  readonly document: string
  readonly name: string
  readonly about: string
  /** Title of a project that has it, and the document of that project's arena; null for a robot that none has. */
  readonly project: string | null
  readonly arena: string | null
}
export interface Offers { readonly robots: readonly OfferedDocument[], readonly arenas: readonly OfferedDocument[], readonly tasks: readonly OfferedDocument[] }

/** What is kept for any project to take. */
export type Shelved = 'robot' | 'arena' | 'task'

/** What a project may take: what is kept for it, and what other projects have. */
export interface Shelf {
  readonly kept: readonly { readonly id: string, readonly document: string, readonly value: unknown }[]
  readonly used: readonly { readonly project: string, readonly document: string, readonly name: string }[]
}

/** A revision in the list of them. */
export interface ListedRevision { readonly number: number, readonly at: string, readonly length: number, readonly ran: boolean, readonly marked: boolean, readonly changed: readonly ('robot' | 'arena' | 'task')[] }

/** A run that is kept, in the list of them. */
export interface KeptRunRow {
  readonly id: string
  readonly revision: number | null
  readonly name: string
  readonly starred: boolean
  readonly origin: string | null
  /** After how many ticks of another it went on; null for one from the start. */
  readonly originTicks: number | null
  readonly seed: number
  readonly realism: string
  readonly engine: number
  readonly ticks: number
  readonly fingerprint: string
  readonly outline: RunOutline
  readonly bytes: number
  readonly at: string
}
/** The runs of a project, the newest first; what all runs take, bytes, and how many megabytes they may. */
export interface RunList { readonly runs: readonly KeptRunRow[], readonly bytes: number, readonly budget: number }

/** The wires to boards of the machine that serves the page; why serial ports are not among them, null where they are. */
export interface Wires { readonly wires: readonly { readonly address: string, readonly title: string }[], readonly without: string | null }

/** A trial plan in the list of them; how far it has come while it is under way. */
export interface ListedPlan extends PlanRow { readonly progress: TrialProgress | null }
/** The plans of a project, the newest first; threads that do them, and simulated seconds that they do a second (null: not known yet); why nothing can be done at present (null while all is well). */
export interface PlanList { readonly plans: readonly ListedPlan[], readonly threads: number, readonly pace: number | null, readonly trouble: string | null }

/** An answer, or why there is none: `status` 0 when the server could not be reached. */
export type Answer<T> =
  | { readonly ok: true, readonly value: T }
  | { readonly ok: false, readonly status: number, readonly message: string, readonly data: unknown }

async function call<T>(method: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE', path: string, body?: object, more: { readonly query?: object, readonly responseType?: 'arrayBuffer' } = {}): Promise<Answer<T>> {
  try {
    // Whoever asks decides about asking again: a save must not be sent twice by itself.
    return { ok: true, value: await $fetch<T>(path, { method, retry: 0, ...more, ...body === undefined ? {} : { body }, ...body instanceof Uint8Array ? { headers: { 'content-type': 'application/octet-stream' } } : {} } as object) as T }
  } catch (error) {
    const { statusCode, data } = error as FetchError<{ message?: string, data?: unknown }>
    if (statusCode === undefined) return { ok: false, status: 0, message: 'the server cannot be reached', data: null }
    return { ok: false, status: statusCode, message: data?.message ?? `the server answered ${statusCode}`, data: data?.data }
  }
}

export const api = {
  status: () => call<{ up: boolean, damaged: string | null, notice: string | null }>('GET', '/api/status'),
  wires: () => call<Wires>('GET', '/api/wires'),
  projects: () => call<readonly ListedProject[]>('GET', '/api/projects'),
  /** A kept document by its id; it never changes. */
  document: (id: string) => call<{ document: unknown }>('GET', `/api/documents/${id}`),
  shelf: (kind: Shelved) => call<Shelf>('GET', `/api/shelf/${kind}`),
  keep: (kind: Shelved, value: unknown) => call<{ id: string }>('POST', `/api/shelf/${kind}`, { value }),
  unkeep: (kind: Shelved, id: string) => call<unknown>('DELETE', `/api/shelf/${kind}/${id}`),
  restoreKept: (kind: Shelved, id: string) => call<unknown>('POST', `/api/shelf/${kind}/${id}/restore`, {}),
  project: (id: string) => call<ProjectData>('GET', `/api/projects/${id}`),
  duplicate: (from: string) => call<{ id: string }>('POST', '/api/projects', { from }),
  offers: () => call<Offers>('GET', '/api/offers'),
  create: (title: string, start?: { readonly robot: string, readonly arena: string, readonly task: string | null }) => call<{ id: string }>('POST', '/api/projects', { title, ...start === undefined ? {} : { start } }),
  /** A project that came from elsewhere. */
  receive: (project: TravellingProject) => call<{ id: string }>('POST', '/api/projects', { project }),
  rename: (id: string, title: string) => call<{ title: string }>('PATCH', `/api/projects/${id}`, { title }),
  remove: (id: string) => call<unknown>('DELETE', `/api/projects/${id}`),
  restore: (id: string) => call<unknown>('POST', `/api/projects/${id}/restore`, {}),
  /** A revision on top of another: a program, and the documents that are others now. */
  save: (id: string, base: number, program: string, documents: Readonly<Partial<Record<'robot' | 'arena' | 'task', unknown>>>) =>
    call<{ revision: number, changedAt: string }>('POST', `/api/projects/${id}/revisions`, { base, program, ...documents }),
  /** What is kept of a project, the newest first. */
  revisions: (id: string) => call<readonly ListedRevision[]>('GET', `/api/projects/${id}/revisions`),
  revision: (id: string, number: number) => call<Pick<ProjectData, 'program' | 'robot' | 'arena' | 'task'>>('GET', `/api/projects/${id}/revisions/${number}`),
  markRevision: (id: string, number: number, marked: boolean) => call<unknown>('PATCH', `/api/projects/${id}/revisions/${number}`, { marked }),
  /** Keeps a run's file. */
  keepRun: (id: string, file: Uint8Array<ArrayBuffer>, revision: number | null, origin: string | null) => call<{ id: string }>('POST', `/api/projects/${id}/runs`, file, { query: { ...revision === null ? {} : { revision }, ...origin === null ? {} : { origin } } }),
  /** Tells of a run that is under way, for when the page is closed: `leaveRun` names it then. `more`: it came since the run was told of under that name. */
  beginRun: (id: string, record: object, more: string | null) => call<{ id: string }>('POST', `/api/projects/${id}/runs/begun`, { record, more }),
  /**
   * Tells of a run while the page is being closed: the server runs it again. Nobody waits for the answer; false where it is larger than a
   * browser sends then, 64 kB in all. A beacon, as it is on its way when this returns: what `$fetch` begins a moment later may be lost with the page.
   */
  leaveRun: (id: string, left: object): boolean => navigator.sendBeacon(`/api/projects/${id}/runs/left`, new Blob([JSON.stringify(left)], { type: 'application/json' })),
  runs: (id: string) => call<RunList>('GET', `/api/projects/${id}/runs`),
  runFile: (id: string) => call<ArrayBuffer>('GET', `/api/runs/${id}`, undefined, { responseType: 'arrayBuffer' }),
  changeRun: (id: string, change: { readonly name?: string, readonly starred?: boolean }) => call<unknown>('PATCH', `/api/runs/${id}`, change),
  removeRun: (id: string) => call<unknown>('DELETE', `/api/runs/${id}`),
  restoreRun: (id: string) => call<unknown>('POST', `/api/runs/${id}/restore`, {}),
  plans: (id: string) => call<PlanList>('GET', `/api/projects/${id}/trials`),
  /** Has a plan tried, with the project's robot, arena and task as they are saved. */
  addPlan: (id: string, plan: object, programs: readonly PlanProgram[]) => call<{ id: string, total: number }>('POST', `/api/projects/${id}/trials`, { plan, programs }),
  /** What happens with a project's plans, as it happens: `{ id, progress }` a message, progress null where a state changed. */
  planEvents: (id: string) => new EventSource(`/api/projects/${id}/trials/events`),
  /** A plan with all that its runs are made of. */
  plan: (id: string) => call<{ basis: TrialBasis, programs: readonly PlanProgram[], goals: readonly string[] }>('GET', `/api/trials/${id}`),
  /** What came of a plan's runs after a mark, 0 for the first; and the mark after those. */
  trials: (id: string, after: number) => call<{ mark: number, answers: readonly { readonly number: number, readonly answer: Trial | string }[] }>('GET', `/api/trials/${id}/runs`, undefined, { query: { after } }),
  cancelPlan: (id: string) => call<{ cancelled: boolean }>('POST', `/api/trials/${id}/cancel`),
  removePlan: (id: string) => call<unknown>('DELETE', `/api/trials/${id}`),
  restorePlan: (id: string) => call<unknown>('POST', `/api/trials/${id}/restore`),
  /** A run of a plan again, with its tape: the file of a kept run. */
  trialFile: (id: string, number: number) => call<ArrayBuffer>('GET', `/api/trials/${id}/runs/${number}`, undefined, { responseType: 'arrayBuffer' }),
  setRunBudget: (megabytes: number) => call<unknown>('PUT', '/api/runs/budget', { megabytes }),
  ran: (id: string, revision: number) => call<unknown>('POST', `/api/projects/${id}/ran`, { revision }),
}
