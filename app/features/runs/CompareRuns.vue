<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { layOut, readArena } from '~~/core/arena'
import { apart, differingSaid, type Apart, type Comparison } from '~~/core/runs'
import { sidesOf } from '~/draft/differences'
import { shownValue } from '~/shown/readings'
import { STYLES, type Compared } from './compare'
import { FIGURES, figureText, ruleName, type Figure } from './figures'
import { useKept } from '~/composables/useKept'
import { useProjectStore } from '~/draft/project'
import { useRunsStore } from './runs'

/** The chosen runs side by side: their ways and ghosts on the plan, who had control when, what they came to, and where they first differ. */
const runs = useRunsStore()
const project = useProjectStore()
const all = computed(() => runs.compared.flatMap((run, i) => { const row = runs.byId.get(run.id); return row === undefined ? [] : [{ run, row, style: STYLES[i]! }] }))
/** What all of them are laid by: their start, or the first time that something happened in each. '' for the start. */
const by = ref('')
const events = computed(() => [...all.value[0]?.run.firsts.keys() ?? []].filter(event => all.value.every(({ run }) => run.firsts.has(event))))
/** When that was in a run, seconds from its start. */
const zero = (run: Compared): number => (run.firsts.get(by.value) ?? 0) * run.dt
/** Before and after that, as far as the longest goes. */
const earliest = computed(() => Math.min(0, ...all.value.map(({ run }) => -zero(run))))
const latest = computed(() => Math.max(0, ...all.value.map(({ run }) => run.rows * run.dt - zero(run))))
const longest = computed(() => latest.value - earliest.value)
/** The instant looked at, seconds from what all are laid by. */
const clock = ref(0)
watch(events, (events) => { if (!events.includes(by.value)) by.value = '' })
watch([() => runs.chosen, by], () => { clock.value = Math.min(Math.max(clock.value, earliest.value), latest.value) })

const plan = computed(() => {
  const first = all.value[0]
  if (first === undefined) return null
  const read = readArena(first.run.arena)
  return read.ok ? layOut(read.value, first.run.seed) : null
})
/** Runs of another arena or seed stand on this one's plan all the same: it is said. */
const elsewhere = computed(() => all.value.filter(({ run }) => JSON.stringify(run.arena) !== JSON.stringify(all.value[0]!.run.arena) || run.seed !== all.value[0]!.run.seed).map(({ style }) => style.letter))
function points({ way: { places } }: Compared): string {
  const text: string[] = []
  for (let i = 0; i < places.length; i += 3) text.push(`${places[i]!.toFixed(3)},${places[i + 1]!.toFixed(3)}`)
  return text.join(' ')
}
/** Where a run's robot was at the clock; of one that is over, where it ended. */
function ghost(run: Compared): { x: number, y: number, turn: number } | null {
  const { way: { places, every, first }, dt } = run
  const i = Math.min(places.length / 3 - 1, Math.round(((clock.value + zero(run)) / dt - first) / every))
  return i < 0 ? null : { x: places[3 * i]!, y: places[3 * i + 1]!, turn: places[3 * i + 2]! * 180 / Math.PI }
}

const share = (seconds: number): number => longest.value === 0 ? 0 : seconds / longest.value * 100
/** Where an instant of a run stands, of a hundred. */
const place = (run: Compared, seconds: number): number => share(seconds - zero(run) - earliest.value)
const lanes = computed(() => [...new Set(all.value.flatMap(({ run }) => run.lanes.map(l => l.name)))])
const bandsOf = (run: Compared, lane: string) => run.lanes.find(l => l.name === lane)?.bands.filter(b => b.rule >= 0) ?? []

