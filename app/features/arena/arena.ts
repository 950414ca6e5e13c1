import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { array, mixed, object, string } from 'yup'
import { ITEMS, freeName, layOut, readArena, type Arena, type ArenaItem, type FromSvg } from '~~/core/arena'
import { readTask, type Task } from '~~/core/task'
import { documentDraft, misshapen, plain } from '~/draft/document'
import { setWritten, writeQuantity } from '~/shown/quantities'
import { align, canTurn, boundsOf, distribute, middleOf, mirror, moveBy, readPoint, refKey, turnAbout, type Edge, type Pen, type Point, type Raw, type Ref } from './things'

/** An arena document as it is being written: any JSON of its shape. */
export type Draft = Record<string, unknown> & { start?: Raw, size?: unknown }
/** A task document as it is being written. */
export type TaskDraft = Record<string, unknown> & { goals?: Raw[] }

/** How documents are written here: in the preferred unit, to the millimetre and a tenth of a degree. */
export const PEN: Pen = {
  length: metres => writeQuantity('length', Math.round(metres * 1000) / 1000),
  angle: radians => writeQuantity('angle', Math.round(radians * 1800 / Math.PI) / 1800 * Math.PI),
}

/** Things that were copied, as their documents have them: they can be pasted into another arena. */
const copied: { list: string, raw: Raw }[] = []

