<script setup lang="ts">
import { computed } from 'vue'
import type { RunRealism } from '~~/core/devices'
import { readPlan } from '~~/core/trials/plan'
import { usePickedFile } from '~/composables/useFiles'
import { nudgedByKey } from '~/shown/quantities'
import { SHIFTS, VARIATIONS, worldSaid } from '~~/core/trials/varied'
import { AIMS, about, beginOf, planFrom, sizeOf, variedTitle, withAim, type Aim, type PlanDraft } from './draft'
import { useBenchStore } from '~/features/bench/bench'
import { useTrialsStore } from './trials'

/** What is to be tried: programs, seeds, realisms, values of dials, how the world varies. */
const trials = useTrialsStore()
const bench = useBenchStore()
const draft = computed(() => trials.draft)
const change = (what: Partial<PlanDraft>): void => { trials.draft = { ...trials.draft, ...what }; trials.problems = [] }

const programChoices = computed(() => trials.revisions.filter(r => !trials.programs.some(p => p.revision === r.number)).map(r => ({ value: r.number, title: `rev. ${r.number}${r.marked ? ' ★' : ''}${r.ran ? ', ran' : ''}, ${new Date(r.at).toLocaleString(undefined, { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit', hourCycle: 'h23' })}` })))
const pickProgram = usePickedFile('.mindpath,text/plain', async file => trials.addProgram({ name: file.name.replace(/\.mindpath$/, ''), text: await file.text(), revision: null }))

const has = (name: RunRealism): boolean => draft.value.realisms.includes(name)
function toggle(name: RunRealism): void {
  const realisms = bench.realisms.filter(r => r === name ? !has(r) : has(r))
  if (realisms.length > 0) change({ realisms })
}
const dialChoices = computed(() => trials.dials.filter(d => !draft.value.dials.some(x => x.name === d.name)).map(d => ({ value: d.name, title: `${d.name}, now ${d.own}` })))
const MOST_DIALS = 6
function addDial(name: string): void {
  const dial = trials.dials.find(d => d.name === name)
  if (dial !== undefined) change({ dials: [...draft.value.dials, { name, from: dial.from, to: dial.to, count: '5' }] })
}
const setDial = (i: number, what: Partial<PlanDraft['dials'][number]>): void => change({ dials: draft.value.dials.map((d, k) => k === i ? { ...d, ...what } : d) })
const free = (name: string): boolean => !draft.value.world.some(w => w.name === name)
const choice = (value: string) => ({ value, title: variedTitle(value) })
const variedChoices = computed(() => Object.keys(VARIATIONS).filter(free).map(choice))
const movedChoices = computed(() => trials.movable.flatMap(({ name, turns }) => Object.keys(SHIFTS).filter(what => turns || what !== 'turn').map(what => `${name}.${what}`)).filter(free).map(choice))
const addVaried = (name: string): void => change({ world: [...draft.value.world, beginOf(name)] })
const setVaried = (i: number, what: Partial<PlanDraft['world'][number]>): void => change({ world: draft.value.world.map((w, k) => k === i ? { ...w, ...what } : w) })

/** What an arrow key makes of a value, its own unit by one, with alt by a tenth; of a plain number likewise. */
function nudge(event: KeyboardEvent, text: string, set: (text: string) => void): void {
  const next = nudgedByKey(text, event)
  if (next !== null) set(next)
}

const read = computed(() => readPlan(planFrom(draft.value)))
const wrong = computed(() => [...read.value.ok ? [] : read.value.problems, ...trials.problems])
const size = computed(() => {
  if (!read.value.ok) return ''
  const { runs, simulated, seconds } = sizeOf(read.value.value, trials.programs.length, trials.limit, trials.list?.pace ?? null)
  // A figure and its unit stay together.
  return `${draft.value.aim === 'all' ? '' : 'up to '}${runs} runs, ${about(simulated)} simulated at most${seconds === null ? '' : `: about ${about(seconds)}`}`.replaceAll(/(\d) (s|min|h)\b/g, '$1\u00a0$2')
})
</script>