function change(figure: Figure, i: number): string {
  const by = figure.of(all.value[i]!.row.outline) - figure.of(all.value[0]!.row.outline)
  return i === 0 || by === 0 ? '' : `${by > 0 ? '+' : '−'}${figureText(figure, Math.abs(by))}`
}
/** Which share of its time each rule had control: A's rules with those that stand for them in the others, then what only others have. */
const shares = computed(() => {
  const rows: { name: string, shares: (number | undefined)[] }[] = []
  const nothing = (): undefined[] => all.value.map(() => undefined)
  all.value.forEach(({ run, row: { outline } }, i) => {
    outline.rules.forEach((rule, number) => {
      const like = i === 0 ? undefined : run.like.get(number)
      const row = like === undefined ? undefined : rows[like]
      if (row !== undefined) { row.shares[i] = rule.share; return }
      const shares: (number | undefined)[] = nothing()
      shares[i] = rule.share
      rows.push({ name: ruleName(rule, run.program, lanes.value.length), shares })
    })
  })
  return rows
})
const goals = computed(() => [...new Set(all.value.flatMap(({ row }) => row.outline.goals.map(g => g.name)))])
function goalOf(i: number, name: string): string {
  const goal = all.value[i]!.row.outline.goals.find(g => g.name === name)
  if (goal === undefined) return '—'
  return `${goal.status === 'met' ? '●' : goal.status === 'failed' ? '✕' : '○'}${goal.at === null ? '' : ` ${goal.at.toFixed(1)} s`}${goal.progress === '' ? '' : ` ${goal.progress}`}`
}

/** From when on there is a tape of all: those that went on from another have it from there. */
const since = computed(() => Math.max(0, ...all.value.map(({ run }) => run.first * run.dt)))
const wentOn = computed(() => all.value.filter(({ run }) => run.first > 0).map(({ style }) => style.letter))
/** Where a run first differs from A. */
function outcome(found: Comparison): string {
  switch (found.found) {
    case 'none': return `the same as far as can be seen${since.value > 0 ? `, from ${since.value.toFixed(2)} s on` : ''}`
    case 'length': return `the same until ${found.time.toFixed(2)} s, where one ends`
    case 'nothing in common': return `cannot be compared: ${found.why}`
    case 'difference': return `first differs at ${found.time.toFixed(2)} s`
  }
}
const MOST_NAMED = 4

/** The program of the first, and that of the second beside it where they differ. */
const programs = computed(() => {
  const [a, b] = all.value
  if (a === undefined) return []
  const sides = sidesOf(a.run.program, b?.run.program ?? a.run.program)
  return b === undefined || a.run.program === b.run.program ? [{ letter: 'A', lines: sides.before }] : [{ letter: 'A', lines: sides.before }, { letter: 'B', lines: sides.after }]
})

/** What somebody writes to it, for the printed page. */
const notes = useKept('runs.notes', '')
const print = (): void => { globalThis.print() }
const asked = computed(() => { const task = project.data?.task as { about?: string } | null | undefined; return task?.about ?? '' })

/** Whether what is traced is shown as it is off A, to see how an error grows. */
const beside = ref(false)
/** What is traced of each run, as it is. */
const traced = computed(() => runs.traced.flatMap((t, i) => t === null || all.value[i] === undefined ? [] : [{ t, ...all.value[i] }]))
/** Of each but A, how far it is off A at the same time. */
const off = computed(() => {
  const [a, ...others] = traced.value
  if (a === undefined || !beside.value) return []
  const laid = ({ t, run }: (typeof traced.value)[number]) => ({ trace: t, dt: run.dt, zero: zero(run) })
  return others.flatMap((one) => { const found = apart(laid(one), laid(a)); return found === null ? [] : [{ ...one, t: found.trace, found }] })
})
const offSays = ({ style, found }: { readonly style: { readonly letter: string }, readonly found: Apart }): string => `${style.letter} is off A by ${worth(found.mean)} in the mean, at the most ${worth(found.most)} at ${found.at.toFixed(2)} s`

/** A line over the time of all runs, and between which values it runs. */
const trace = computed(() => {
  const traces = beside.value ? off.value : traced.value
  let [low, high] = [Infinity, -Infinity]
  for (const { t } of traces) for (const v of t.values) if (Number.isFinite(v)) { low = Math.min(low, v); high = Math.max(high, v) }
  if (traces.length === 0 || low > high) return null
  const range = high - low || 1
  const line = ({ t, run }: (typeof traces)[number]): string => Array.from(t.values, (v, i) => Number.isNaN(v) ? '' : `${place(run, (t.first + i * t.every) * run.dt).toFixed(2)},${(100 * (1 - (Number.isFinite(v) ? (v - low) / range : 1))).toFixed(1)}`).join(' ')
  return { low, high, lines: traces.map(one => ({ points: line(one), style: one.style })) }
})
const column = computed(() => runs.columns.find(c => c.id === runs.tracing))
const worth = (value: number): string => { if (column.value === undefined) return ''; const { figure, unit } = shownValue(column.value.spec, value, []); return `${figure} ${unit}`.trim() }
</script>

