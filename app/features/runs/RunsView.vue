<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useDroppedFile, usePickedFile } from '~/composables/useFiles'
import { useKeys } from '~/composables/useKeys'
import { useProjectStore } from '~/draft/project'
import { useBenchStore } from '~/features/bench/bench'
import { fileName, saveAs } from '~/utils/files'
import { useSessionStore } from '~/run/session'
import { useRunsStore } from './runs'

/** The kept runs of a project: looked through, named, compared, opened on the bench. */
const route = useRoute()
const router = useRouter()
const project = useProjectStore()
const bench = useBenchStore()
const runs = useRunsStore()
const session = useSessionStore()
const ready = ref(false)
async function open(): Promise<void> {
  if (!await project.open(String(route.params['id']))) return
  ready.value = true
  await runs.load(String(route.params['id']))
  // A run is soon opened: what that takes is loaded while nobody waits.
  session.warm()
  void preloadRouteComponents(`/projects/${runs.project}`)
}
onMounted(open)
onBeforeUnmount(() => runs.close())

/** The run that keys act on. */
const at = ref<string | null>(null)
const current = computed(() => runs.byId.get(at.value ?? '') ?? runs.runs[0] ?? null)
function move(by: 1 | -1): void {
  const i = runs.runs.findIndex(r => r.id === current.value?.id)
  at.value = runs.runs[Math.min(runs.runs.length - 1, Math.max(0, at.value === null ? 0 : i + by))]?.id ?? null
}
async function toBench(id: string): Promise<void> {
  const file = await runs.file(id)
  if (file === null) return
  bench.show(file)
  await router.push(`/projects/${runs.project}`)
}
async function saveFile(id: string): Promise<void> {
  const [file, run] = [await runs.file(id), runs.byId.get(id)]
  if (file !== null && run !== undefined) saveAs(`${fileName(run.name === '' ? project.data?.title ?? '' : run.name, 'run')}-${run.seed}.mindrun`, new Blob([file]), 'application/octet-stream')
}
/** What is to be said of what a board reported. */
const reported = ref<readonly string[]>([])
const KEPT = 'mindpath tape'
/** A run's file, or what a board reported over its serial line. */
async function takeFile(file: File): Promise<void> {
  reported.value = []
  const bytes = new Uint8Array(await file.arrayBuffer())
  if (file.name.endsWith('.mindrun') || new TextDecoder('latin1').decode(bytes.subarray(0, KEPT.length)) === KEPT) { await runs.receive(bytes); return }
  const { data } = project
  if (data === null) return
  reported.value = await runs.receiveReport(file.name, { title: data.title, text: new TextDecoder().decode(bytes), inputs: { robot: data.robot, arena: data.arena, task: data.task ?? null, program: project.program, realism: 'ideal', seed: 1, limit: null } })
}
const pickFile = usePickedFile('.mindrun,.txt,.log', file => void takeFile(file))
useDroppedFile(file => void takeFile(file))

const on = (act: (id: string) => unknown) => (): void => {
  if (current.value === null) return
  at.value = current.value.id
  void act(at.value)
}
useKeys('Runs', {
  'arrowdown': { says: 'the run before, after', act: () => move(1) },
  'arrowup': { says: 'the run before, after', act: () => move(-1) },
  'enter': { says: 'open it on the bench', act: on(toBench) },
  'x': { says: 'compare it, and no longer', act: on(id => runs.choose(id)) },
  's': { says: 'a star: it stays', act: on(id => runs.change(id, { starred: runs.byId.get(id)?.starred !== true })) },
  'delete': { says: 'put it away', act: on(id => runs.remove(id)) },
  'ctrl+z': { says: 'bring back what was put away', act: () => void runs.bringBack() },
})
</script>

<template>
  <div v-if="ready && !project.missing" class="view">
    <ProjectBar view="runs">
      <KeyButton says="A run from a file, NAME.mindrun, or what a board reported over its serial line; or drop it on the page" @click="pickFile">Open a run…</KeyButton>
    </ProjectBar>
    <p v-if="runs.trouble !== null" class="told trouble" role="alert">✕ {{ runs.trouble }} <v-btn size="x-small" variant="text" aria-label="Put away" @click="runs.trouble = null">✕</v-btn></p>
    <p v-if="runs.removed !== null" class="told" role="status">A run was put away. <v-btn size="small" variant="text" @click="runs.bringBack()">Bring it back</v-btn></p>
    <p v-if="reported.length > 0" class="told" role="status">From the board: {{ reported.join(' ') }} <v-btn size="x-small" variant="text" aria-label="Put away" @click="reported = []">✕</v-btn></p>
    <main class="both">
      <h1 class="visually-hidden">{{ project.data?.title }}: the runs</h1>
      <section class="list" aria-label="Kept runs">
        <p v-if="runs.list !== null && runs.runs.length === 0" class="empty">No runs yet. Every run of a program that goes on for a second is kept here by itself: press Run on the <NuxtLink :to="`/projects/${runs.project}`">Bench</NuxtLink>.</p>
        <template v-else-if="runs.list !== null">
          <RunsChart />
          <RunsTable :current="at === null ? null : current?.id ?? null" @at="at = $event" @open="toBench" @save="saveFile" />
        </template>
        <v-skeleton-loader v-else type="table-row@8" />
      </section>
      <CompareRuns />
    </main>
  </div>
  <ProjectGate v-else what="the runs" @again="open" />
</template>

<style scoped>
.view { display: flex; flex-direction: column; height: 100vh; min-height: 520px; }
.both { flex: 1; min-height: 0; display: grid; grid-template-columns: minmax(0, 1.3fr) minmax(0, 1fr); grid-template-rows: minmax(0, 1fr); }
.list { display: flex; flex-direction: column; min-height: 0; background: var(--panel); border-right: 1px solid var(--line); }
.told { background: var(--signal-tint); padding: 6px 14px; border-bottom: 1px solid var(--signal); }
.trouble { font-weight: 600; }
.empty { padding: 22px 18px; max-width: 460px; line-height: 1.5; }
/* The compared runs alone: a page to hand in. */
@media print {
  .view { height: auto; display: block; }
  .view > .bar, .list, .told { display: none; }
  .both { display: block; }
}
@media (max-width: 900px) {
  .view { height: auto; min-height: 100vh; }
  .both { display: block; flex: none; }
  .list { border: 0; height: 560px; overflow: auto hidden; }
  .list > * { min-width: 600px; }
}
</style>
