<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useProjectStore } from '~/draft/project'
import { useRobotStore } from '~/features/robot/robot'
import { STYLES } from './compare'
import SensorFit from './SensorFit.vue'
import { useRunsStore } from './runs'

/** What the compared runs say of their robot, the fit beside what was measured, and a button that keeps it with the robot. */
const runs = useRunsStore()
const project = useProjectStore()
const robots = useRobotStore()
const open = ref(false)
const kept = ref(false)
/** What is said of each run, by its id. */
const said = ref<Record<string, { end: string, truths: string }>>({})
const of = (id: string): { end: string, truths: string } => said.value[id] ??= { end: '', truths: '' }
const lines = computed(() => runs.compared.map((run, i) => ({ id: run.id, style: STYLES[i]!, name: runs.byId.get(run.id)?.name ?? '' })))
const ask = (): void => { kept.value = false; runs.measure(runs.chosen.map(of)) }
watch(() => runs.measured, () => { kept.value = false })
const wrong = (id: string, field: 'end' | 'truths'): string => runs.measured?.ok === false && runs.measured.run === id && runs.measured.field === field ? runs.measured.message : ''
const found = computed(() => runs.measured?.ok === true ? runs.measured : null)

/** Ends of ways on a plan, a square about all of them; metres. */
const plan = computed(() => {
  const ends = found.value?.ends ?? []
  if (ends.length === 0) return null
  // A straight way ends far off: what is looked at is how far from where it was measured.
  const off = ends.map(({ end, believed, found: led }) => ({ believed: [believed.right - end.right, end.forward - believed.forward] as const, led: [led.right - end.right, end.forward - led.forward] as const }))
  const most = 1.15 * Math.max(0.01, ...off.flatMap(o => [...o.believed, ...o.led].map(Math.abs)))
  return { most, off }
})

function keep(): void {
  if (found.value === null || project.data === null) return
  robots.load()
  robots.change('measured', (d) => { d['measured'] = JSON.parse(JSON.stringify(found.value!.document)) as object })
  kept.value = true
}
</script>

<template>
  <section class="measure" aria-label="Measure the robot">
    <h2>The robot by these runs</h2>
    <v-btn v-if="!open" size="small" title="What they say of its wheels and of how its sensors err" @click="open = true; ask()">Measure the robot</v-btn>
    <template v-else>
      <p class="small">Of a real robot, where it stood at the end, seen from where it began; and what was true of a device while it stood. Simulated robots know where they ended.</p>
      <div v-for="l in lines" :key="l.id" class="run">
        <b>{{ l.style.letter }}</b>
        <v-text-field v-model="of(l.id).end" placeholder="ended at: 3 cm, -5 cm, 4 deg" :error="wrong(l.id, 'end') !== ''" :aria-label="`Where ${l.style.letter} ended`" @change="ask" />
        <v-text-field v-model="of(l.id).truths" placeholder="true: sonar 50 cm" :error="wrong(l.id, 'truths') !== ''" :aria-label="`What is true in ${l.style.letter}`" @change="ask" />
      </div>
      <p v-if="runs.measured?.ok === false" class="wrong" role="alert">✕ {{ lines.find(l => runs.measured?.ok === false && l.id === runs.measured.run)?.style.letter }}: {{ runs.measured.message }}</p>
      <template v-if="found !== null">
        <div class="found" role="status">
          <svg v-if="plan !== null" class="ends" :viewBox="`${-plan.most} ${-plan.most} ${2 * plan.most} ${2 * plan.most}`" role="img" aria-label="How far ways ended from where they were measured: by the document, and with what was found">
            <path :d="`M ${-plan.most} 0 H ${plan.most} M 0 ${-plan.most} V ${plan.most}`" class="axes" vector-effect="non-scaling-stroke" />
            <template v-for="(o, i) in plan.off" :key="i">
              <circle class="believed" :cx="o.believed[0]" :cy="o.believed[1]" :r="plan.most * 0.045" vector-effect="non-scaling-stroke" />
              <path class="led" :d="`M ${o.led[0] - plan.most * 0.04} ${o.led[1] - plan.most * 0.04} l ${plan.most * 0.08} ${plan.most * 0.08} m 0 ${-plan.most * 0.08} l ${-plan.most * 0.08} ${plan.most * 0.08}`" vector-effect="non-scaling-stroke" />
            </template>
          </svg>
          <div>
            <p v-if="plan !== null" class="small">Middle: where it was measured. ○ where the document leads, ✕ what was found. From side to side {{ (200 * plan.most).toFixed(0) }} cm.</p>
            <pre>{{ found.says.join('\n') }}</pre>
            <p v-if="!found.found" class="small">These runs say nothing of it: a square to the left, one to the right and a straight way tell the wheels, standing tells noise (docs/measuring.md).</p>
            <v-btn v-else size="small" :disabled="kept" title="As its realism measured; undo in the Robot view takes it back" @click="keep">{{ kept ? '● kept with the robot: R on the Bench' : 'Keep it with the robot' }}</v-btn>
          </div>
        </div>
        <div class="fits"><SensorFit v-for="fit in found.fits" :key="fit.device" :fit="fit" /></div>
      </template>
    </template>
  </section>
</template>

<style scoped>
.measure { display: flex; flex-direction: column; gap: 6px; align-items: flex-start; }
.measure > * { width: 100%; }
.measure > .v-btn { width: auto; }
h2 { font-size: 12.5px; margin: 4px 0 0; color: var(--muted); }
p { margin: 0; }
.run { display: grid; grid-template-columns: 18px 1fr 1fr; gap: 6px; align-items: start; }
.run b { line-height: 30px; }
.found { display: grid; grid-template-columns: auto 1fr; gap: 12px; align-items: start; }
.found > :last-child:first-child { grid-column: 1 / -1; }
.fits { display: grid; grid-template-columns: 1fr 1fr; gap: 8px 10px; }
.ends { width: 150px; height: 150px; background: var(--panel); border: 1px solid var(--line); }
.axes { stroke: var(--line); fill: none; }
.believed { fill: none; stroke: var(--muted); stroke-width: 2; }
.led { fill: none; stroke: var(--signal); stroke-width: 2; }
.wrong { color: var(--error); font-weight: 600; font-size: 13px; overflow-wrap: anywhere; }
pre { font-family: var(--text); font-size: 13px; line-height: 1.45; margin: 4px 0 8px; white-space: pre-wrap; }
@media print { .measure { display: none; } }
</style>
