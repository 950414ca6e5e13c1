import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { api, type ListedProject } from '~/utils/api'

/** The list of projects on the first page. */
export const useProjectsStore = defineStore('projects', () => {
  const list = shallowRef<readonly ListedProject[]>([])
  const loaded = ref(false)
  const trouble = ref<string | null>(null)
  /** The one deleted last, for undo. */
  const deleted = shallowRef<{ readonly id: string, readonly title: string } | null>(null)

  async function load(): Promise<void> {
    const answer = await api.projects()
    trouble.value = answer.ok ? null : answer.message
    if (answer.ok) list.value = answer.value
    loaded.value = true
  }

  async function create(): Promise<string | null> {
    const answer = await api.create()
    trouble.value = answer.ok ? null : answer.message
    return answer.ok ? answer.value.id : null
  }

  async function duplicate(id: string): Promise<void> {
    const answer = await api.create(undefined, id)
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

  return { list, loaded, trouble, deleted, load, create, duplicate, rename, remove, undo }
})