<template>
  <form class="form" aria-label="What is to be tried" @submit.prevent="trials.go()">
    <v-btn-toggle class="aim" :model-value="draft.aim" mandatory aria-label="What it is for" @update:model-value="trials.draft = withAim(draft, $event as Aim)">
      <v-btn v-for="a in AIMS" :key="a.value" :value="a.value" :title="a.says">{{ a.title }}</v-btn>
    </v-btn-toggle>
    <div v-if="draft.aim !== 'all'" class="line">
      <span class="label" aria-hidden="true">within</span>
      <div class="range"><v-text-field class="mono" :model-value="draft.runs" inputmode="numeric" aria-label="How many runs it may take" @update:model-value="change({ runs: $event })" @keydown="nudge($event, draft.runs, runs => change({ runs }))" /> runs</div>
    </div>
    <div class="line">
      <span class="label" aria-hidden="true">programs</span>
      <div class="chips">
        <span v-for="p in trials.programs" :key="p.name" class="chip">{{ p.name }}<v-btn v-if="trials.programs.length > 1" size="x-small" variant="text" :aria-label="`Without ${p.name}`" @click="trials.dropProgram(p.name)">✕</v-btn></span>
        <v-select v-if="programChoices.length > 0" class="add" :model-value="null" :items="programChoices" placeholder="+ revision" aria-label="Add a revision of the program" @update:model-value="trials.addRevision($event!)" />
        <v-btn size="small" variant="text" @click="pickProgram">+ file</v-btn>
      </div>
    </div>
    <div class="line">
      <span class="label" aria-hidden="true">{{ draft.aim === 'all' ? 'seeds' : draft.aim === 'values' ? 'from seed' : 'seed' }}</span>
      <div class="range">
        <v-text-field class="mono" :model-value="draft.seeds[0]" inputmode="numeric" aria-label="First seed" @update:model-value="change({ seeds: [$event, draft.seeds[1]] })" @keydown="nudge($event, draft.seeds[0], v => change({ seeds: [v, draft.seeds[1]] }))" />
        <template v-if="draft.aim === 'all'">
          to
          <v-text-field class="mono" :model-value="draft.seeds[1]" inputmode="numeric" aria-label="Last seed" @update:model-value="change({ seeds: [draft.seeds[0], $event] })" @keydown="nudge($event, draft.seeds[1], v => change({ seeds: [draft.seeds[0], v] }))" />
        </template>
      </div>
    </div>
    <div class="line">
      <span class="label" aria-hidden="true">realism</span>
      <div class="chips" role="group" aria-label="Realism">
        <v-checkbox v-for="name in bench.realisms" :key="name" :model-value="has(name)" :label="name" @update:model-value="toggle(name)" />
      </div>
    </div>
    <div v-for="(dial, i) in draft.aim === 'failure' ? [] : draft.dials" :key="dial.name" class="line">
      <span class="label dial">{{ dial.name }}</span>
      <div class="range">
        <v-text-field class="mono" :model-value="dial.from" :aria-label="`${dial.name} from`" @update:model-value="setDial(i, { from: $event })" @keydown="nudge($event, dial.from, from => setDial(i, { from }))" />
        to
        <v-text-field class="mono" :model-value="dial.to" :aria-label="`${dial.name} to`" @update:model-value="setDial(i, { to: $event })" @keydown="nudge($event, dial.to, to => setDial(i, { to }))" />
        <template v-if="draft.aim === 'all'">in <v-text-field class="mono count" :model-value="dial.count" inputmode="numeric" :aria-label="`How many values of ${dial.name}`" @update:model-value="setDial(i, { count: $event })" @keydown="nudge($event, dial.count, count => setDial(i, { count }))" /></template>
        <v-btn size="x-small" variant="text" :aria-label="`Without ${dial.name}`" @click="change({ dials: draft.dials.filter((_, k) => k !== i) })">✕</v-btn>
      </div>
    </div>
    <div v-for="(w, i) in draft.world" :key="w.name" class="line">
      <span class="label">{{ variedTitle(w.name) }}</span>
      <div class="range">
        <v-text-field class="mono" :model-value="w.from" :aria-label="`${variedTitle(w.name)} from`" @update:model-value="setVaried(i, { from: $event })" @keydown="nudge($event, w.from, from => setVaried(i, { from }))" />
        to
        <v-text-field class="mono" :model-value="w.to" :aria-label="`${variedTitle(w.name)} to`" @update:model-value="setVaried(i, { to: $event })" @keydown="nudge($event, w.to, to => setVaried(i, { to }))" />
        <v-btn size="x-small" variant="text" :aria-label="`Without ${variedTitle(w.name)}`" @click="change({ world: draft.world.filter((_, k) => k !== i) })">✕</v-btn>
      </div>
    </div>
    <div class="line">
      <span class="label" aria-hidden="true">and</span>
      <div class="chips">
        <v-select v-if="draft.aim !== 'failure' && dialChoices.length > 0 && draft.dials.length < MOST_DIALS" class="add" :model-value="null" :items="dialChoices" placeholder="+ dial" aria-label="Add a dial" @update:model-value="addDial($event!)" />
        <v-select v-if="variedChoices.length > 0" class="add" :model-value="null" :items="variedChoices" placeholder="+ what varies" aria-label="Let something of the world vary" @update:model-value="addVaried($event!)" />
        <v-select v-if="movedChoices.length > 0" class="add" :model-value="null" :items="movedChoices" placeholder="+ thing moved" aria-label="Let a thing stand elsewhere" @update:model-value="addVaried($event!)" />
      </div>
    </div>
    <div v-for="(known, i) in draft.aim === 'all' ? draft.cases : []" :key="`case${i}`" class="line">
      <span class="label">{{ i === 0 ? 'known to be hard' : '' }}</span>
      <div class="chips"><span class="chip">{{ worldSaid(known.world) }}, seed {{ known.seed }}<v-btn size="x-small" variant="text" :aria-label="`Without the world with ${worldSaid(known.world)}`" @click="change({ cases: draft.cases.filter((_, k) => k !== i) })">✕</v-btn></span></div>
    </div>
    <div class="line">
      <span class="label" aria-hidden="true">ends</span>
      <v-text-field class="mono limit" :model-value="draft.limit" :placeholder="`${trials.limit} s, as the task says`" aria-label="Seconds after which each run ends" @update:model-value="change({ limit: $event })" @keydown="nudge($event, draft.limit, limit => change({ limit }))" />
    </div>
    <div v-if="draft.aim === 'all'" class="line">
      <span class="label" aria-hidden="true">stops</span>
      <v-checkbox :model-value="draft.sure" label="early, once all is known to within 5 %" @update:model-value="change({ sure: $event === true })" />
    </div>
    <div v-if="wrong.length > 0" class="wrong" role="alert">
      <p v-for="(p, i) in wrong" :key="i">✕ <code>{{ p.path }}</code> {{ p.value ? `${p.value}: ` : '' }}{{ p.message }}</p>
    </div>
    <div class="do">
      <KeyButton type="submit" class="go" keys="Ctrl ⏎" :disabled="!read.ok || trials.sending">{{ draft.aim === 'all' ? 'Try it' : 'Look for it' }}</KeyButton>
      <span class="small" aria-live="polite">{{ size }}</span>
    </div>
  </form>
