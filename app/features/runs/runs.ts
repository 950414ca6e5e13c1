import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import type { Trace } from '~~/core/runs'
import { useKeepingStore } from '~/run/keeping'
import { api, type KeptRunRow, type RunList } from '~/utils/api'
import { saveAs } from '~/utils/files'
import { ofReport, type ToReport } from './report'
import { MOST_COMPARED, type Compared, type FromCompare, type MeasuredRobot, type ToCompare, type Traceable } from './compare'

/** The kept runs of a project, and those that are compared. */
export const useRunsStore = defineStore('runs', () => {
  const project = ref('')
  const list = shallowRef<RunList | null>(null)
  const trouble = ref<string | null>(null)
  /** What was just put away, and can be brought back. */
  const removed = shallowRef<KeptRunRow | null>(null)
  /** Ids of those that are compared, in the order in which they were chosen: the first is A. */
  const chosen = ref<readonly string[]>([])
  const compared = shallowRef<readonly Compared[]>([])
  const columns = shallowRef<readonly Traceable[]>([])
  const traced = shallowRef<readonly (Trace | null)[]>([])
  /** What is traced of all; '' for nothing. */
  const tracing = ref('')
  const comparing = ref(false)
  /** What the compared runs say of their robot; null until somebody asks. */
  const measured = shallowRef<MeasuredRobot | null>(null)

  const runs = computed(() => list.value?.runs ?? [])
  const byId = computed(() => new Map(runs.value.map(r => [r.id, r])))

  async function load(of: string): Promise<void> {
    if (project.value !== of) {
      project.value = of
      list.value = null
      chosen.value = []
      compared.value = []
      removed.value = null
    }
    const answer = await api.runs(of)
    if (project.value !== of) return
    trouble.value = answer.ok ? null : answer.message
    if (answer.ok) list.value = answer.value
  }
  const keeping = useKeepingStore()
  watch(() => keeping.kept, () => { if (project.value !== '') void load(project.value) })

  /** Changes the list at once, and the server's; what it refuses is told and taken back. */
  async function change(id: string, what: { readonly name?: string, readonly starred?: boolean }): Promise<void> {
    if (list.value === null) return
    list.value = { ...list.value, runs: runs.value.map(r => r.id === id ? { ...r, ...what } : r) }
    const answer = await api.changeRun(id, what)
    if (answer.ok) return
    trouble.value = answer.message
    void load(project.value)
  }
  async function remove(id: string): Promise<void> {
    const run = byId.value.get(id)
    if (run === undefined || list.value === null) return
    const answer = await api.removeRun(id)
    trouble.value = answer.ok ? null : answer.message
    if (!answer.ok) return
    removed.value = run
    chosen.value = chosen.value.filter(c => c !== id)
    list.value = { ...list.value, runs: runs.value.filter(r => r.id !== id) }
  }
  async function bringBack(): Promise<void> {
    if (removed.value === null) return
    const answer = await api.restoreRun(removed.value.id)
    trouble.value = answer.ok ? null : answer.message
    removed.value = null
    await load(project.value)
  }
  async function setBudget(megabytes: number): Promise<void> {
    const answer = await api.setRunBudget(megabytes)
    trouble.value = answer.ok ? null : answer.message
    await load(project.value)
  }
  /** A run's file; null where it cannot be had, which is told. */
  async function file(id: string): Promise<Uint8Array<ArrayBuffer> | null> {
    const answer = await api.runFile(id)
    trouble.value = answer.ok ? null : answer.message
    return answer.ok ? new Uint8Array(answer.value) : null
  }
  /** Takes a run's file that came from elsewhere, under a name where one is given. */
  async function receive(bytes: Uint8Array<ArrayBuffer>, name = ''): Promise<boolean> {
    const answer = await api.keepRun(project.value, bytes, null, null)
    const problems = answer.ok ? [] : (answer.data as { problems?: readonly { path: string, message: string }[] } | null)?.problems ?? []
    trouble.value = answer.ok ? null : problems.length > 0 ? problems.map(p => `${p.path}: ${p.message}`).join('; ') : answer.message
    if (answer.ok && name !== '') await api.changeRun(answer.value.id, { name })
    if (answer.ok) await load(project.value)
    return answer.ok
  }

  function choose(id: string): void {
    if (chosen.value.includes(id)) chosen.value = chosen.value.filter(c => c !== id)
    else if (chosen.value.length < MOST_COMPARED) chosen.value = [...chosen.value, id]
  }

  let worker: Worker | null = null
  let ask = 0
  /** Ids of runs whose files the worker has. */
  let known = new Set<string>()
  function send(message: ToCompare): void {
    if (worker === null) {
      worker = new Worker(new URL('./compare.worker.ts', import.meta.url), { type: 'module' })
      worker.onmessage = (event: MessageEvent<FromCompare>) => hear(event.data)
      worker.onerror = (event) => { close(); trouble.value = `comparing failed: ${event.message}` }
    }
    worker.postMessage(message)
  }
  function hear(m: FromCompare): void {
    if (m.type === 'csv') {
      const run = byId.value.get(m.id)
      if (run !== undefined) saveAs(`run-${run.seed}-${run.at.slice(0, 19).replaceAll(':', '')}.csv`, new Blob([...m.pieces]), 'text/csv')
      return
    }
    if (m.ask !== ask) return
    comparing.value = false
    if (m.type === 'failed') { trouble.value = m.message; known = new Set() }
    else if (m.type === 'measured') measured.value = m.measured
    else if (m.type === 'trace') traced.value = m.traces
    else {
      compared.value = m.runs
      columns.value = m.columns
      traced.value = []
      if (m.columns.some(c => c.id === tracing.value)) trace(tracing.value)
    }
  }
  watch(chosen, async (ids) => {
    const number = ++ask
    measured.value = null
    if (ids.length === 0) { compared.value = []; return }
    comparing.value = true
    const files = []
    for (const id of ids.filter(i => !known.has(i))) {
      const bytes = await file(id)
      if (number !== ask) return
      if (bytes === null) { comparing.value = false; chosen.value = chosen.value.filter(c => c !== id); return }
      files.push({ id, file: bytes })
    }
    known = new Set(ids)
    send({ type: 'compare', ask: number, ids: [...ids], files })
  })
  /** Traces a column of all compared runs; '' for none. */
  function trace(column: string): void {
    tracing.value = column
    if (column === '') traced.value = []
    else send({ type: 'trace', ask: ++ask, ids: [...chosen.value], column })
  }
  /** Makes a run of what a board reported, and keeps it; what is to be said of it, nothing where there is none, which is told. */
  async function receiveReport(file: string, report: ToReport): Promise<readonly string[]> {
    const made = await ofReport(report)
    if (made.file === null) trouble.value = `${file}: ${made.why}`
    return made.file !== null && await receive(made.file, 'from the board') ? made.says : []
  }

  /** Asks what the compared runs say of their robot. */
  function measure(said: readonly { readonly end: string, readonly truths: string }[]): void {
    send({ type: 'measure', ask: ++ask, runs: chosen.value.map((id, i) => ({ id, end: said[i]?.end ?? '', truths: said[i]?.truths ?? '' })) })
  }
  /** Saves one of the compared runs as comma-separated values: every tick of all that can be told. */
  function csv(id: string): void { send({ type: 'csv', ask, id }) }
  function close(): void {
    worker?.terminate()
    worker = null
    known = new Set()
    comparing.value = false
  }

  return { project, list, runs, byId, trouble, removed, chosen, compared, columns, traced, tracing, comparing, measured, measure, load, change, remove, bringBack, setBudget, file, receive, receiveReport, choose, trace, csv, close }
})

