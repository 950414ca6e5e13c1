import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { api } from '~/utils/api'

/** What belongs to a run that is to be kept. */
export interface Keepsake {
  readonly project: string
  /** What the run is called. */
  readonly title: string
  /** The revision that ran; null as long as it is not saved. */
  revision: number | null
  /** The number of the run that it went on from; null for one from the start. */
  readonly origin: number | null
}

/** Runs on their way to the server: they come from the worker as files and are kept there by themselves. */
export const useKeepingStore = defineStore('keeping', () => {
  const underWay = ref(0)
  /** Why the last could not be kept; null when it could. */
  const trouble = ref<string | null>(null)
  /** Grows with every run that is kept: lists of runs are of before. */
  const kept = ref(0)
  /** Ids of runs that this page has kept, by their number; null for one that could not be. */
  const ids = new Map<number, Promise<string | null>>()

  function keep(number: number, file: Uint8Array<ArrayBuffer>, { project, revision, origin }: Keepsake): void {
    underWay.value++
    ids.set(number, (async () => {
      const answer = await api.keepRun(project, file, revision, origin === null ? null : await ids.get(origin) ?? null)
      underWay.value--
      trouble.value = answer.ok ? null : answer.message
      if (!answer.ok) return null
      kept.value++
      known.value = new Map([...known.value, [number, answer.value.id]])
      return answer.value.id
    })())
  }

  /** The id under which a run of this page was kept; null while that is not known. */
  const known = ref<ReadonlyMap<number, string>>(new Map())
  const words = computed(() => underWay.value > 0 ? '◌ keeping' : trouble.value !== null ? '✕ not kept' : kept.value > 0 ? '● kept' : '')
  return { keep, words, trouble, kept, known, underWay }
})
