<script setup lang="ts">
import { computed, ref, shallowRef, useTemplateRef } from 'vue'
import { ITEMS, arenaFromSvg, arenaToSvg, type ArenaItem } from '~~/core/arena'
import { usePickedFile } from '~/composables/useFiles'
import { useKept } from '~/composables/useKept'
import { listKeys, useKeys } from '~/composables/useKeys'
import { saveAs } from '~/utils/files'
import { EMPTY_ARENA, NO_TASK, useArenaStore } from './arena'

/** The arena of a project and its task: what stands where, and what is to be done there. */
const store = useArenaStore()
const told = ref('')
const tool = shallowRef<ArenaItem | null>(null)
const pointing = shallowRef<((name: string) => void) | null>(null)
const plan = useTemplateRef<{ zoomBy(factor: number): void, all(): void, focus(): void }>('plan')
const grid = useKept<number>('arena.grid', 0.05)

/** Grids that things snap to, metres. */
const GRIDS = [0.05, 0.01, 0.1, 0] as const
function nextGrid(): void { grid.value = GRIDS[(GRIDS.findIndex(g => g === grid.value) + 1) % GRIDS.length]! }
/** Radians of one key. */
const TURN = Math.PI / 36
useKeys('Arena', {
  's': { says: 'the next seed', act: () => { store.seed++ } },
  'd': { says: 'duplicate', act: () => store.duplicate() },
  'delete': { says: 'take away', act: () => store.remove() },
  'q': { says: 'turn to the left', act: () => store.turnChosen(-TURN) },
  'e': { says: 'turn to the right', act: () => store.turnChosen(TURN) },
  'x': { says: 'mirror', act: () => store.mirrorChosen() },
  'g': { says: 'the grid: 5, 1, 10 cm, none', act: nextGrid },
  'i': { says: 'nearer', act: () => plan.value?.zoomBy(1 / 1.25) },
  'o': { says: 'farther', act: () => plan.value?.zoomBy(1.25) },
  'a': { says: 'all of the arena', act: () => plan.value?.all() },
  'b': { says: 'behind its like', act: () => store.order(-1) },
  'f': { says: 'before its like', act: () => store.order(1) },
})
listKeys('Plan', { 'ctrl+c': 'copy what is chosen', 'ctrl+v': 'paste it, here or into another arena', 'ctrl+a': 'choose everything', 'arrowleft': 'on the plan: move by 1 cm; with Shift by 10 cm, with Alt by 1 mm' })
/** Copying and pasting belong to fields where one types. */
function press(event: KeyboardEvent): void {
  if (!(event.ctrlKey || event.metaKey) || (event.target instanceof HTMLElement && event.target.closest('input, textarea, [role=combobox]') !== null)) return
  const act = { c: store.copy, v: store.paste, a: () => { store.selected = store.things.filter(t => t.ref.list !== 'decks').map(t => t.ref) } }[event.key.toLowerCase()]
  if (act === undefined) return
  event.preventDefault()
  act()
}

/** Puts the tool's thing into the middle of the arena. */
function putInMiddle(): void {
  if (tool.value !== null) store.add(tool.value, (store.arena?.size[0] ?? 2) / 2, (store.arena?.size[1] ?? 2) / 2)
  tool.value = null
  plan.value?.focus()
}

const wrong = computed(() => store.problems.length > 0 ? `${store.problems.length} wrong: the last good arena stays` : store.taskProblems.length > 0 ? `${store.taskProblems.length} wrong in the task: the last good one stays` : '')
/** What is wrong beside the things themselves. */
const general = computed(() => store.problems.slice(0, 3).map(p => `${p.path}: found ${p.value}; ${p.message}`))

