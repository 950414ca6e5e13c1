import { useEventListener } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { whenShown } from '~/composables/whenShown'
import { api, type ProjectData } from '~/utils/api'
import { DOCUMENT_PARTS, dropUnsaved, keepUnsaved, takeUnsaved, type Building, type DocumentPart } from './drafts'

/** How long typing rests before it is saved, milliseconds. */
const REST = 350
/** How long until a failed save is tried again. */
const RETRY = 2000
/** Answers that stay the same however often one asks: the save waits for the next change. */
const FINAL = new Set([400, 404, 413, 415, 422])

export type SaveState = 'saved' | 'saving' | 'unsaved' | 'conflict'

/** The open project: its documents, its program as typed, and what of it is saved. */
export const useProjectStore = defineStore('project', () => {
  const data = shallowRef<ProjectData | null>(null)
  const program = ref('')
  const revision = ref(0)
  const state = ref<SaveState>('saved')
  /** Why the last save failed; null when it did not. */
  const trouble = ref<string | null>(null)
  /** Whether the failed save is tried again by itself. */
  const again = ref(false)
  const missing = ref(false)
  /** Whether it is missing because the server did not answer. */
  const away = ref(false)
  /** What another tab or window saved meanwhile, while somebody has to choose; null otherwise. */
  const theirs = shallowRef<ProjectData | null>(null)
  /** The browser keeps what is not saved; false when it has no room for it. */
  const kept = ref(true)
  /** Documents that cannot exist yet, as they were left. */
  const building = shallowRef<Building>({})
  let savedProgram = ''
  let savedDocuments: Readonly<Record<DocumentPart, unknown>> = { robot: null, arena: null, task: null }
  let timer: ReturnType<typeof setTimeout> | null = null
  let saving: Promise<void> | null = null

  /** Opens a project with what this browser holds of it that is not saved. False when it cannot be had. */
  async function open(id: string): Promise<boolean> {
    keepChanged()
    // What another view changed is saved before it is read anew, and what cannot be saved stays as it is.
    if (data.value !== null) await save()
    if (data.value?.id === id && (!clean() || state.value === 'conflict')) { missing.value = false; return true }
    const answer = await api.project(id)
    if (!answer.ok && answer.status === 0 && data.value?.id === id) return true
    missing.value = !answer.ok
    away.value = !answer.ok && answer.status === 0
    if (!answer.ok) { trouble.value = answer.message; return false }
    // Before the project is taken as saved: that forgets what was kept of it.
    const unsaved = await takeUnsaved(id)
    take(answer.value)
    if (unsaved === null) return true
    building.value = unsaved.building ?? {}
    program.value = unsaved.program ?? program.value
    for (const part of DOCUMENT_PARTS) if (unsaved[part] !== undefined && !same(unsaved[part], savedDocuments[part])) data.value = { ...data.value!, [part]: unsaved[part] }
    if (clean()) settled()
    else if (unsaved.base === answer.value.revision) { state.value = 'unsaved'; keep(); schedule(0) }
    else {
      // What is kept stays on top of the revision that it was written on, until somebody chose.
      revision.value = unsaved.base
      conflict(answer.value)
    }
    return true
  }

  function take(project: ProjectData): void {
    data.value = project
    program.value = project.program
    savedProgram = project.program
    savedDocuments = documentsOf(project)
    revision.value = project.revision
    building.value = {}
    settled()
  }

  /** All is saved, or nothing is left to save. */
  function settled(): void {
    state.value = 'saved'
    trouble.value = null
    theirs.value = null
    keep()
  }

  /** Takes what was typed; it is saved by itself. */
  function edit(text: string): void {
    if (text === program.value) return
    program.value = text
    changed('program')
  }

  /** Takes another document, one that can exist; it is saved by itself. */
  function editDocument(part: DocumentPart, document: unknown): void {
    if (data.value === null) return
    data.value = { ...data.value, [part]: document }
    building.value = { ...building.value, [part]: undefined }
    changed(part)
  }

  /** Remembers a document that cannot exist yet: it is kept in the browser alone. */
  function keepBuilding(part: DocumentPart, document: unknown): void {
    building.value = { ...building.value, [part]: document }
    keep('building')
  }

  function changed(part: 'program' | DocumentPart): void {
    changes.add(part)
    keepOff ??= whenShown(keepChanged)
    if (state.value === 'conflict') return
    state.value = clean() ? 'saved' : 'unsaved'
    schedule(REST)
  }

  /** Parts that changed and are still to be kept in the browser: behind the frame that shows it, as writing down a long program takes as long as showing a letter of it. */
  const changes = new Set<'program' | DocumentPart>()
  let keepOff: (() => void) | null = null
  function keepChanged(): void {
    keepOff?.()
    keepOff = null
    for (const part of changes) keep(part)
    changes.clear()
  }
  useEventListener('pagehide', keepChanged)

  /** Keeps in the browser what is not saved: the part that changed, or all of it. */
  function keep(part: 'program' | DocumentPart | 'building' | 'all' = 'all'): void {
    const { value: project } = data
    if (project === null) return
    const builds = DOCUMENT_PARTS.some(p => building.value[p] !== undefined)
    if (clean() && !builds) { dropUnsaved(project.id); kept.value = true; return }
    const has = (name: string): boolean => part === 'all' || part === name
    kept.value = keepUnsaved(project.id, {
      base: revision.value,
      ...(has('program') ? { program: program.value === savedProgram ? undefined : program.value } : {}),
      ...Object.fromEntries(DOCUMENT_PARTS.filter(has).map(p => [p, project[p] === savedDocuments[p] ? undefined : project[p]])),
      ...(part === 'program' ? {} : { building: builds ? building.value : undefined }),
    })
  }

  const clean = (): boolean => program.value === savedProgram && (data.value === null || DOCUMENT_PARTS.every(part => data.value![part] === savedDocuments[part]))

  function schedule(wait: number): void {
    if (timer !== null) clearTimeout(timer)
    timer = setTimeout(() => { timer = null; void save() }, wait)
  }

  /** Saves now; when a save is under way, once more after it. */
  async function save(): Promise<void> {
    if (saving !== null) { await saving; return clean() ? undefined : save() }
    const project = data.value
    if (project === null || clean() || state.value === 'conflict') return
    const text = program.value
    const documents = documentsOf(project)
    state.value = 'saving'
    saving = (async () => {
      const answer = await api.save(project.id, revision.value, text, Object.fromEntries(DOCUMENT_PARTS.filter(part => documents[part] !== savedDocuments[part]).map(part => [part, documents[part]])))
      // Another project was opened meanwhile: what was not saved of this one is in the browser.
      if (data.value?.id !== project.id) return
      if (answer.ok) {
        savedProgram = text
        savedDocuments = documents
        revision.value = answer.value.revision
        trouble.value = null
        state.value = clean() ? 'saved' : 'unsaved'
        keep()
        if (!clean()) schedule(REST)
      } else if (answer.status === 409) await behind(project.id)
      else failed(answer.message, answer.status)
    })()
    await saving
    saving = null
  }

  function failed(message: string, status: number): void {
    state.value = 'unsaved'
    trouble.value = message
    again.value = !FINAL.has(status)
    if (again.value) schedule(RETRY)
  }

  /** Another save came first: what it holds is fetched, and where it differs somebody chooses. */
  async function behind(id: string): Promise<void> {
    const answer = await api.project(id)
    if (!answer.ok) return failed(answer.message, answer.status)
    conflict(answer.value)
  }

  function conflict(other: ProjectData): void {
    if (other.program === program.value && DOCUMENT_PARTS.every(part => same(other[part], data.value?.[part]))) return take(other)
    theirs.value = other
    state.value = 'conflict'
    trouble.value = 'changed elsewhere'
    keep()
  }

  /** After a conflict: theirs goes on. What was typed here is kept as a revision before it. */
  async function takeTheirs(): Promise<void> {
    const project = data.value
    if (project === null) return
    const newest = await api.project(project.id)
    if (!newest.ok) { trouble.value = newest.message; return }
    const mine = await api.save(project.id, newest.value.revision, program.value, documentsOf(project))
    const back = mine.ok ? await api.save(project.id, mine.value.revision, newest.value.program, documentsOf(newest.value)) : mine
    if (!back.ok) { trouble.value = back.message; return }
    take({ ...newest.value, revision: back.value.revision })
  }

  /** After a conflict: what was typed here, or a text put together of both, is saved on top of theirs, which stays as a revision. */
  async function keepMine(text = program.value): Promise<void> {
    const project = data.value
    if (project === null) return
    const newest = await api.project(project.id)
    if (!newest.ok) { trouble.value = newest.message; return }
    revision.value = newest.value.revision
    savedProgram = newest.value.program
    savedDocuments = documentsOf(newest.value)
    program.value = text
    theirs.value = null
    state.value = 'unsaved'
    await save()
  }

  async function rename(title: string): Promise<void> {
    const project = data.value
    if (project === null || title.trim() === '' || title === project.title) return
    const answer = await api.rename(project.id, title.trim())
    if (answer.ok) data.value = { ...project, title: answer.value.title }
    else trouble.value = answer.message
  }

  /** Remembers that the program as saved now has run. */
  async function markRan(): Promise<void> {
    await save()
    const project = data.value
    if (project === null) return
    data.value = { ...project, ranProgram: program.value }
    if (state.value === 'saved') await api.ran(project.id, revision.value)
  }

  /** How it stands with saving, in a few words. */
  const words = computed(() => {
    switch (state.value) {
      case 'saved': return '● saved'
      case 'saving': return '◌ saving'
      case 'conflict': return '✕ two texts'
      case 'unsaved': {
        if (trouble.value === null) return '○ unsaved'
        return `○ not saved: ${trouble.value}${again.value ? ', trying again' : ''}${kept.value ? '' : '; this browser has no room to keep it'}`
      }
    }
    return ''
  })

  return {
    data, program, revision, state, trouble, missing, away, theirs, building, words,
    /** Closing the page would lose something. */
    atRisk: computed(() => state.value !== 'saved' && !kept.value),
    open, edit, editDocument, keepBuilding, save, takeTheirs, keepMine, rename, markRan,
  }
})

const documentsOf = ({ robot, arena, task }: ProjectData): Readonly<Record<DocumentPart, unknown>> => ({ robot, arena, task })
const same = (a: unknown, b: unknown): boolean => a === b || JSON.stringify(a) === JSON.stringify(b)
