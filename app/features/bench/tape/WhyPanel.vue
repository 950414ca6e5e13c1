<script setup lang="ts">
import { computed } from 'vue'
import type { WhyPart, WhyRule } from '~~/core/why'
import { useBenchStore } from '~/features/bench/bench'

/** Why the program did what it did at the instant looked at, in words. */
const bench = useBenchStore()
const dt = computed(() => bench.opened?.layout.dt ?? 0.02)
const seconds = (ticks: number): string => `${(ticks * dt.value).toFixed(2)} s`

const OUTSIDE = { 'start': 'The lane is still in its start: rules are not looked at.', 'mode start': 'The mode is still in its start: its rules have no say yet.', 'rules': 'No rule wants control: motions brake.', 'ended': 'This lane is over.', 'failed': 'This lane was stopped by its own mistake.' } as const

/** The parts of a condition that stand alone, each with how far it is from turning over. */
function leaves(part: WhyPart): readonly WhyPart[] {
  // What stands behind a not is told with it.
  return part.parts.length === 0 || part.text.startsWith('not ') ? [part] : part.parts.flatMap(leaves)
}
function valuesOf(part: WhyPart): string {
  return part.values.map(v => v.value).join(' against ')
}
/** Why a rule that stands above did not have control. */
function excuse(rule: WhyRule): string {
  if (rule.done) return 'it acts once, and has'
  if (rule.until?.truth === true) return `its until is true: ${rule.until.text}`
  if (rule.when?.truth === true && rule.held !== null) return `true for ${rule.held.has.toFixed(2)} s of ${rule.held.needs.toFixed(2)} s`
  return ''
}
const lanes = computed(() => bench.reasons?.lanes ?? [])
</script>

<template>
  <section class="why" aria-label="Why this">
    <div v-for="lane in lanes" :key="lane.lane">
      <h3>{{ lanes.length > 1 ? `${lane.lane}: ` : '' }}at {{ seconds(lane.tick) }}{{ lane.mode === '' ? '' : `, mode ${lane.mode}` }}</h3>
      <p v-if="lane.control !== null" class="control">
        ▶ rule {{ lane.control.urgency }} (line {{ lane.control.line }}) has control since {{ seconds(lane.control.took) }}<template v-if="lane.control.step !== null">, at line {{ lane.control.step }}</template>
        <span v-if="lane.control.when === null" class="part">otherwise: nothing above it wants control</span>
        <span v-for="(part, i) in lane.control.when === null ? [] : leaves(lane.control.when)" :key="i" class="part"><b>{{ part.truth ? '●' : '○' }}</b> <code>{{ part.text }}</code><span class="mono worth">{{ valuesOf(part) }}</span></span>
      </p>
      <p v-else>{{ OUTSIDE[lane.phase] }}</p>
      <p v-for="rule in lane.above" :key="rule.number">
        ○ rule {{ rule.urgency }} (line {{ rule.line }}) did not, since {{ seconds(rule.since) }}<span v-if="excuse(rule) !== ''">: {{ excuse(rule) }}</span>
        <span v-for="(part, i) in rule.when === null ? [] : leaves(rule.when)" :key="i" class="part">
          <b>{{ part.truth ? '●' : '○' }}</b> <code>{{ part.text }}</code><span class="mono worth">{{ valuesOf(part) }}</span>
          <span v-if="!part.truth && part.missing !== null" class="small">{{ part.missing.by < 0 ? '' : '+' }}{{ part.missing.value }} would turn it</span>
        </span>
      </p>
    </div>
    <p v-if="lanes.length === 0" class="small">Nothing has run yet.</p>
  </section>
</template>

<style scoped>
.why { border-top: 2px solid var(--signal); background: var(--signal-tint); padding: 6px 12px 8px; max-height: 46%; overflow: auto; flex: none; }
h3 { font-size: 13.5px; margin: 2px 0 4px; }
p { margin: 0 0 5px; }
.control { font-weight: 600; }
.part { display: block; padding-left: 18px; font-weight: 400; }
code { margin-left: 5px; }
.worth { margin: 0 10px; color: var(--muted); }
code { font-family: var(--mono); font-size: 13px; }
</style>