/** Takes a whole arena or task in place of this one; what cannot be shown is told. */
function take(what: 'arena' | 'task', value: unknown, from: string): void {
  const wrongShape = what === 'arena' ? store.replace(value) : store.replaceTask(value)
  if (wrongShape !== null) told.value = `${from} is no ${what} document: ${wrongShape}. Nothing was changed.`
}
/** Builds the arena that a drawing shows, in place of this one; what came of it, for people. */
function drawn(name: string, text: string): string {
  const from = arenaFromSvg(text)
  if (!from.ok) return `${name}: ${from.message}. Nothing was changed.`
  store.replaceDrawn(from)
  const taken = Object.entries(from.items).map(([list, all]) => `${all.length} ${all.length === 1 ? ITEMS.find(i => i.list === list)?.one : list}`).join(', ') || 'nothing'
  const more = from.left.length - MOST_TOLD
  return `${name}: ${taken}. ${from.left.length === 0 ? '' : `Not understood: ${from.left.slice(0, MOST_TOLD).join('; ')}${more > 0 ? `; and ${more} more` : ''}.`}`
}
/** How much of what was not understood is told. */
const MOST_TOLD = 6
const exportSvg = (): void => { if (store.arena !== null && store.layout !== null) saveAs(`${store.arena.name}.svg`, arenaToSvg(store.arena, store.layout), 'image/svg+xml') }
const exportTask = (): void => saveAs(`${String(store.task['name'] ?? 'task')}.task.json`, `${JSON.stringify(store.task, null, 2)}\n`, 'application/json')
const exportArena = (): void => saveAs(`${String(store.draft['name'] ?? 'arena')}.json`, `${JSON.stringify(store.draft, null, 2)}\n`, 'application/json')
const openFile = usePickedFile('.json,.svg,image/svg+xml', file => void importFile(file))
async function importFile(file: File): Promise<void> {
  if (/\.svg$/i.test(file.name)) { told.value = drawn(file.name, await file.text()); return }
  try {
    const value: unknown = JSON.parse(await file.text())
    const what = (value as { mindpath?: unknown } | null)?.mindpath === 'task' ? 'task' : 'arena'
    told.value = ''
    take(what, value, file.name)
  } catch {
    told.value = `${file.name} is no arena and no task document: it is not JSON. Nothing was changed.`
  }
}
</script>

<template>
  <DocumentFrame v-model:told="told" view="arena" :wrong="wrong" :depth="store.depth" @keydown="press" @load="store.load()" @undo="store.undo()" @redo="store.redo()">
    <template #ways>
      <KeyButton keys="S" says="What the seed draws: the next one" @click="store.seed++">seed {{ store.seed }}</KeyButton>
      <KeyButton keys="G" says="The grid that things snap to" @click="nextGrid">{{ grid === 0 ? 'no grid' : `grid ${Math.round(grid * 100)} cm` }}</KeyButton>
    </template>
    <template #files>
      <KeyButton says="An arena, a task or an SVG drawing from a file, in place of this one" @click="openFile()">Open</KeyButton>
      <KeyButton says="This arena as a file" @click="exportArena">Save arena</KeyButton>
      <KeyButton :disabled="store.layout === null" says="A drawing of it, true to scale, as the seed has it" @click="exportSvg">SVG</KeyButton>
      <KeyButton :disabled="store.task.goals === undefined" says="Its task as a file" @click="exportTask">Save task</KeyButton>
    </template>
    <template #left>
      <ArenaThings v-model:tool="tool" @middle="putInMiddle" />
      <DocumentShelf kind="arena" :here="store.draft" :bare="[{ label: 'an empty deck', value: EMPTY_ARENA }]" :sound="store.arena !== null && store.problems.length === 0" @take="value => take('arena', value, 'it')" />
    </template>
    <ArenaPlan ref="plan" v-model:tool="tool" v-model:pointing="pointing" />
    <p v-for="words in general" :key="words" class="problem" role="alert">✕ {{ words }}</p>
    <ArenaPreview />
    <template #right>
      <ArenaThing />
      <ArenaTask v-model:pointing="pointing" />
      <DocumentShelf kind="task" :here="store.task" :bare="[{ label: 'no task', value: NO_TASK }]" :sound="store.goals.length > 0 && store.taskProblems.length === 0" @take="value => take('task', value, 'it')" />
    </template>
  </DocumentFrame>
</template>

<style scoped>
.problem { color: var(--error); font-weight: 600; padding: 4px 12px; background: var(--panel); border-top: 1px solid var(--line); }
</style>