<template>
  <section class="compare" aria-label="Compared runs" :aria-busy="runs.comparing">
    <p v-if="runs.chosen.length === 0" class="empty">Choose runs at the left, two to six: their ways stand on one plan, their rules above one another, and where they first went apart is found. <kbd>X</kbd> chooses, <kbd>⏎</kbd> opens a run on the Bench.</p>
    <p v-else-if="all.length === 0" class="empty" role="status">◌ reading the runs…</p>
    <template v-else>
      <header class="printed"><h2>{{ project.data?.title }}</h2><p>{{ asked }}</p></header>
      <ul class="legend">
        <li v-for="{ row, style } in all" :key="row.id"><svg width="34" height="12" aria-hidden="true"><line x1="0" y1="6" x2="34" y2="6" :stroke="`rgb(var(--v-theme-${style.color}))`" stroke-width="2.5" :stroke-dasharray="style.dash" /></svg><b>{{ style.letter }}</b> {{ style.sign }} {{ row.name || `seed ${row.seed}` }}<v-btn size="x-small" variant="text" :aria-label="`csv of ${style.letter}`" title="Every tick as comma-separated values" @click="runs.csv(row.id)">csv</v-btn></li>
      </ul>
      <svg v-if="plan !== null" class="plan" :class="plan.arena.surround" :viewBox="`-0.06 -0.06 ${plan.arena.size[0] + 0.12} ${plan.arena.size[1] + 0.12}`" role="img" aria-label="The ways of the compared runs">
        <ArenaFigures :layout="plan" />
        <g :transform="`matrix(1 0 0 -1 0 ${plan.arena.size[1]})`">
          <polyline v-for="{ run, style } in all" :key="run.id" class="way" fill="none" :points="points(run)" :stroke="`rgb(var(--v-theme-${style.color}))`" :stroke-dasharray="style.dash" vector-effect="non-scaling-stroke" />
          <template v-for="{ run, style } in all" :key="`g${run.id}`">
            <g v-if="ghost(run) !== null" class="ghost" :transform="`translate(${ghost(run)!.x} ${ghost(run)!.y}) rotate(${ghost(run)!.turn})`">
              <rect x="-0.085" y="-0.06" width="0.17" height="0.12" rx="0.02" :stroke="`rgb(var(--v-theme-${style.color}))`" /><path d="M0.06 0 L-0.01 0.035 L-0.01 -0.035 Z" :fill="`rgb(var(--v-theme-${style.color}))`" />
              <text transform="scale(1 -1)" x="-0.055" y="0.03" font-size="0.075">{{ style.letter }}</text>
            </g>
          </template>
        </g>
      </svg>
      <p v-if="elsewhere.length > 0" class="small note">△ {{ elsewhere.join(', ') }} ran in another arena or with another seed than A; the plan is A's.</p>
      <p v-if="wentOn.length > 0" class="small note">⤷ {{ wentOn.join(', ') }} went on from another run: figures count from there.</p>
      <div class="time">
        <span class="mono clock">{{ clock.toFixed(2) }} s</span><v-slider v-model="clock" :min="earliest" :max="latest" :step="0.02" aria-label="Instant of all runs" />
        <v-select v-if="events.length > 0" v-model="by" class="by" :items="[{ title: 'from the start', value: '' }, ...events.map(value => ({ title: `from the first ${value}`, value }))]" aria-label="What all are laid by" />
      </div>
      <div v-for="lane in lanes" :key="lane" class="lane">
        <h2>{{ lane }}</h2>
        <div v-for="{ run, style } in all" :key="run.id" class="bands">