/** The arena being built and its task. The drafts may be wrong for a while: then they say what is, and the last that could exist stay in the project. */
export const useArenaStore = defineStore('arena', () => {
  const document = documentDraft<Draft, Arena>('arena', readArena, value => misshapen(shapeSchema, value))
  const { draft, problems, value: arena, change } = document
  const task = documentDraft<TaskDraft, Task | null>('task', value => Object.keys((value ?? {}) as object).length === 0 ? { ok: true, value: null }
    : arena.value === null ? { ok: false, problems: [{ path: 'the task', value: 'the arena', message: 'the arena cannot exist yet; mend that first' }] } : readTask(value, arena.value), value => value === null ? null : misshapen(taskShape, value))
  const selected = ref<readonly Ref[]>([])
  /** The seed that scattered things are shown for. */
  const seed = ref(1)
  /** What undo takes back next: the arena's or the task's newest step. */
  const steps: ('arena' | 'task')[] = []
  const undone: ('arena' | 'task')[] = []

  function load(): void {
    if (document.load()) { selected.value = []; steps.length = 0; undone.length = 0 }
    task.load()
  }

  /** Changes the arena as one step of undo; the task is read anew, since its goals name what stands there. */
  function edit(what: string, act: (draft: Draft) => void): void {
    began('arena', change(what, act))
    task.reread()
  }
  function editTask(what: string, act: (draft: TaskDraft) => void): void {
    began('task', task.change(what, act))
  }
  function began(which: 'arena' | 'task', step: boolean): void {
    if (!step) return
    steps.push(which)
    undone.length = 0
  }
  function step(from: ('arena' | 'task')[], to: ('arena' | 'task')[], way: 'undo' | 'redo'): void {
    const which = from.pop()
    if (which === undefined) return
    to.push(which)
    if (which === 'arena') { document[way](); task.reread() } else task[way]()
    selected.value = selected.value.filter(r => rawOf(r) !== null)
  }
  const undo = (): void => step(steps, undone, 'undo')
  const redo = (): void => step(undone, steps, 'redo')

  /** A thing of the draft; null when there is none there. */
  function rawOf({ list, index }: Ref, from: Draft = draft.value): Raw | null {
    const found = list === 'start' ? from.start : (from[list] as Raw[] | undefined)?.[index]
    return typeof found === 'object' ? found : null
  }

  /** Everything that stands in the arena, in the order of the document; the start last. */
  const things = computed(() => {
    const all = ITEMS.flatMap(item => ((draft.value[item.list] ?? []) as Raw[]).map((raw, index) => ({ ref: { list: item.list, index }, raw, item: item as ArenaItem | null })))
    const { start } = draft.value
    return typeof start === 'object' ? [...all, { ref: { list: 'start', index: 0 }, raw: start, item: null }] : all
  })
  const chosen = computed(() => selected.value.flatMap((ref) => { const raw = rawOf(ref); return raw === null ? [] : [{ ref, raw }] }))
  /** A thing and all of its group; with `alone`, itself. */
  function withGroup(ref: Ref, alone = false): readonly Ref[] {
    const group = rawOf(ref)?.['group']
    return alone || typeof group !== 'string' || group === '' ? [ref] : things.value.filter(t => t.raw['group'] === group).map(t => t.ref)
  }
  /** Puts what is chosen into a group of that name; '' takes it out of any. */
  const groupChosen = (name: string): void => changeChosen('group', all => all.forEach(({ raw, ref }) => { if (ref.list !== 'start') setWritten(raw, 'group', name, 'words') }))
  const isChosen = (ref: Ref): boolean => selected.value.some(s => s.list === ref.list && s.index === ref.index)

  /** What the seed makes of the arena that could exist last; null when none could yet. */
  const layout = computed(() => arena.value === null ? null : layOut(arena.value, seed.value))

  /** Changes what is chosen as one step. */
  function changeChosen(what: string, act: (things: { ref: Ref, raw: Raw }[]) => void): void {
    if (selected.value.length === 0) return
    edit(`${what} ${selected.value.map(refKey).join()}`, (d) => {
      act(selected.value.flatMap((ref) => { const raw = rawOf(ref, d); return raw === null ? [] : [{ ref, raw }] }))
    })
  }
  function changeThing(ref: Ref, what: string, act: (raw: Raw) => void): void {
    edit(`${what} ${refKey(ref)}`, (d) => { const raw = rawOf(ref, d); if (raw !== null) act(raw) })
  }
  const moveChosen = (dx: number, dy: number): void => changeChosen('move', all => all.forEach(t => moveBy(t.raw, dx, dy, PEN)))
  /** What is chosen turns about this place: one thing about its middle, several about the middle of all. null when it cannot be turned. */
  const pivot = computed((): Point | null => {
    const [only, another] = chosen.value
    if (only === undefined) return null
    if (another === undefined) return canTurn(only.ref, only.raw) ? middleOf(only.raw) : null
    const [w, s, e, n] = boundsOf(chosen.value)
    return [(w + e) / 2, (s + n) / 2]
  })
  function turnChosen(angle: number): void {
    const about = pivot.value
    if (about !== null) changeChosen('turn', all => all.forEach(t => turnAbout(t.ref, t.raw, about, angle, PEN)))
  }
  function mirrorChosen(): void {
    const [w, , e] = boundsOf(chosen.value)
    changeChosen('', all => all.forEach(t => mirror(t.ref, t.raw, (w + e) / 2, PEN)))
  }
  const alignChosen = (edge: Edge): void => changeChosen('', all => align(all, edge, PEN))
  const distributeChosen = (): void => changeChosen('', all => distribute(all, PEN))

  /** Names that something in the arena has. */
  const names = (d: Draft): Set<string> => new Set(ITEMS.flatMap(item => ((d[item.list] ?? []) as Raw[]).flatMap(raw => [raw['name'], item.list === 'lanes' ? raw['exit'] ?? 'exit' : undefined])).filter(name => typeof name === 'string'))

  /** Puts a new thing of a kind at a place and chooses it. */
  function add(item: ArenaItem, x: number, y: number): void {
    edit('', (d) => {
      const name = freeName(item.one.replaceAll(' ', '_'), names(d))
      ;((d[item.list] ??= []) as Raw[]).push({ ...item.fresh(x, y, name) })
    })
    selected.value = [{ list: item.list, index: (draft.value[item.list] as Raw[]).length - 1 }]
  }

  /** Puts copies of things into the arena, some way off, and chooses them; names that are taken are replaced. */
  function insert(things: readonly { readonly list: string, readonly raw: Raw }[], away: number): void {
    if (things.length === 0) return
    const added: Ref[] = []
    edit('', (d) => {
      for (const { list, raw } of things) {
        const copy = plain(raw) as Raw
        const taken = names(d)
        if (typeof copy['name'] === 'string' && taken.has(copy['name'])) copy['name'] = freeName(copy['name'].replace(/_\d+$/, ''), taken)
        if (list === 'lanes' && taken.has(String(copy['exit'] ?? 'exit'))) copy['exit'] = freeName('exit', taken)
        moveBy(copy, away, -away, PEN)
        const all = (d[list] ??= []) as Raw[]
        all.push(copy)
        added.push({ list, index: all.length - 1 })
      }
    })
    selected.value = added
  }
  const withoutStart = (): { list: string, raw: Raw }[] => chosen.value.filter(c => c.ref.list !== 'start').map(c => ({ list: c.ref.list, raw: plain(c.raw) as Raw }))
  /** How far copies lie from what they are copies of, metres. */
  const AWAY = 0.1
  const duplicate = (): void => insert(withoutStart(), AWAY)
  function copy(): void { copied.splice(0, copied.length, ...withoutStart()) }
  const paste = (): void => insert(copied, AWAY)

  /** Takes what is chosen away; a start stays. */
  function remove(): void {
    const gone = selected.value.filter(r => r.list !== 'start')
    if (gone.length === 0) return
    edit('', (d) => {
      for (const { list, index } of [...gone].sort((a, b) => b.index - a.index)) (d[list] as Raw[]).splice(index, 1)
    })
    selected.value = []
  }

  /** Puts what is chosen before or behind its like: later paint covers earlier. */
  function order(by: 1 | -1): void {
    const [only] = selected.value
    if (only === undefined || selected.value.length > 1 || only.list === 'start') return
    const all = draft.value[only.list] as Raw[]
    const to = only.index + by
    if (to < 0 || to >= all.length) return
    edit('', (d) => { const list = d[only.list] as Raw[]; list.splice(to, 0, ...list.splice(only.index, 1)) })
    selected.value = [{ list: only.list, index: to }]
  }

  function setSize(at: 0 | 1, value: string): void {
    edit(`size ${at}`, (d) => {
      const both = Array.isArray(d.size) ? [...d.size as unknown[]] : ['2 m', '2 m']
      both[at] = value
      d.size = both
    })
  }
  function setFloor(field: 'friction' | 'color', value: string): void {
    edit(`floor ${field}`, (d) => { const floor = (d['floor'] ??= {}) as Raw; setWritten(floor, field, value, field === 'friction' ? 'number' : 'words') })
  }
  function setLight(value: string): void {
    edit('light', (d) => { const light = (d['light'] ??= {}) as Raw; setWritten(light, 'level', value, 'quantity') })
  }
  /** One more point at the end of a line or path, on from its last stretch; or the last one taken away. */
  function addPoint(ref: Ref, field: string, by: 1 | -1): void {
    changeThing(ref, '', (raw) => {
      const points = raw[field] as unknown[]
      if (by === -1) { points.pop(); return }
      const [[ax, an], [bx, bn]] = [readPoint(points.at(-2)), readPoint(points.at(-1))]
      points.push([PEN.length(bx + (bx - ax) / 2), PEN.length(bn + (bn - an) / 2)])
    })
  }
  /** A thing got another name: goals that named it go with it. */
  function renameInTask(before: string, now: string): void {
    if (!(task.draft.value.goals ?? []).some(g => Object.values(g).includes(before))) return
    editTask(`rename ${now.slice(0, -1)}`, (d) => {
      for (const goal of d.goals ?? []) for (const [key, value] of Object.entries(goal)) if (value === before && key !== 'goal') goal[key] = now
    })
  }

  /** What is wrong at a path of the arena. */
  function wrong(path: string): string {
    return problems.value.filter(p => p.path === path || p.path.startsWith(`${path}.`) || p.path.startsWith(`${path}[`)).map(p => p.message).join('; ')
  }

  function replace(value: unknown): string | null {
    const wrongShape = document.replace(value)
    if (wrongShape !== null) return wrongShape
    selected.value = []
    began('arena', true)
    task.reread()
    return null
  }

  /** Takes what a drawing shows in place of what stands here; name, floor, light and, where it fits, the start stay. */
  function replaceDrawn({ size, items }: Extract<FromSvg, { ok: true }>): void {
    began('arena', change('', (d) => {
      for (const { list } of ITEMS) delete d[list]
      Object.assign(d, items, { size })
      const at = readPoint((d.start as Raw | undefined)?.['at'])
      const [w, h] = readPoint(size)
      if (at[0] < w && at[1] < h) return
      d.start = { ...EMPTY_ARENA.start, at: [PEN.length(w / 2), PEN.length(h / 2)] }
    }))
    selected.value = []
    task.reread()
  }

  /** Takes a whole task. null when it was taken; else why it cannot even be shown. */
  function replaceTask(value: unknown): string | null {
    const wrongShape = task.replace(value)
    if (wrongShape === null) began('task', true)
    return wrongShape
  }

  return {
    draft, problems, arena, things, chosen, selected, seed, layout, task: task.draft, taskProblems: task.problems, goals: computed(() => task.value.value?.goals ?? []),
    depth: computed(() => ({ past: document.depth.value.past + task.depth.value.past, future: document.depth.value.future + task.depth.value.future })),
    replaceTask, replaceDrawn, load, edit, editTask, undo, redo, rawOf, withGroup, groupChosen, isChosen, changeChosen, changeThing, moveChosen, turnChosen, pivot, mirrorChosen, alignChosen, distributeChosen,
    add, duplicate, copy, paste, remove, order, setSize, setFloor, setLight, addPoint, renameInTask, wrong, replace,
  }
})

/** An arena to begin with: a bare deck. */
export const EMPTY_ARENA = { mindpath: 'arena', version: 1, name: 'arena', size: ['2 m', '2 m'], start: { at: ['1 m', '1 m'], heading: '0 deg' } }
/** A project without a task. */
export const NO_TASK = {}

const thing = object().required()
/** The least that a draft must be for the view to show it; its fields may still be wrong. */
const shapeSchema = object({ name: string(), size: mixed(), start: object(), ...Object.fromEntries(ITEMS.map(item => [item.list, array(thing)])) }).required()
const taskShape = object({ name: string(), title: string(), goals: array(object({ goal: string() }).required()) })
