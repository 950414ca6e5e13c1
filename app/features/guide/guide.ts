import { defineStore, storeToRefs } from 'pinia'
import { computed, shallowRef, watch } from 'vue'
import { useKept } from '~/composables/useKept'
import { useProjectStore } from '~/draft/project'
import { useBenchStore } from '~/features/bench/bench'
import { seenOf } from './seen'
import { GUIDE, type RunSeen, type Seen } from './steps'

/** How many runs the guide remembers. */
const RUNS = 40

/** The guide beside the Bench: open or not, what of it is done, and what somebody does while it is open. */
export const useGuideStore = defineStore('guide', () => {
  const open = useKept('guide.open', false)
  const done = useKept<readonly string[]>('guide.done', [])
  const bench = useBenchStore()
  const project = useProjectStore()
  const { opened, rows, asking, reasons } = storeToRefs(bench)
  const seen = shallowRef<Seen>({ runs: [], handled: 0, asked: false })
  /** The step that stands next; null when all are done. */
  const next = computed(() => GUIDE.find(s => !done.value.includes(s.id)) ?? null)

  function settle(now: Seen): void {
    seen.value = now
    const met = GUIDE.filter(s => !done.value.includes(s.id) && s.done(now)).map(s => s.id)
    if (met.length > 0) done.value = [...done.value, ...met]
  }

  /** The run that goes on, and the modes that each of its lanes was in. */
  let current: unknown = null
  let modes: Set<number>[] = []
  watch(rows, (count) => {
    const { value: run } = opened
    const { row, project: of } = { row: bench.row, project: project.data?.id }
    if (!open.value || run === null || row === null || of === undefined || count < 2) return
    const { layout, first } = run
    if (bench.byHand) {
      const far = Math.hypot(row[layout.body]! - first[layout.body]!, row[layout.body + 1]! - first[layout.body + 1]!)
      if (far > seen.value.handled) settle({ ...seen.value, handled: far })
      return
    }
    if (run.program === null || run.program.text.trim() === '') return
    const fresh = current !== run
    if (fresh) {
      current = run
      modes = layout.laneNames.map(() => new Set())
    }
    modes.forEach((set, lane) => set.add(row[layout.lanes + 4 * lane + 1]!))
    const most = Math.max(...modes.map(s => s.size))
    const seconds = count * layout.dt
    const before = seen.value.runs
    const newest = fresh ? undefined : before.at(-1)
    // A row every sixtieth of a second says nothing new: only what a step may go by is taken up.
    if (newest !== undefined && newest.modes === most && Math.floor(newest.seconds) === Math.floor(seconds)) return
    const read: RunSeen = newest === undefined
      ? { project: of, seconds, modes: most, ...seenOf(run.program.text) }
      : { ...newest, seconds, modes: most }
    settle({ ...seen.value, runs: [...newest === undefined ? before : before.slice(0, -1), read].slice(-RUNS) })
  })
  watch([asking, reasons], () => { if (open.value && asking.value && reasons.value !== null) settle({ ...seen.value, asked: true }) })

  function begin(): void { open.value = true }
  /** All steps stand open again. */
  function again(): void {
    done.value = []
    seen.value = { runs: [], handled: 0, asked: false }
    current = null
  }

  return { open, done, next, begin, again }
})
