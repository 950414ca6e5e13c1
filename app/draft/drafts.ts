import { mixed, number, object, string } from 'yup'

/**
 * Work that no revision holds yet, kept in this browser until one does: over a reload, a closed tab, a server that is away.
 * Each tab has its own; one that a closed tab left is taken up by the next that opens the project.
 */

/** The documents of a project beside its program. */
export const DOCUMENT_PARTS = ['robot', 'arena', 'task'] as const
export type DocumentPart = (typeof DOCUMENT_PARTS)[number]

/** What was written in a project, on top of which revision. Left out: as in that revision. */
export interface Unsaved extends Partial<Readonly<Record<DocumentPart, unknown>>> {
  readonly base: number
  readonly program?: string
  /** Documents being built that cannot exist yet. */
  readonly building?: Building
}
export type Building = Readonly<Partial<Record<DocumentPart, unknown>>>

const PREFIX = 'mindpath.unsaved'
const TAB = 'mindpath.tab'
/** How long a page that was reloaded may take to let go of its tab's name, and how often that is asked, milliseconds. */
const RELOAD = 1000
const RETRY = 50
const PARTS = ['base', 'program', ...DOCUMENT_PARTS, 'building'] as const
type Part = (typeof PARTS)[number]

const baseSchema = object({ base: number().integer().min(1).required(), at: number().required() }).noUnknown().strict()
const buildingSchema = object({ robot: mixed(), arena: mixed(), task: mixed() }).noUnknown().strict()
const programSchema = string().defined().strict().max(2_000_000)

/** The name of this tab: a tab that was reloaded has the one that it had, a duplicated one its own. */
const tab: Promise<string> = name()

async function name(): Promise<string> {
  const mine = (): string => {
    try {
      return sessionStorage.getItem(TAB) ?? ''
    } catch {
      return ''
    }
  }
  const before = mine()
  let id = before || crypto.randomUUID()
  // After a reload the page that was here lets go of the name a moment later.
  if (!await hold(id, before === '' ? 0 : RELOAD)) {
    id = crypto.randomUUID()
    await hold(id, 0)
  }
  try {
    sessionStorage.setItem(TAB, id)
  } catch { /* Then a reload is a new tab, and takes up what this one left. */ }
  return id
}

/** Holds a tab's name as long as the tab lives; false when another has it still after `patience` ms. Where the browser cannot, all names are free. */
async function hold(id: string, patience: number): Promise<boolean> {
  if (globalThis.navigator?.locks === undefined) return true
  for (let waited = 0; ; waited += RETRY) {
    if (await tryHold(id)) return true
    if (waited >= patience) return false
    await new Promise(r => setTimeout(r, RETRY))
  }
}

function tryHold(id: string): Promise<boolean> {
  return new Promise((resolve) => {
    void navigator.locks.request(`${TAB}.${id}`, { ifAvailable: true }, (lock) => {
      resolve(lock !== null)
      return lock === null ? undefined : new Promise(() => undefined)
    })
  })
}

async function alive(): Promise<ReadonlySet<string>> {
  const held = globalThis.navigator?.locks === undefined ? [] : (await navigator.locks.query()).held ?? []
  return new Set(held.map(l => (l.name ?? '').slice(TAB.length + 1)))
}

let known = ''
void tab.then((id) => { known = id })

const keyOf = (project: string, of: string, part: Part): string => `${PREFIX}.${project}.${of}.${part}`

/** Keeps parts of what is unsaved; one that is undefined is forgotten, one that is not named stays. False when the browser has no room for it, or keeps nothing at all. */
export function keepUnsaved(project: string, parts: Readonly<Partial<Record<Exclude<Part, 'base'>, unknown>>> & { readonly base: number }): boolean {
  if (known === '') return false
  try {
    for (const [part, value] of Object.entries(parts) as [Part, unknown][]) {
      const key = keyOf(project, known, part)
      if (value === undefined) localStorage.removeItem(key)
      else localStorage.setItem(key, JSON.stringify(part === 'base' ? { base: value, at: Date.now() } : value))
    }
    return true
  } catch {
    return false
  }
}

/** Forgets what this tab kept of a project: a revision holds it now. */
export function dropUnsaved(project: string, of: string = known): void {
  try {
    for (const part of PARTS) localStorage.removeItem(keyOf(project, of, part))
  } catch { /* Nothing was kept then. */ }
}

/** What this tab kept of a project, else the newest that a closed tab left; null when there is nothing. It is this tab's from now on. */
export async function takeUnsaved(project: string): Promise<Unsaved | null> {
  const mine = await tab
  let tabs: { readonly of: string, readonly at: number }[] = []
  try {
    const start = `${PREFIX}.${project}.`
    tabs = Array.from({ length: localStorage.length }, (_, i) => localStorage.key(i) ?? '')
      .filter(k => k.startsWith(start) && k.endsWith('.base'))
      .map(k => ({ of: k.slice(start.length, -'.base'.length), at: read(k, baseSchema)?.at ?? 0 }))
  } catch {
    return null
  }
  const others = await alive()
  const found = tabs.find(t => t.of === mine) ?? tabs.filter(t => !others.has(t.of)).sort((a, b) => b.at - a.at)[0]
  if (found === undefined) return null
  const base = read(keyOf(project, found.of, 'base'), baseSchema)?.base
  if (base === undefined) { dropUnsaved(project, found.of); return null }
  const program = read(keyOf(project, found.of, 'program'), programSchema)
  const building = read(keyOf(project, found.of, 'building'), buildingSchema)
  const documents = Object.fromEntries(DOCUMENT_PARTS.map(part => [part, readAny(keyOf(project, found.of, part))]).filter(([, value]) => value !== undefined))
  const unsaved: Unsaved = { base, ...(program === null ? {} : { program }), ...documents, ...(building === null ? {} : { building }) }
  if (found.of !== mine && keepUnsaved(project, unsaved)) dropUnsaved(project, found.of)
  return unsaved
}

/** undefined where nothing is kept, or nothing that can be read. */
function readAny(key: string): unknown {
  const text = localStorage.getItem(key)
  if (text === null) return undefined
  try {
    return JSON.parse(text) as unknown
  } catch {
    return undefined
  }
}

function read<T>(key: string, schema: { validateSync(value: unknown): T }): T | null {
  try {
    return schema.validateSync(readAny(key))
  } catch {
    return null
  }
}
