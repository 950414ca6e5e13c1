import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { api, type ProjectData } from '~/utils/api'

/** How long typing rests before it is saved, milliseconds. */
const REST = 350
/** How long until a failed save is tried again. */
const RETRY = 2000

export type SaveState = 'saved' | 'saving' | 'unsaved' | 'conflict'

/** The open project: its documents, its program as typed, and what of it is saved. */
export const useProjectStore = defineStore('project', () => {
  const data = shallowRef<ProjectData | null>(null)
  const program = ref('')
  const revision = ref(0)
  const state = ref<SaveState>('saved')
  /** Why the last save failed; null when it did not. */
  const trouble = ref<string | null>(null)
  const missing = ref(false)
  let savedProgram = ''
  let savedRobot: unknown = null
  let timer: ReturnType<typeof setTimeout> | null = null
  let saving: Promise<void> | null = null

  async function open(id: string): Promise<boolean> {
    // What another view changed is saved before it is read anew.
    if (data.value !== null) await save()
    const answer = await api.project(id)
    missing.value = !answer.ok
    if (!answer.ok) { trouble.value = answer.message; return false }
    take(answer.value)
    return true
  }

  function take(project: ProjectData): void {
    data.value = project
    program.value = project.program
    savedProgram = project.program
    savedRobot = project.robot
    revision.value = project.revision
    state.value = 'saved'
    trouble.value = null
  }

  /** Takes what was typed; it is saved by itself. */
  function edit(text: string): void {
    if (text === program.value) return
    program.value = text
    if (state.value === 'conflict') return
    state.value = clean() ? 'saved' : 'unsaved'
    schedule(REST)
  }

  /** Takes another robot, one that can exist; it is saved by itself. */
  function editRobot(robot: unknown): void {
    if (data.value === null) return
    data.value = { ...data.value, robot }
    if (state.value === 'conflict') return
    state.value = 'unsaved'
    schedule(REST)
  }

  const clean = (): boolean => program.value === savedProgram && data.value?.robot === savedRobot

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
    const { robot } = project
    state.value = 'saving'
    saving = (async () => {
      const answer = await api.save(project.id, revision.value, text, robot === savedRobot ? undefined : robot)
      if (answer.ok) {
        savedProgram = text
        savedRobot = robot
        revision.value = answer.value.revision
        trouble.value = null
        state.value = clean() ? 'saved' : 'unsaved'
        if (!clean()) schedule(REST)
      } else if (answer.status === 409) {
        state.value = 'conflict'
        trouble.value = 'changed elsewhere'
      } else {
        state.value = 'unsaved'
        trouble.value = answer.message
        schedule(RETRY)
      }
    })()
    await saving
    saving = null
  }

  /** After a conflict: theirs goes on. What was typed here is kept as a revision before it. */
  async function takeTheirs(): Promise<void> {
    const project = data.value
    if (project === null) return
    const theirs = await api.project(project.id)
    if (!theirs.ok) { trouble.value = theirs.message; return }
    const mine = await api.save(project.id, theirs.value.revision, program.value, project.robot)
    const again = mine.ok ? await api.save(project.id, mine.value.revision, theirs.value.program, theirs.value.robot) : mine
    if (!again.ok) { trouble.value = again.message; return }
    take({ ...theirs.value, revision: again.value.revision })
  }

  /** After a conflict: what was typed here is saved on top of theirs, which stays as a revision. */
  async function keepMine(): Promise<void> {
    const project = data.value
    if (project === null) return
    const theirs = await api.project(project.id)
    if (!theirs.ok) { trouble.value = theirs.message; return }
    revision.value = theirs.value.revision
    savedProgram = theirs.value.program
    savedRobot = theirs.value.robot
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

  return {
    data, program, revision, state, trouble, missing,
    unsaved: computed(() => state.value !== 'saved'),
    open, edit, editRobot, save, takeTheirs, keepMine, rename, markRan,
  }
})
