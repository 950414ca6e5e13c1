import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { api, type ListedRevision, type ProjectData } from '~/utils/api'
import type { DocumentPart } from './drafts'
import { useProjectStore } from './project'

/** What was saved of the project before, and the one of it that is looked at. */
export const useRevisionsStore = defineStore('revisions', () => {
  const project = useProjectStore()
  const list = shallowRef<readonly ListedRevision[]>([])
  const trouble = ref<string | null>(null)
  const chosen = ref<number | null>(null)
  /** What the chosen one holds, once it is there. */
  const there = shallowRef<Pick<ProjectData, 'program' | DocumentPart> | null>(null)

  /** The list as it is now, and the one before the newest looked at. */
  async function load(): Promise<void> {
    chosen.value = null
    there.value = null
    list.value = []
    if (project.data === null) return
    await project.save()
    const answer = await api.revisions(project.data.id)
    trouble.value = answer.ok ? null : answer.message
    if (!answer.ok) return
    list.value = answer.value
    const before = answer.value[1] ?? answer.value[0]
    if (before !== undefined) await look(before.number)
  }

  async function look(number: number): Promise<void> {
    if (project.data === null) return
    chosen.value = number
    const answer = await api.revision(project.data.id, number)
    if (chosen.value !== number) return
    trouble.value = answer.ok ? null : answer.message
    there.value = answer.ok ? answer.value : null
  }

  /** Marks a revision, so that it stays; or takes the mark away. */
  async function mark(number: number, marked: boolean): Promise<void> {
    if (project.data === null) return
    const answer = await api.markRevision(project.data.id, number, marked)
    trouble.value = answer.ok ? null : answer.message
    if (answer.ok) list.value = list.value.map(r => r.number === number ? { ...r, marked } : r)
  }

  return { list, trouble, chosen, there, load, look, mark }
})
