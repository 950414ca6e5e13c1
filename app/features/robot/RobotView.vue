<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { LARGEST_CLIPS, readWav, toUrdf } from '~~/core/robot'
import { lengthUnit, nextLengthUnit } from '~/shown/lengths'
import { placeColor } from '~/shown/readings'
import { useKeys } from '~/composables/useKeys'
import { useProjectStore } from '~/draft/project'
import { useRobotStore } from './robot'

/** The robot of a project: what is on it, where it sits, what it is wired to. */
const route = useRoute()
const project = useProjectStore()
const store = useRobotStore()
const ready = ref(false)
const told = ref('')

onMounted(async () => {
  const id = String(route.params['id'])
  if (await project.open(id)) {
    store.load()
    ready.value = true
  }
})
onBeforeUnmount(() => void project.save())

useKeys({
  'ctrl+z': () => store.undo(),
  'ctrl+y': () => store.redo(),
  'ctrl+shift+z': () => store.redo(),
  'u': nextLengthUnit,
  'd': () => store.duplicate(),
  'delete': () => store.remove(),
})

/** The same colour for a device as on the bench. */
const colors = computed(() => new Map((store.draft.devices ?? []).map((d, i) => [d.name, `rgb(var(--v-theme-${placeColor(i)}))`] as const)))
const saving = computed(() => store.problems.length > 0 ? `✕ ${store.problems.length} wrong: the last good robot stays` : project.words)

function download(name: string, text: string, type: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([text], { type }))
  link.download = name
  link.click()
  URL.revokeObjectURL(link.href)
}
const exportRobot = (): void => download(`${String(store.draft['name'] ?? 'robot')}.json`, `${JSON.stringify(store.draft, null, 2)}\n`, 'application/json')
const exportUrdf = (): void => { if (store.robot !== null) download(`${store.robot.name}.urdf`, toUrdf(store.robot), 'application/xml') }

async function importFile(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (file === undefined) return
  if (/\.wav$/i.test(file.name)) return importClip(file)
  try {
    const wrong = store.replace(JSON.parse(await file.text()))
    told.value = wrong === null ? '' : `${file.name} is no robot document: ${wrong}. Nothing was changed.`
  } catch {
    told.value = `${file.name} is no robot document: it is not JSON. Nothing was changed.`
  }
}
/** A WAV file becomes a clip of the robot's horn, or nothing is stored and why is said. */
async function importClip(file: File): Promise<void> {
  const bytes = new Uint8Array(await file.arrayBuffer())
  const base64 = btoa(Array.from(bytes, b => String.fromCharCode(b)).join(''))
  const read = readWav(base64)
  const clips = (store.draft['clips'] ?? []) as { wav?: string }[]
  const together = clips.reduce((sum, c) => sum + (c.wav?.length ?? 0) * 3 / 4, bytes.length)
  if (read.ok && together > LARGEST_CLIPS) {
    told.value = `${file.name}: with it all clips are ${(together / 1e6).toFixed(1)} MB; allowed are ${LARGEST_CLIPS / 1e6} MB together. Nothing was stored.`
    return
  }
  if (!read.ok) { told.value = `${file.name}: ${read.message}. Nothing was stored.`; return }
  const name = file.name.replace(/\.wav$/i, '').replaceAll(/[^A-Za-z0-9_]/g, '_').replace(/^([^A-Za-z])/, 'c$1').slice(0, 32)
  store.change('', (d) => { ((d['clips'] ??= []) as unknown[]).push({ name, wav: base64 }) })
  told.value = `Clip ${name} kept: play ${name}`
}
</script>

<template>
  <div v-if="project.missing" class="missing"><h1>This project cannot be opened</h1><p>{{ project.trouble }}</p><NuxtLink to="/">All projects</NuxtLink></div>
  <div v-else-if="ready" class="robot">
    <header class="bar">
      <NuxtLink to="/" class="home" title="All projects"><span aria-hidden="true">‹</span><span class="visually-hidden">All projects</span></NuxtLink>
      <b>{{ project.data?.title }}</b>
      <ViewTabs :project="project.data!.id" view="robot" />
      <span class="save" role="status" :class="{ wrong: store.problems.length > 0 }">{{ saving }}</span>
      <span class="gap" />
      <button type="button" :disabled="store.depth.past === 0" @click="store.undo()">Undo<span class="key">Ctrl Z</span></button>
      <button type="button" :disabled="store.depth.future === 0" @click="store.redo()">Redo<span class="key">Ctrl Y</span></button>
      <button type="button" title="The unit of lengths" @click="nextLengthUnit">{{ lengthUnit }}<span class="key">U</span></button>
      <label class="file">Open a file<input type="file" accept=".json,.wav" @change="importFile"></label>
      <button type="button" @click="exportRobot">Save to a file</button>
      <button type="button" :disabled="store.robot === null" title="The open robot description, XML" @click="exportUrdf">URDF</button>
    </header>
    <div class="across"><SaveConflict /></div>
    <p v-if="told !== ''" class="told" role="alert">{{ told }} <button type="button" @click="told = ''">✕</button></p>
    <div class="left">
      <RobotDevices :colors="colors" />
      <RobotShelf />
    </div>
    <div class="middle">
      <RobotDrawing side="above" :colors="colors" />
      <RobotDrawing side="side" :colors="colors" />
    </div>
    <aside class="right">
      <RobotDevice v-if="store.device !== null" />
      <RobotBody v-else />
      <RobotPoses />
      <RobotBudget />
    </aside>
  </div>
</template>

<style scoped>
.robot { display: grid; height: 100vh; min-height: 520px; grid-template-columns: 230px minmax(0, 1fr) 372px; grid-template-rows: auto auto auto minmax(0, 1fr); }
.across { grid-column: 1 / -1; }
.bar { grid-column: 1 / -1; display: flex; align-items: center; gap: 8px; height: var(--bar-height); padding: 0 10px; background: var(--bar); color: var(--on-bar); white-space: nowrap; }
.home { color: inherit; text-decoration: none; font-size: 22px; padding: 0 8px 3px 4px; }
.save { font-size: 12px; opacity: 0.9; }
.save.wrong { font-weight: 700; opacity: 1; }
.gap { flex: 1; }
.bar button, .file { background: var(--bar-field); color: inherit; font-weight: 600; border-radius: 5px; height: 30px; padding: 0 10px; display: inline-flex; align-items: center; cursor: pointer; }
.bar button:disabled { opacity: 0.45; }
.file input { position: absolute; width: 1px; height: 1px; opacity: 0; }
.file:focus-within { outline: 2px solid var(--signal); }
.told { grid-column: 1 / -1; background: var(--signal-tint); padding: 6px 14px; border-bottom: 1px solid var(--signal); }
.left { grid-row: 4; overflow: auto; background: var(--panel); border-right: 1px solid var(--line); }
.middle { grid-row: 4; display: flex; flex-direction: column; min-height: 0; min-width: 0; }
.right { grid-row: 4; overflow: auto; background: var(--panel); border-left: 1px solid var(--line); }
.missing { padding: 60px; }
</style>
