import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { useProjectStore } from '~/draft/project'
import type { PlanProgram, TrialProgress } from '~~/core/trials'
import { renamedCopy, shownName, useShelf } from '~/features/shelf/shelf'
import { api, type ListedPlan, type ListedRevision, type PlanList } from '~/utils/api'
import { saveAs } from '~/utils/files'
import type { DialChoice, FromAnswers, Movable, Summary, ToAnswers } from './answers'
import { draftOf, freshDraft, planFrom, type PlanDraft } from './draft'

/** A program that a plan is to try. */
export interface TriedProgram extends Omit<PlanProgram, 'text'> { readonly text: string | null }
/** The program as it stands: its text is taken when the plan is tried. */
const CURRENT: TriedProgram = { name: 'as it stands', text: null, revision: null }
/** Words come as often as the plan is written; sums are made no oftener than this, milliseconds. */
const SUM = 700

export interface PlanTrouble { readonly path: string, readonly value?: string, readonly message: string }

/** The trial plans of a project: the one that is being written, those that were tried, and what the one that is looked at says. */
export const useTrialsStore = defineStore('trials', () => {
  const projects = useProjectStore()
  const project = ref('')
  const list = shallowRef<PlanList | null>(null)
  const trouble = ref<string | null>(null)
  /** What is wrong with the plan that was to be tried. */
  const problems = shallowRef<readonly PlanTrouble[]>([])
  const sending = ref(false)
  const draft = ref<PlanDraft>(freshDraft())
  const programs = shallowRef<readonly TriedProgram[]>([CURRENT])
  /** Revisions of the project's program, to be tried too. */
  const revisions = shallowRef<readonly ListedRevision[]>([])
  const dials = shallowRef<readonly DialChoice[]>([])
  /** What of the arena may stand elsewhere. */
  const movable = shallowRef<readonly Movable[]>([])
  /** Seconds after which the task ends a run. */
  const limit = ref(0)
  /** Id of the plan that is looked at. */
  const chosen = ref<string | null>(null)
  const summary = shallowRef<Summary | null>(null)
  const summing = ref(false)
  const removed = ref<string | null>(null)
  /** What was put into the program last; null for nothing. */
  const used = ref<string | null>(null)

  const plans = computed(() => list.value?.plans ?? [])
  const current = computed<ListedPlan | null>(() => plans.value.find(p => p.id === chosen.value) ?? null)

  async function load(of: string): Promise<void> {
    const anew = project.value !== of
    if (anew) {
      close()
      project.value = of
      list.value = null
      chosen.value = null
      summary.value = null
      problems.value = []
      programs.value = [CURRENT]
      revisions.value = []
      draft.value = freshDraft()
    }
    const answer = await api.plans(of)
    if (project.value !== of) return
    trouble.value = answer.ok ? null : answer.message
    if (!answer.ok) return
    list.value = answer.value
    listen()
    // Worlds known to be hard stay in the plan.
    if (anew) draft.value = { ...draft.value, cases: plans.value.find(p => p.plan?.search === null)?.plan?.cases ?? [] }
    if (chosen.value === null || current.value === null) choose(plans.value[0]?.id ?? null)
    else if (summary.value === null) choose(chosen.value)
    askDials()
    const known = await api.revisions(of)
    if (known.ok && project.value === of) revisions.value = known.value
  }

  let source: EventSource | null = null
  function listen(): void {
    if (source !== null) return
    source = api.planEvents(project.value)
    source.onmessage = ({ data }: MessageEvent<string>) => { hearProgress(JSON.parse(data) as { id: string, progress: TrialProgress | null }) }
    source.addEventListener('trouble', ({ data }: MessageEvent<string>) => { if (list.value !== null) list.value = { ...list.value, trouble: JSON.parse(data) as string | null } })
    // The server is back: what happened meanwhile is asked for.
    let lost = false
    source.onerror = () => { lost = true }
    source.addEventListener('listening', () => { if (lost) { lost = false; void reload() } })
  }
  async function reload(): Promise<void> {
    await load(project.value)
    sum()
  }
  function hearProgress({ id, progress }: { readonly id: string, readonly progress: TrialProgress | null }): void {
    if (list.value === null) return
    const known = plans.value.find(p => p.id === id)
    if (progress === null || known === undefined || known.state !== 'running') { void reload(); return }
    list.value = { ...list.value, plans: plans.value.map(p => p.id === id ? { ...p, done: progress.done, progress } : p) }
    if (id === chosen.value) sum()
  }

  /** Has the plan tried as it is written. */
  async function go(): Promise<void> {
    if (sending.value) return
    sending.value = true
    await projects.save()
    const { plan, tried } = asked()
    const answer = await api.addPlan(project.value, plan, tried)
    sending.value = false
    problems.value = answer.ok ? [] : (answer.data as { problems?: readonly PlanTrouble[] } | null)?.problems ?? [{ path: '', message: answer.message }]
    if (!answer.ok) return
    await load(project.value)
    choose(answer.value.id)
  }
  /** The plan as it is written, with the texts of its programs. */
  function asked(): { readonly plan: object, readonly tried: readonly PlanProgram[] } {
    // What cannot be saved can be tried, but is no revision.
    const revision = projects.state === 'saved' ? projects.revision : null
    const current = { name: revision === null ? 'not saved' : `rev. ${revision}`, text: projects.program, revision }
    return { plan: planFrom(draft.value), tried: programs.value.map(({ name, text, revision }) => text === null ? current : { name, text, revision }) }
  }

  /** Takes a revision of the project's program into the plan. */
  async function addRevision(number: number): Promise<void> {
    const answer = await api.revision(project.value, number)
    trouble.value = answer.ok ? null : answer.message
    if (answer.ok) addProgram({ name: `rev. ${number}`, text: answer.value.program, revision: number })
  }
  function addProgram(program: TriedProgram): void {
    if (!programs.value.some(p => p.name === program.name)) programs.value = [...programs.value, program]
  }
  function dropProgram(name: string): void { if (programs.value.length > 1) programs.value = programs.value.filter(p => p.name !== name) }

  /** Writes a plan that was tried anew, to be changed. */
  function copy(): void {
    if (summary.value === null) return
    draft.value = draftOf(summary.value.plan)
    programs.value = summary.value.programs
    problems.value = []
  }

  async function cancel(id: string): Promise<void> {
    const answer = await api.cancelPlan(id)
    trouble.value = answer.ok ? null : answer.message
    await reload()
  }
  async function remove(id: string): Promise<void> {
    const answer = await api.removePlan(id)
    trouble.value = answer.ok ? null : answer.message
    if (!answer.ok) return
    removed.value = id
    if (chosen.value === id) { chosen.value = null; summary.value = null }
    await load(project.value)
  }
  async function bringBack(): Promise<void> {
    if (removed.value === null) return
    const id = removed.value
    const answer = await api.restorePlan(id)
    trouble.value = answer.ok ? null : answer.message
    removed.value = null
    await load(project.value)
    choose(id)
  }

  /** The file of a run of the plan that is looked at; null where it cannot be had, which is told. */
  async function file(number: number): Promise<Uint8Array | null> {
    if (chosen.value === null) return null
    const answer = await api.trialFile(chosen.value, number)
    trouble.value = answer.ok ? null : answer.message
    return answer.ok ? new Uint8Array(answer.value) : null
  }

  /** The text that the dials were read from. */
  let read = ''
  /** Puts the values of a result's dials into the program: a change of its text, as if typed. */
  function use(result: number): void {
    const plan = summary.value?.plan
    if (plan === undefined) return
    useValues(plan.dials.map((d, i) => ({ name: d.name, text: summary.value!.cells[result]!.dials[i]! })))
  }
  /** Puts values of dials into the program. */
  function useValues(found: readonly { readonly name: string, readonly text: string }[]): void {
    if (projects.program !== read) return
    const values = found.map(v => ({ at: dials.value.find(c => c.name === v.name)?.at, ...v }))
    const missing = values.filter(v => v.at === undefined)
    if (missing.length > 0) { trouble.value = `the program as it stands has no dial ${missing.map(v => v.name).join(', ')}`; return }
    let text = read
    for (const { at, text: value } of values.sort((a, b) => b.at!.from - a.at!.from)) text = text.slice(0, at!.from) + value + text.slice(at!.to)
    projects.edit(text)
    used.value = `The program has ${values.map(v => `${v.name} ${v.text}`).reverse().join(', ')} now.`
    askDials()
  }
  /** Has a world in which the program fails tried with every later plan. */
  function addCase(): void {
    const { fails } = summary.value?.search ?? { fails: null }
    if (fails === null) return
    const known = { seed: summary.value!.plan.seeds[0], world: fails.world }
    if (!draft.value.cases.some(c => JSON.stringify(c) === JSON.stringify(known))) draft.value = { ...draft.value, aim: 'all', cases: [...draft.value.cases, known] }
  }
  /** Keeps the arena in which the program fails; the name under which it is kept, null where it could not be. */
  async function keepArena(): Promise<string | null> {
    const arena = summary.value?.search?.fails?.arena
    if (arena === undefined) return null
    const shelf = useShelf('arena')
    await shelf.load()
    const kept = renamedCopy(arena, new Set(shelf.shelf.kept.map(k => shownName(k.value))))
    await shelf.keep(kept)
    trouble.value = shelf.trouble
    return shelf.trouble === null ? shownName(kept) : null
  }
  function askDials(): void {
    if (projects.data !== null) send({ type: 'program', ask, text: projects.program, robot: projects.data.robot, arena: projects.data.arena, task: projects.data.task ?? null })
  }

  let worker: Worker | null = null
  let ask = 0
  function send(message: ToAnswers): void {
    if (worker === null) {
      worker = new Worker(new URL('./answers.worker.ts', import.meta.url), { type: 'module' })
      worker.onmessage = (event: MessageEvent<FromAnswers>) => hear(event.data)
      worker.onerror = (event) => { trouble.value = `summing up failed: ${event.message}` }
    }
    worker.postMessage(message)
  }
  function hear(m: FromAnswers): void {
    if (m.type === 'dials') { read = m.text; dials.value = m.dials; movable.value = m.movable; limit.value = m.limit; return }
    if (m.ask !== ask) return
    if (m.type === 'csv') { saveAs('trials.csv', new Blob([...m.pieces]), 'text/csv'); return }
    summing.value = false
    if (due) sum()
    if (m.type === 'failed') trouble.value = m.message
    else summary.value = m.summary
  }
  function choose(id: string | null): void {
    chosen.value = id
    summary.value = null
    used.value = null
    ask++
    summing.value = id !== null
    if (id !== null) send({ type: 'open', ask, plan: id })
  }
  let timer: ReturnType<typeof setTimeout> | null = null
  /** More came while it was summed up. */
  let due = false
  /** Sums up what came since: soon, and not before the last sum is there. */
  function sum(): void {
    due = summing.value
    if (due) return
    timer ??= setTimeout(() => {
      timer = null
      if (chosen.value === null) return
      summing.value = true
      send({ type: 'more', ask })
    }, SUM)
  }
  function csv(): void { send({ type: 'csv', ask }) }

  function close(): void {
    source?.close()
    source = null
    worker?.terminate()
    worker = null
    if (timer !== null) clearTimeout(timer)
    timer = null
    summary.value = null
  }

  return {
    project, list, trouble, problems, sending, draft, programs, revisions, dials, movable, limit, chosen, summary, summing, removed, used, plans, current,
    load, go, addRevision, addProgram, dropProgram, copy, cancel, remove, bringBack, file, choose, use, useValues, addCase, keepArena, csv, close,
  }
})
