import { ref, shallowRef, type Ref, type ShallowRef } from 'vue'
import type { Schema } from 'yup'
import { readDocument, type Problem, type Read } from '~~/core/document'
import type { DocumentPart } from './drafts'
import { useProjectStore } from './project'

/** How many changes can be undone. */
const UNDO = 200

/** A document of the project while it is being written: any JSON of its shape, with what is wrong with it and what can be undone. */
export interface DocumentDraft<D extends object, T> {
  readonly draft: ShallowRef<D>
  /** What is wrong with it, by path; the last that could exist stays in the project meanwhile. */
  readonly problems: ShallowRef<readonly Problem[]>
  /** The last that could exist; null when none could yet. */
  readonly value: ShallowRef<T | null>
  readonly depth: Ref<{ readonly past: number, readonly future: number }>
  /** Takes up the project's document. True when it is another than the one that was being written; else that goes on, with its undo. */
  load(): boolean
  /** Changes it as one step of undo; changes under the same name in a row are one step. True when it is a step of its own. */
  change(what: string, act: (draft: D) => void): boolean
  /** Reads it again: what another document says of it may have changed. */
  reread(): void
  undo(): void
  redo(): void
  /** Takes a whole document. null when it was taken; else why it cannot even be shown. */
  replace(value: unknown): string | null
}

/** The draft of one of the project's documents. `read` says whether it can exist, `shape` whether it can be shown at all: null, or why not. */
export function documentDraft<D extends object, T>(part: DocumentPart, read: (value: unknown) => Read<T>, shape: (value: unknown) => string | null): DocumentDraft<D, T> {
  const project = useProjectStore()
  const draft = shallowRef({} as D) as ShallowRef<D>
  const problems = shallowRef<readonly Problem[]>([])
  const value = shallowRef<T | null>(null) as ShallowRef<T | null>
  const depth = ref({ past: 0, future: 0 })
  const past: D[] = []
  const future: D[] = []
  /** What the newest step of undo was called. */
  let kept = ''
  /** Whose document the draft is, and the one that the project had when it was read. */
  let of = ''
  let from: unknown = null

  function load(): boolean {
    const id = project.data?.id ?? ''
    const now = project.data?.[part]
    // The project may have been fetched anew meanwhile: the same document goes on, with its undo.
    if (of === id && (from === now || JSON.stringify(from) === JSON.stringify(now))) { from = now; return false }
    of = id
    from = project.data?.[part]
    const building = project.building[part]
    draft.value = plain(building !== undefined && shape(building) === null ? building : project.data?.[part] ?? {}) as D
    kept = ''
    past.length = 0
    future.length = 0
    settle(false)
    return true
  }

  /** Reads the draft; one that can exist goes into the project. */
  function settle(save = true): void {
    const result = read(draft.value)
    problems.value = result.ok ? [] : result.problems
    if (result.ok) {
      value.value = result.value
      if (save) {
        // A document of nothing is none.
        const written = Object.keys(draft.value).length === 0 ? null : draft.value
        project.editDocument(part, written)
        from = written
      }
    } else if (save) project.keepBuilding(part, draft.value)
    depth.value = { past: past.length, future: future.length }
  }

  function change(what: string, act: (draft: D) => void): boolean {
    const next = plain(draft.value) as D
    act(next)
    if (JSON.stringify(next) === JSON.stringify(draft.value)) return false
    const begins = what !== kept || what === ''
    if (begins) {
      past.push(draft.value)
      if (past.length > UNDO) past.shift()
    }
    kept = what
    future.length = 0
    draft.value = next
    settle()
    return begins
  }

  function step(back: D[], forth: D[]): void {
    const other = back.pop()
    if (other === undefined) return
    forth.push(draft.value)
    draft.value = other
    kept = ''
    settle()
  }

  function replace(document: unknown): string | null {
    const wrong = shape(document)
    if (wrong !== null) return wrong
    change('', (d) => {
      for (const key of Object.keys(d)) delete (d as Record<string, unknown>)[key]
      Object.assign(d, document)
    })
    return null
  }

  /** What could not be for another document's sake, and now can, goes into the project. */
  function reread(): void {
    const written = Object.keys(draft.value).length === 0 ? null : draft.value
    settle(JSON.stringify(written) !== JSON.stringify(from ?? null))
  }

  return { draft, problems, value, depth, load, change, reread, undo: () => step(past, future), redo: () => step(future, past), replace }
}

/** What keeps a document from being shown at all by the least that its view needs, with place and value; null when nothing does. */
export function misshapen(schema: Schema, value: unknown): string | null {
  const read = readDocument(schema, value)
  return read.ok ? null : read.problems.slice(0, 3).map(p => `${p.path}: found ${p.value}; ${p.message}`).join('; ')
}

/** A copy of JSON that shares nothing. */
export function plain(value: unknown): unknown { return JSON.parse(JSON.stringify(value)) }
