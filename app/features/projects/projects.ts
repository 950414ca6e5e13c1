import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { api, type ListedProject, type Offers } from '~/utils/api'

/** The largest zip that is taken, bytes. */
const MOST = 6_000_000

/** The list of projects on the first page. */
export const useProjectsStore = defineStore('projects', () => {
  const list = shallowRef<readonly ListedProject[]>([])
  const loaded = ref(false)
  const trouble = ref<string | null>(null)
  /** Why the list cannot be had; null when it can. `away` where the server did not answer. */
  const unlisted = ref<string | null>(null)
  const away = ref(false)
  /** The one deleted last, for undo. */
  const deleted = shallowRef<{ readonly id: string, readonly title: string } | null>(null)

  async function load(): Promise<void> {
    const answer = await api.projects()
    unlisted.value = answer.ok ? null : answer.message
    away.value = !answer.ok && answer.status === 0
    if (answer.ok) list.value = answer.value
    loaded.value = true
  }

  /** A kept document by its id; null when it cannot be had. */
  async function document(id: string): Promise<unknown> {
    const answer = await api.document(id)
    return answer.ok ? answer.value.document : null
  }

  /** What a new project may begin with; null, and why is told, where it cannot be had. */
  async function offers(): Promise<Offers | null> {
    const answer = await api.offers()
    trouble.value = answer.ok ? null : answer.message
    return answer.ok ? answer.value : null
  }

  async function create(title: string, start: Parameters<typeof api.create>[1]): Promise<string | null> {
    const answer = await api.create(title, start)
    trouble.value = answer.ok ? null : answer.message
    return answer.ok ? answer.value.id : null
  }

  /** The project as a zip, to be handed on; null, and why is told, where it cannot be had. */
  async function packed(id: string): Promise<{ readonly title: string, readonly bytes: Uint8Array<ArrayBuffer> } | null> {
    const answer = await api.project(id)
    trouble.value = answer.ok ? null : answer.message
    if (!answer.ok) return null
    const { pack } = await import('~~/core/simulation/travel')
    return { title: answer.value.title, bytes: pack(answer.value) }
  }

  /** Takes a zip in as a project of its own: its id; null, and what is wrong with it is told. */
  async function receive(file: File): Promise<string | null> {
    if (file.size > MOST) { trouble.value = `${file.name} is ${(file.size / 1e6).toFixed(1)} MB; a project has at most ${MOST / 1e6} MB. Nothing was taken.`; return null }
    const { unpack } = await import('~~/core/simulation/travel')
    const read = unpack(new Uint8Array(await file.arrayBuffer()))
    if (!read.ok) { trouble.value = `${file.name}: ${read.problems.map(p => `${p.file}: ${p.message}`).join('; ')}. Nothing was taken.`; return null }
    const answer = await api.receive(read.value)
    const { problems = [] } = answer.ok ? {} : (answer.data ?? {}) as { problems?: readonly { document?: string, path: string, value: string, message: string }[] }
    trouble.value = answer.ok ? null : `${file.name}: ${problems.length === 0 ? answer.message : problems.slice(0, 3).map(p => `${p.document ?? ''} ${p.path}: found ${p.value}; ${p.message}`).join('. ')}. Nothing was taken.`
    return answer.ok ? answer.value.id : null
  }

  async function duplicate(id: string): Promise<void> {
    const answer = await api.duplicate(id)
    trouble.value = answer.ok ? null : answer.message
    await load()
  }

  async function rename(id: string, title: string): Promise<void> {
    const answer = await api.rename(id, title)
    trouble.value = answer.ok ? null : answer.message
    await load()
  }

  async function remove(id: string): Promise<void> {
    const title = list.value.find(p => p.id === id)?.title ?? ''
    const answer = await api.remove(id)
    trouble.value = answer.ok ? null : answer.message
    if (answer.ok) deleted.value = { id, title }
    await load()
  }

  async function undo(): Promise<void> {
    if (deleted.value === null) return
    const answer = await api.restore(deleted.value.id)
    trouble.value = answer.ok ? null : answer.message
    if (answer.ok) deleted.value = null
    await load()
  }

  return { list, loaded, trouble, unlisted, away, deleted, load, document, offers, create, packed, receive, duplicate, rename, remove, undo }
})
