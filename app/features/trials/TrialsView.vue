<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useKeys } from '~/composables/useKeys'
import { useProjectStore } from '~/draft/project'
import { useBenchStore } from '~/features/bench/bench'
import { useSessionStore } from '~/run/session'
import { useTrialsStore } from './trials'

/** Many runs of a project: what is tried, and what it says. */
const route = useRoute()
const router = useRouter()
const project = useProjectStore()
const bench = useBenchStore()
const session = useSessionStore()
const trials = useTrialsStore()
const ready = ref(false)
async function open(): Promise<void> {
  if (!await project.open(String(route.params['id']))) return
  ready.value = true
  await trials.load(String(route.params['id']))
  // A run is soon looked at: what that takes is loaded while nobody waits.
  session.warm()
  void preloadRouteComponents(`/projects/${trials.project}`)
}
onMounted(open)
onBeforeUnmount(() => trials.close())

/** The run that is being run again to be looked at; null for none. */
const opening = ref<number | null>(null)
async function toBench(number: number, at: number | null): Promise<void> {
  if (opening.value !== null) return
  opening.value = number
  const file = await trials.file(number)
  opening.value = null
  if (file === null) return
  bench.show(file, at)
  await router.push(`/projects/${trials.project}`)
}
const place = computed(() => trials.plans.findIndex(p => p.id === trials.chosen))
function move(by: 1 | -1): void {
  const next = trials.plans[Math.min(trials.plans.length - 1, Math.max(0, place.value + by))]
  if (next !== undefined && next.id !== trials.chosen) trials.choose(next.id)
}
const on = (act: (id: string) => unknown) => (): void => { if (trials.chosen !== null) void act(trials.chosen) }
useKeys('Trials', {
  'ctrl+enter': { says: 'try the plan', act: () => void trials.go() },
  'arrowdown': { says: 'the plan before, after', act: () => move(1) },
  'arrowup': { says: 'the plan before, after', act: () => move(-1) },
  'c': { says: 'cancel the plan that is looked at', act: on(id => trials.cancel(id)) },
  'e': { says: 'write it anew, to change it', act: () => trials.copy() },
  'delete': { says: 'put it away', act: on(id => trials.remove(id)) },
  'ctrl+z': { says: 'bring back what was put away', act: () => void trials.bringBack() },
})
</script>

<template>
  <div v-if="ready && !project.missing" class="view">
    <ProjectBar view="trials" />
    <p v-if="trials.trouble !== null" class="told trouble" role="alert">✕ {{ trials.trouble }} <v-btn size="x-small" variant="text" aria-label="Put away" @click="trials.trouble = null">✕</v-btn></p>
    <p v-if="trials.removed !== null" class="told" role="status">A plan was put away. <v-btn size="small" variant="text" @click="trials.bringBack()">Bring it back</v-btn></p>
    <main class="both">
      <h1 class="visually-hidden">{{ project.data?.title }}: trials</h1>
      <section class="left" aria-label="What is tried">
        <PlanForm />
        <PlanList />
      </section>
      <AnswersPanel :opening="opening" @look="toBench" />
    </main>
  </div>
  <ProjectGate v-else what="the trials" @again="open" />
</template>

<style scoped>
.view { display: flex; flex-direction: column; height: 100vh; min-height: 520px; }
.both { flex: 1; min-height: 0; display: grid; grid-template-columns: minmax(360px, 0.42fr) minmax(0, 1fr); grid-template-rows: minmax(0, 1fr); }
.left { display: flex; flex-direction: column; min-height: 0; overflow: auto; background: var(--panel); border-right: 1px solid var(--line); }
.told { background: var(--signal-tint); padding: 6px 14px; border-bottom: 1px solid var(--signal); }
.trouble { font-weight: 600; }
@media (max-width: 900px) {
  .view { height: auto; min-height: 100vh; }
  .both { display: block; flex: none; }
  .left { border: 0; }
}
</style>