<b>{{ style.letter }}</b>
          <div class="line" role="img" :aria-label="`Who had control of ${lane} in ${style.letter}`">
            <span v-for="(band, i) in bandsOf(run, lane)" :key="i" class="band" :title="band.said" :style="{ left: `${place(run, band.from * run.dt)}%`, width: `${share((band.to - band.from) * run.dt)}%`, background: `rgba(var(--v-theme-device-${(band.rule * 3 + 3) % 8}), 0.3)` }">{{ share((band.to - band.from) * run.dt) > 3 ? band.label : '' }}</span>
            <span v-if="run.difference?.found === 'difference'" class="apart" title="first differs from A" :style="{ left: `${place(run, run.difference.time)}%` }" />
            <span class="now" :style="{ left: `${share(clock - earliest)}%` }" />
          </div>
        </div>
      </div>
      <div class="traced">
        <v-select class="column" :model-value="runs.tracing" :items="[{ title: 'trace a value…', value: '' }, ...runs.columns.map(c => ({ title: c.title, value: c.id }))]" aria-label="What is traced of all" @update:model-value="runs.trace($event)" />
        <v-checkbox v-if="runs.tracing !== '' && all.length > 1" v-model="beside" label="as it is off A" />
        <template v-if="trace !== null">
          <span class="small mono range">{{ worth(trace.low) }} to {{ worth(trace.high) }}</span>
          <svg class="trace" viewBox="0 0 100 100" preserveAspectRatio="none" role="img" :aria-label="`${column?.title} of all`">
            <polyline v-for="line in trace.lines" :key="line.style.letter" fill="none" :points="line.points" :stroke="`rgb(var(--v-theme-${line.style.color}))`" :stroke-dasharray="line.style.dash" vector-effect="non-scaling-stroke" />
            <line class="now" :x1="share(clock - earliest)" :x2="share(clock - earliest)" y1="0" y2="100" vector-effect="non-scaling-stroke" />
          </svg>
          <p v-for="one in off" :key="one.style.letter" class="small range">{{ offSays(one) }}</p>
        </template>
      </div>
      <div v-for="{ run, style } in all.slice(1)" :key="run.id" class="difference" :data-difference="style.letter">
        <p><b>{{ style.letter }}</b> {{ outcome(run.difference!) }}<v-btn v-if="run.difference!.found === 'difference' || run.difference!.found === 'length'" size="x-small" variant="text" @click="clock = run.difference!.time - zero(run)">look there</v-btn></p>
        <ul>
          <li v-for="d in run.difference!.dials" :key="d.title">the dial {{ d.title }}: <span class="mono">{{ differingSaid(d, 'a', run.colors) }}</span> in A, <span class="mono">{{ differingSaid(d, 'b', run.colors) }}</span> in {{ style.letter }}</li>
          <template v-if="run.difference!.found === 'difference'">
            <li v-for="d in run.difference!.what.slice(0, MOST_NAMED)" :key="d.title">{{ d.title }}: <span class="mono">{{ differingSaid(d, 'a', run.colors) }}</span> in A, <span class="mono">{{ differingSaid(d, 'b', run.colors) }}</span> in {{ style.letter }}</li>
            <li v-if="run.difference!.what.length > MOST_NAMED" class="small">and {{ run.difference!.what.length - MOST_NAMED }} more</li>
          </template>
        </ul>
      </div>
      <v-table class="figures">
        <thead><tr><th><span class="visually-hidden">figure</span></th><th v-for="{ row, style } in all" :key="row.id">{{ style.letter }}</th></tr></thead>
        <tbody>
          <tr v-for="figure in FIGURES" :key="figure.title"><th>{{ figure.title }}</th><td v-for="({ row }, i) in all" :key="i" class="mono">{{ figureText(figure, figure.of(row.outline)) }} <span class="small">{{ change(figure, i) }}</span></td></tr>
          <tr v-for="name in goals" :key="name"><th>{{ name }}</th><td v-for="(_, i) in all" :key="i">{{ goalOf(i, name) }}</td></tr>
          <tr v-if="shares.length > 0"><th :colspan="all.length + 1" class="part">share of the time in control</th></tr>
          <tr v-for="({ name, shares: parts }, n) in shares" :key="n" class="rule"><th><code>{{ name }}</code></th><td v-for="(part, i) in parts" :key="i" class="mono">{{ part === undefined ? '—' : `${(100 * part).toFixed(part < 0.1 ? 1 : 0)} %` }}</td></tr>
        </tbody>
      </v-table>
      <div class="programs" :class="{ two: programs.length > 1 }">
        <section v-for="{ letter, lines } in programs" :key="letter"><h2>Program of {{ letter }}</h2><DiffText :lines="lines" :label="`The program of ${letter}`" /></section>
      </div>
      <MeasureRobot />
      <footer class="report">
        <v-textarea v-model="notes" rows="2" auto-grow aria-label="Notes for the printed page" placeholder="Notes, printed with all that stands above" />
        <v-btn @click="print">Print</v-btn>
      </footer>
    </template>
  </section>
