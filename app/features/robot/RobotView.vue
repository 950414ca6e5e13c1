<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { toUrdf } from '~~/core/robot'
import { usePickedFile } from '~/composables/useFiles'
import { saveAs } from '~/utils/files'
import { useKeptFiles } from './kept'
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

async function open(): Promise<void> {
  if (await project.open(String(route.params['id']))) {
    store.load()
    ready.value = true
  }
}
onMounted(open)
onBeforeUnmount(() => void project.save())

useKeys('Robot', {
  'ctrl+z': { says: 'undo', act: () => store.undo() },
  'ctrl+y': { says: 'redo', act: () => store.redo() },
  'ctrl+shift+z': { says: 'redo', act: () => store.redo() },
  'u': { says: 'the unit of lengths', act: nextLengthUnit },
  'd': { says: 'duplicate the device', act: () => store.duplicate() },
  'delete': { says: 'remove the device', act: () => store.remove() },
})

/** The same colour for a device as on the bench. */
const colors = computed(() => new Map((store.draft.devices ?? []).map((d, i) => [d.name, `rgb(var(--v-theme-${placeColor(i)}))`] as const)))
const saving = computed(() => store.problems.length > 0 ? `✕ ${store.problems.length} wrong: the last good robot stays` : project.words)

const exportRobot = (): void => saveAs(`${String(store.draft['name'] ?? 'robot')}.json`, `${JSON.stringify(store.draft, null, 2)}\n`, 'application/json')
const exportUrdf = (): void => { if (store.robot !== null) saveAs(`${store.robot.name}.urdf`, toUrdf(store.robot), 'application/xml') }

const openFile = usePickedFile('.json,.wav,image/png,image/jpeg,image/webp,image/gif', file => void importFile(file))
const { takeClip, takePicture } = useKeptFiles()
async function importFile(file: File): Promise<void> {
  if (/\.wav$/i.test(file.name)) { told.value = await takeClip(file); return }
  if (file.type.startsWith('image/')) { told.value = await takePicture(file); return }
  try {
    const wrong = store.replace(JSON.parse(await file.text()))
    told.value = wrong === null ? '' : `${file.name} is no robot document: ${wrong}. Nothing was changed.`
  } catch {
    told.value = `${file.name} is no robot document: it is not JSON. Nothing was changed.`
  }
}
</script>

<template>
  <div v-if="ready && !project.missing" class="view">
    <v-toolbar class="bar">
      <NuxtLink to="/" class="home" title="All projects"><span aria-hidden="true">‹</span><span class="visually-hidden">All projects</span></NuxtLink>
      <b class="title">{{ project.data?.title }}</b>
      <ViewTabs :project="project.data!.id" view="robot" />
      <span class="save" role="status" :class="{ wrong: store.problems.length > 0 }">{{ saving }}</span>
      <span class="gap" />
      <KeyButton :disabled="store.depth.past === 0" keys="Ctrl Z" @click="store.undo()">Undo</KeyButton>
      <KeyButton :disabled="store.depth.future === 0" keys="Ctrl Y" @click="store.redo()">Redo</KeyButton>
      <KeyButton keys="U" says="The unit of lengths" @click="nextLengthUnit">{{ lengthUnit }}</KeyButton>
      <v-btn @click="openFile()">Open a file</v-btn>
      <v-btn @click="exportRobot">Save to a file</v-btn>
      <KeyButton :disabled="store.robot === null" says="The open robot description, XML" @click="exportUrdf">URDF</KeyButton>
      <ThemeButton />
    </v-toolbar>
    <SaveConflict />
    <p v-if="told !== ''" class="told" role="alert">{{ told }} <v-btn size="x-small" variant="text" aria-label="Put away" @click="told = ''">✕</v-btn></p>
    <main class="robot">
      <h1 class="visually-hidden">{{ project.data?.title }}: the robot</h1>
      <div class="left">
        <RobotDevices :colors="colors" />
        <RobotShelf />
      </div>
      <div class="middle">
        <RobotDrawing side="above" :colors="colors" />
        <RobotDrawing side="side" :colors="colors" />
      </div>
      <div class="right">
        <RobotDevice v-if="store.device !== null" />
        <RobotBody v-else />
        <RobotPoses />
        <RobotKept @told="words => told = words" />
        <RobotBudget />
      </div>
    </main>
  </div>
  <ProjectGate v-else what="the robot" @again="open" />
</template>

<style scoped>
.view { display: flex; flex-direction: column; height: 100vh; min-height: 520px; }
.robot { flex: 1; min-height: 0; display: grid; grid-template-columns: 230px minmax(0, 1fr) 372px; grid-template-rows: minmax(0, 1fr); position: relative; }
.title { overflow: hidden; text-overflow: ellipsis; }
.home { color: inherit; text-decoration: none; font-size: 22px; padding: 0 8px 3px 4px; }
.save { font-size: 12px; opacity: 0.9; }
.save.wrong { font-weight: 700; opacity: 1; }
.gap { flex: 1; }
.told { background: var(--signal-tint); padding: 6px 14px; border-bottom: 1px solid var(--signal); }
.left { overflow: auto; background: var(--panel); border-right: 1px solid var(--line); }
.middle { display: flex; flex-direction: column; min-height: 0; min-width: 0; }
.right { overflow: auto; background: var(--panel); border-left: 1px solid var(--line); }
/* Narrow, or twice as large: one below the other, and the page scrolls under the bar. */
@media (max-width: 900px) {
  .view { height: auto; min-height: 100vh; }
  .robot { display: block; flex: none; }
  .left, .right { border: 0; overflow: visible; }
  .middle { height: 620px; }
}
</style>
