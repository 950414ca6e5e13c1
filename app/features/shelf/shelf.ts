import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { api, type Answer, type Shelf, type Shelved } from '~/utils/api'

/** What a project may take of a kind: what was kept, and what other projects have. */
const shelfOf = (kind: Shelved) => defineStore(`shelf ${kind}`, () => {
  const shelf = shallowRef<Shelf>({ kept: [], used: [] })
  const trouble = ref<string | null>(null)
  /** The one put away last, for undo. */
  const deleted = shallowRef<{ readonly id: string, readonly name: string } | null>(null)

  async function load(): Promise<void> {
    const answer = await api.shelf(kind)
    trouble.value = answer.ok ? null : answer.message
    if (answer.ok) shelf.value = answer.value
  }

  async function after(answer: Answer<unknown>): Promise<boolean> {
    if (answer.ok) await load()
    else trouble.value = answer.message
    return answer.ok
  }

  /** A document by its id; null when it cannot be had. */
  async function fetch(document: string): Promise<unknown> {
    const answer = await api.document(document)
    trouble.value = answer.ok ? null : answer.message
    return answer.ok ? answer.value.document : null
  }

  /** Keeps a copy of a document that can exist. */
  async function keep(value: unknown): Promise<void> { await after(await api.keep(kind, value)) }

  async function remove(id: string): Promise<void> {
    const found = shelf.value.kept.find(k => k.id === id)
    if (found !== undefined && await after(await api.unkeep(kind, id))) deleted.value = { id, name: shownName(found.value) }
  }

  async function undo(): Promise<void> {
    if (deleted.value !== null && await after(await api.restoreKept(kind, deleted.value.id))) deleted.value = null
  }

  return { shelf, trouble, deleted, load, fetch, keep, remove, undo }
})
const STORES = { robot: shelfOf('robot'), arena: shelfOf('arena'), task: shelfOf('task') }
export const useShelf = (kind: Shelved) => STORES[kind]()

interface Named { readonly name?: unknown, readonly title?: unknown }
/** What people call a document: its title, else its name. */
export function shownName(value: unknown): string {
  const { name, title } = (typeof value === 'object' && value !== null ? value : {}) as Named
  return String(title ?? name ?? '?')
}

/** A copy whose name (and title) no other kept document has: limpet_2. */
export function renamedCopy(value: unknown, taken: ReadonlySet<string>): unknown {
  const { name, title } = value as Named
  const base = String(name ?? '').replace(/_\d+$/, '')
  const words = title === undefined ? undefined : String(title).replace(/ \d+$/, '')
  const called = (n: number): string => words === undefined ? numbered(base, '_', n) : numbered(words, ' ', n)
  let n = 1
  while (taken.has(called(n))) n++
  return { ...value as object, name: numbered(base, '_', n), ...words === undefined ? {} : { title: called(n) } }
}
const numbered = (base: string, sign: string, n: number): string => n === 1 ? base : `${base}${sign}${n}`
