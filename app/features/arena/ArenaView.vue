<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, useTemplateRef } from 'vue'
import type { ArenaItem } from '~~/core/arena'
import { usePickedFile } from '~/composables/useFiles'
import { useKept } from '~/composables/useKept'
import { listKeys, useKeys } from '~/composables/useKeys'
import { lengthUnit, nextLengthUnit } from '~/shown/lengths'
import { useProjectStore } from '~/draft/project'
import { saveAs } from '~/utils/files'
import { useArenaStore } from './arena'

/** The arena of a project and its task: what stands where, and what is to be done there. */
const route = useRoute()
const project = useProjectStore()
const store = useArenaStore()
const ready = ref(false)
const told = ref('')
const tool = shallowRef<ArenaItem | null>(null)
const pointing = shallowRef<((name: string) => void) | null>(null)
const plan = useTemplateRef<{ zoomBy(factor: number): void, all(): void, focus(): void }>('plan')
const grid = useKept<number>('arena.grid', 0.05)

async function open(): Promise<void> {
  if (await project.open(String(route.params['id']))) {
    store.load()
    ready.value = true
  }
}
onMounted(open)
onBeforeUnmount(() => void project.save())

/** Grids that things snap to, metres. */
const GRIDS = [0.05, 0.01, 0.1, 0] as const
const TURN = Math.PI / 36
useKeys('Arena', {
  'ctrl+z': { says: 'undo', act: () => store.undo() },
  'ctrl+y': { says: 'redo', act: () => store.redo() },
  'ctrl+shift+z': { says: 'redo', act: () => store.redo() },
  's': { says: 'the next seed', act: () => { store.seed++ } },
  'd': { says: 'duplicate', act: () => store.duplicate() },
  'delete': { says: 'take away', act: () => store.remove() },
  'q': { says: 'turn to the left', act: () => store.turnChosen(-TURN) },
  'e': { says: 'turn to the right', act: () => store.turnChosen(TURN) },
  'x': { says: 'mirror', act: () => store.mirrorChosen() },
  'g': { says: 'the grid: 5, 1, 10 cm, none', act: () => { grid.value = GRIDS[(GRIDS.findIndex(g => g === grid.value) + 1) % GRIDS.length]! } },
  'i': { says: 'nearer', act: () => plan.value?.zoomBy(1 / 1.25) },
  'o': { says: 'farther', act: () => plan.value?.zoomBy(1.25) },
  'a': { says: 'all of the arena', act: () => plan.value?.all() },
  'b': { says: 'behind its like', act: () => store.order(-1) },
  'f': { says: 'before its like', act: () => store.order(1) },
  'u': { says: 'the unit of lengths', act: nextLengthUnit },
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

const wrong = computed(() => store.problems.length + store.taskProblems.length)
const saving = computed(() => store.problems.length > 0 ? `✕ ${store.problems.length} wrong: the last good arena stays` : store.taskProblems.length > 0 ? `✕ ${store.taskProblems.length} wrong in the task: the last good one stays` : project.words)
/** What is wrong beside the things themselves. */
const general = computed(() => store.problems.slice(0, 3).map(p => `${p.path}: found ${p.value}; ${p.message}`))

const exportArena = (): void => saveAs(`${String(store.draft['name'] ?? 'arena')}.json`, `${JSON.stringify(store.draft, null, 2)}\n`, 'application/json')
const openFile = usePickedFile('.json', file => void importFile(file))
async function importFile(file: File): Promise<void> {
  try {
    const wrongShape = store.replace(JSON.parse(await file.text()))
    told.value = wrongShape === null ? '' : `${file.name} is no arena document: ${wrongShape}. Nothing was changed.`
  } catch {
    told.value = `${file.name} is no arena document: it is not JSON. Nothing was changed.`
  }
}
</script>

<template>
  <div v-if="ready && !project.missing" class="view" @keydown="press">
    <v-toolbar class="bar">
      <NuxtLink to="/" class="home" title="All projects"><span aria-hidden="true">‹</span><span class="visually-hidden">All projects</span></NuxtLink>
      <b class="title">{{ project.data?.title }}</b>
      <ViewTabs :project="project.data!.id" view="arena" />
      <span class="save" role="status" :class="{ wrong: wrong > 0 }">{{ saving }}</span>
      <span class="gap" />
      <KeyButton :disabled="store.depth.past === 0" keys="Ctrl Z" @click="store.undo()">Undo</KeyButton>
      <KeyButton :disabled="store.depth.future === 0" keys="Ctrl Y" @click="store.redo()">Redo</KeyButton>
      <KeyButton keys="S" says="What the seed draws: the next one" @click="store.seed++">seed {{ store.seed }}</KeyButton>
      <KeyButton keys="G" says="The grid that things snap to" @click="grid = GRIDS[(GRIDS.findIndex(g => g === grid) + 1) % GRIDS.length]!">{{ grid === 0 ? 'no grid' : `grid ${Math.round(grid * 100)} cm` }}</KeyButton>
      <KeyButton keys="U" says="The unit of lengths" @click="nextLengthUnit">{{ lengthUnit }}</KeyButton>
      <v-btn @click="openFile()">Open</v-btn>
      <v-btn @click="exportArena">Save to a file</v-btn>
      <ThemeButton />
    </v-toolbar>
    <SaveConflict />
    <p v-if="told !== ''" class="told" role="alert">{{ told }} <v-btn size="x-small" variant="text" aria-label="Put away" @click="told = ''">✕</v-btn></p>
    <main class="arena">
      <h1 class="visually-hidden">{{ project.data?.title }}: the arena</h1>
      <div class="left">
        <ArenaThings v-model:tool="tool" @middle="plan?.focus(); tool !== null && store.add(tool, (store.arena?.size[0] ?? 2) / 2, (store.arena?.size[1] ?? 2) / 2); tool = null" />
      </div>
      <div class="middle">
        <ArenaPlan ref="plan" v-model:tool="tool" v-model:pointing="pointing" />
        <p v-for="words in general" :key="words" class="problem" role="alert">✕ {{ words }}</p>
        <ArenaPreview />
      </div>
      <div class="right">
        <ArenaThing />
        <ArenaTask v-model:pointing="pointing" />
      </div>
    </main>
  </div>
  <ProjectGate v-else what="the arena" @again="open" />
</template>

<style scoped>
.view { display: flex; flex-direction: column; height: 100vh; min-height: 520px; }
.arena { flex: 1; min-height: 0; display: grid; grid-template-columns: 210px minmax(0, 1fr) 372px; grid-template-rows: minmax(0, 1fr); }
.title { overflow: hidden; text-overflow: ellipsis; }
.home { color: inherit; text-decoration: none; font-size: 22px; padding: 0 8px 3px 4px; }
.save { font-size: 12px; opacity: 0.9; }
.save.wrong { font-weight: 700; opacity: 1; }
.gap { flex: 1; }
.told { background: var(--signal-tint); padding: 6px 14px; border-bottom: 1px solid var(--signal); }
.left { overflow: auto; background: var(--panel); border-right: 1px solid var(--line); }
.middle { display: flex; flex-direction: column; min-height: 0; min-width: 0; }
.right { overflow: auto; background: var(--panel); border-left: 1px solid var(--line); }
.problem { color: var(--error); font-weight: 600; padding: 4px 12px; background: var(--panel); border-top: 1px solid var(--line); }
@media (max-width: 900px) {
  .view { height: auto; min-height: 100vh; }
  .arena { display: block; flex: none; }
  .left, .right { border: 0; overflow: visible; }
  .middle { height: 560px; }
}
</style>
