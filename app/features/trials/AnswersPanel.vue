<script setup lang="ts">
import { computed, ref } from 'vue'
import { useProjectStore } from '~/draft/project'
import { about } from './draft'
import { useTrialsStore } from './trials'

/** What the plan that is looked at says: in words, then as charts, then every run. */
const { opening } = defineProps<{ opening: number | null }>()
const emit = defineEmits<{ look: [number: number, at: number | null] }>()
const trials = useTrialsStore()
const project = useProjectStore()

const summary = computed(() => trials.summary)
const shown = ref<'words' | 'charts' | 'runs'>('words')
const PARTS = [{ value: 'words', title: 'In words' }, { value: 'charts', title: 'Charts' }, { value: 'runs', title: 'Every run' }] as const
/** Results to be told of: with many settings their words would be a wall; the charts show those. */
const MOST_TOLD = 12
/** As they are tried; of settings of dials the best first. */
const told = computed(() => {
  if (summary.value === null) return []
  const { spoken, answers, plan } = summary.value
  const all = spoken.results.map((r, i) => ({ ...r, i, result: answers.results[i]! }))
  return (plan.dials.length === 0 ? all : all.sort((a, b) => b.result.share.value - a.result.share.value)).slice(0, MOST_TOLD)
})
const search = computed(() => summary.value?.search ?? null)
/** Charts are of plans that try all. */
const parts = computed(() => PARTS.filter(p => search.value === null || p.value !== 'charts'))
const part = computed(() => search.value !== null && shown.value === 'charts' ? 'words' : shown.value)
const MOST_FAILURES = 5
/** Settings of dials that may be put into the program: of the program as it stands, once anything is known. */
const dials = computed(() => summary.value === null || summary.value.plan.dials.length === 0 ? [] : summary.value.plan.dials.map(d => d.name))
const progress = computed(() => trials.current?.progress ?? null)
const state = computed(() => {
  const plan = trials.current
  if (plan === null) return ''
  if (plan.state === 'running') return `${plan.done} of ${plan.total} runs${progress.value?.rate == null ? '' : `, ${progress.value.rate.toFixed(1)} a second`}${progress.value?.left == null ? '' : `, about ${about(progress.value.left)} left`}`
  if (plan.state === 'waiting') return 'waits for the plans before it'
  if (plan.state === 'enough') return `${plan.done} of ${plan.total} runs were enough: every share is known to within ${Math.round(100 * (plan.plan?.sure ?? 0))} %`
  if (plan.state === 'cancelled') return `cancelled after ${plan.done} of ${plan.total} runs`
  if (plan.state === 'failed') return plan.why
  return `${plan.done} runs in ${about(plan.spent / 1000)}`
})
const running = computed(() => trials.current?.state === 'running' || trials.current?.state === 'waiting')
</script>