</template>

<style scoped>
.compare { overflow: auto; min-height: 0; padding: 10px 14px 18px; background: var(--ground); display: flex; flex-direction: column; gap: 8px; }
.compare > * { flex: none; }
.empty { max-width: 420px; line-height: 1.5; padding: 12px 4px; }
kbd { font-family: var(--mono); font-size: 12px; border: 1px solid var(--line); border-radius: 3px; padding: 0 5px; }
.legend { display: flex; flex-wrap: wrap; gap: 3px 16px; list-style: none; margin: 0; padding: 0; font-size: 13px; }
.legend li { display: flex; align-items: center; gap: 5px; }
.plan { width: 100%; height: 300px; border: 1px solid var(--line); border-radius: 4px; }
.plan.water { background: rgb(var(--v-theme-water)); }
.way { stroke-width: 2.5; }
.ghost rect { fill: rgb(var(--v-theme-hull)); fill-opacity: 0.75; stroke-width: 0.014; }
.ghost text { font-weight: 700; fill: rgb(var(--v-theme-tyre)); }
.note { margin: 0; }
.time { display: flex; align-items: center; gap: 12px; padding-left: 26px; }
.clock { font-weight: 600; min-width: 64px; }
.by { flex: none; width: 190px; }
.part { color: var(--muted); font-weight: 600; }
.rule code { font-family: var(--mono); font-size: 12px; font-weight: 400; }
h2 { font-size: 12.5px; margin: 0 0 2px; color: var(--muted); }
.bands { display: grid; grid-template-columns: 26px 1fr; align-items: center; font-size: 12.5px; }
.line { position: relative; height: 20px; background: var(--panel); border: 1px solid var(--line); overflow: hidden; }
.line > span { position: absolute; inset-block: 0; }
.band { min-width: 1px; overflow: hidden; font-size: 11.5px; line-height: 18px; padding-left: 3px; white-space: nowrap; }
span.now { width: 2px; background: var(--signal); }
.apart { border-left: 2px dashed var(--ink); }
line.now { stroke: var(--signal); stroke-width: 2; }
.traced .v-checkbox { justify-self: start; }
.traced :deep(.v-checkbox .v-label) { font-size: 13px; }
.traced .range { grid-column: 1 / -1; margin-left: 26px; }
.traced { display: grid; grid-template-columns: 210px 1fr; align-items: center; gap: 4px 12px; }
.trace { grid-column: 1 / -1; margin-left: 26px; width: calc(100% - 26px); height: 84px; background: var(--panel); border: 1px solid var(--line); }
.trace polyline { stroke-width: 2; }
.difference p { margin: 0; }
.difference ul { margin: 2px 0 0; padding-left: 26px; font-size: 13px; }
.figures { background: var(--panel); border: 1px solid var(--line); font-size: 13px; }
.figures :deep(:is(td, th)) { height: 27px !important; padding: 0 6px !important; }
.figures td { white-space: nowrap; }
.figures .small { font-size: 11.5px; }
.figures :deep(th) { color: var(--muted); }
.report { display: flex; gap: 10px; align-items: flex-start; }
.programs { display: grid; gap: 10px; }
.programs.two { grid-template-columns: 1fr 1fr; }
.printed { display: none; }
@media print {
  .compare { overflow: visible; background: none; padding: 0; }
  .printed { display: block; }
  .printed h2 { font-size: 17px; color: inherit; }
  .compare :deep(.v-btn), .time, .column { display: none; }
  .plan { height: 420px; break-inside: avoid; }
  .figures, .difference, .programs section { break-inside: avoid; }
  .programs :deep(pre) { max-height: none; }
}
.programs section { min-width: 0; }
.programs :deep(pre) { max-height: 320px; }
</style>