</template>

<style scoped>
.form { padding: 10px 12px; border-bottom: 1px solid var(--line); display: flex; flex-direction: column; gap: 5px; flex: none; }
.aim { align-self: start; margin-bottom: 3px; }
.line { display: grid; grid-template-columns: 78px 1fr; gap: 8px; align-items: center; min-height: 30px; }
.label { color: var(--muted); font-size: 13px; line-height: 1.15; }
.dial { color: var(--ink); font-weight: 600; }
.chips { display: flex; flex-wrap: wrap; gap: 4px 6px; align-items: center; }
.chip { display: inline-flex; align-items: center; border: 1px solid var(--line); border-radius: 4px; padding: 2px 8px; font-size: 13px; background: var(--field); }
.range { display: flex; gap: 6px; align-items: center; font-size: 13px; }
.range > .v-input { max-width: 92px; min-width: 0; }
.range > .count { max-width: 56px; }
.add { flex: none; width: 116px; }
.limit { max-width: 230px; }
.form :deep(.v-label) { font-size: 13px; }
.wrong { padding: 4px 0; color: var(--error); font-size: 13px; font-weight: 600; }
.wrong p { margin: 0; }
.wrong code { font-family: var(--mono); font-weight: 400; }
.do { display: flex; align-items: center; gap: 12px; padding-top: 2px; }
.go { flex: none; background: var(--signal); color: var(--on-signal); border-color: var(--signal); }
</style>