<template>
  <section class="answers" aria-label="What it says" :aria-busy="trials.summing">
    <p v-if="trials.chosen === null" class="empty">What is tried at the left is answered here: how often it works and how sure that is, how long it takes, which program or which value is better, how it fails and where to look.</p>
    <template v-else>
      <header class="head">
        <v-btn-toggle :model-value="part" mandatory aria-label="How it is shown" @update:model-value="shown = $event"><v-btn v-for="p in parts" :key="p.value" :value="p.value">{{ p.title }}</v-btn></v-btn-toggle>
        <span class="small state" role="status">{{ state }}</span>
        <span class="gap" />
        <KeyButton v-if="running" keys="C" @click="trials.cancel(trials.chosen!)">Cancel</KeyButton>
        <KeyButton keys="E" says="Its programs, seeds and ranges into the plan at the left, to be changed" @click="trials.copy()">Change it</KeyButton>
        <v-btn @click="trials.csv()">csv</v-btn>
      </header>
      <v-progress-linear v-if="trials.current?.state === 'running'" :model-value="100 * trials.current.done / trials.current.total" color="signal" height="4" aria-label="How far it is" />
      <div v-if="summary === null" class="part"><v-skeleton-loader type="paragraph@3" /></div>
      <p v-else-if="summary.rows.length === 0" class="empty" role="status">◌ no run is done yet</p>
      <SearchFound v-else-if="part === 'words' && search !== null" class="part words" :search="search" :opening="opening" @look="(number, at) => emit('look', number, at)" />
      <div v-else-if="part === 'words'" class="part words">
        <p v-for="(line, i) in summary.spoken.refused" :key="`r${i}`" class="refused">△ {{ line }}</p>
        <SpokenLines :lines="[...summary.spoken.known, ...summary.spoken.comparisons, ...summary.spoken.plateaus, ...summary.sensitivitySaid]" />
        <article v-for="one in told" :key="one.i" class="one">
          <h2>
            {{ one.program }}<span v-if="one.where !== ''" class="where">, {{ one.where }}</span>
            <v-btn v-if="dials.length > 0 && one.result.runs > 0" size="x-small" variant="text" :aria-label="`use these values: ${one.where}`" @click="trials.use(one.i)">use these values</v-btn>
          </h2>
          <ShareBar :share="one.result.share" :said="one.said" />
          <p>{{ one.said }}</p>
          <ul v-if="one.goals.length > 0" class="small"><li v-for="(goal, g) in one.goals" :key="g">{{ goal }}</li></ul>
          <table v-if="one.failures.length > 0" class="failures">
            <caption class="visually-hidden">How it fails</caption>
            <tbody>
              <tr v-for="(failure, f) in one.failures.slice(0, MOST_FAILURES)" :key="f">
                <td>{{ failure }}</td>
                <td class="do"><v-btn size="small" variant="text" :disabled="opening !== null" @click="emit('look', one.result.failures[f]!.example.number, one.result.failures[f]!.example.at)">{{ opening === one.result.failures[f]!.example.number ? '◌ running it…' : 'look at it' }}</v-btn></td>
              </tr>
            </tbody>
          </table>
        </article>
        <p v-if="summary.spoken.results.length > MOST_TOLD" class="small">and {{ summary.spoken.results.length - MOST_TOLD }} more settings: the charts show all of them.</p>
        <p v-if="trials.used !== null" class="small" role="status">{{ trials.used }} <NuxtLink :to="`/projects/${project.data?.id}`">to the Bench</NuxtLink></p>
      </div>
      <div v-else-if="part === 'charts'" class="part">
        <HeatMap v-if="summary.plan.dials.length === 2" :summary="summary" />
        <SuccessChart v-else :summary="summary" />
        <TimesChart :summary="summary" />
      </div>
      <TrialsTable v-else :rows="summary.rows" :runs="summary.runs" :opening="opening" @look="(number, at) => emit('look', number, at)" />
    </template>
  </section>
</template>

<style scoped>
.answers { display: flex; flex-direction: column; min-height: 0; background: var(--ground); }
.empty { max-width: 460px; line-height: 1.5; padding: 22px 18px; }
.head { display: flex; align-items: center; gap: 10px; padding: 8px 14px; background: var(--panel); border-bottom: 1px solid var(--line); flex: none; }
.gap { flex: 1; }
.part { overflow: auto; min-height: 0; padding: 12px 16px 20px; display: flex; flex-direction: column; gap: 10px; flex: 1; }
.part > * { flex: none; }
.refused { margin: 0; color: var(--warning); font-weight: 600; }
.one { background: var(--panel); border: 1px solid var(--line); border-radius: 4px; padding: 8px 12px 10px; }
.one p { margin: 6px 0 0; line-height: 1.4; }
.one ul { margin: 4px 0 0; padding-left: 20px; }
h2 { font-size: 14px; margin: 0 0 6px; }
.where { font-weight: 400; color: var(--muted); }
.failures { border-collapse: collapse; width: 100%; margin-top: 6px; font-size: 13px; }
.failures td { border-top: 1px solid var(--line); padding: 3px 0; }
.do { text-align: right; white-space: nowrap; padding-left: 10px !important; }
@media (max-width: 900px) { .answers { min-height: 600px; } .head { flex-wrap: wrap; } }
</style>
