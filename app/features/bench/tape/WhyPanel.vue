<script setup lang="ts">
import { computed } from 'vue'
import { valueText } from '~~/core/program'
import { stuckSaid } from '~~/core/runs'
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
const laneNumber = (name: string): number => bench.opened?.layout.laneNames.indexOf(name) ?? 0
/** The time around the instant in which the robot got nowhere. */
const stuckHere = computed(() => bench.stuck.find(s => s.from <= bench.shownTick && bench.shownTick < s.to))
const stuckRule = computed(() => {
  const [most] = stuckHere.value?.rules ?? []
  const rule = most === undefined ? undefined : bench.opened?.program?.rules[most.rule]
  return rule === undefined ? null : `rule ${rule.urgency} (line ${rule.line}) had control ${Math.round(most!.share * 100)} % of it`
})

const textOf = (line: number): string => bench.opened?.program?.text.split('\n')[line - 1]?.trim() ?? ''
/** What was behind the instant, once it is known: of the same tick only. */
const behind = computed(() => bench.behind?.tick === bench.reasons?.tick ? bench.behind : null)
const memoryNow = (name: string): string => {
  const { opened, row } = bench
  const at = opened?.program?.named.findIndex(n => n.name === name) ?? -1
  return opened == null || row === null || at === -1 ? '' : valueText(row[opened.layout.named + at]!, opened.program!.named[at]!.shown, opened.facts.colors)
}
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
        <span v-if="rule.had === null" class="small"> · never had control</span>
        <v-btn v-else size="x-small" variant="text" title="Look at the last instant in which it had control" @click="bench.look(rule.had.to - 1)">had control until {{ seconds(rule.had.to) }}</v-btn>
        <span v-for="(part, i) in rule.when === null ? [] : leaves(rule.when)" :key="i" class="part">
          <b>{{ part.truth ? '●' : '○' }}</b> <code>{{ part.text }}</code><span class="mono worth">{{ valuesOf(part) }}</span>
          <span v-if="!part.truth && part.missing !== null" class="small">{{ part.missing.by < 0 ? '' : '+' }}{{ part.missing.value }} would turn it</span>
          <v-btn v-if="!part.truth" size="x-small" variant="text" title="Look at the last instant in which this was true" @click="bench.whenTrue(laneNumber(lane.lane), rule.number, part.range)">when true?</v-btn>
        </span>
      </p>
    </div>
    <p v-if="bench.reasons?.earlier === true" class="small">Lines and rules are those of the program as it was before the run went on.</p>
    <p v-if="stuckHere !== undefined">⟳ It got nowhere from {{ seconds(stuckHere.from) }} to {{ seconds(stuckHere.to) }}: {{ stuckSaid(stuckHere) }}<template v-if="stuckRule !== null"> · {{ stuckRule }}</template></p>
    <p v-if="bench.toldTrue !== ''" class="small" role="status">{{ bench.toldTrue }}</p>
    <template v-if="behind !== null">
      <h3 v-if="behind.moving.length > 0">Motors</h3>
      <p v-for="doing in behind.moving" :key="`${doing.name} ${doing.lane}`" class="by">
        <b>{{ doing.name }}</b> moved by line {{ doing.line }}{{ lanes.length > 1 ? ` of ${doing.lane}` : '' }} <code>{{ textOf(doing.line) }}</code>
      </p>
      <h3 v-if="behind.set.length > 0">Memories</h3>
      <p v-for="doing in behind.set" :key="doing.name" class="by">
        <b>{{ doing.name }}</b> <span class="mono">{{ memoryNow(doing.name) }}</span> since line {{ doing.line }}{{ lanes.length > 1 ? ` of ${doing.lane}` : '' }} <code>{{ textOf(doing.line) }}</code>
        <v-btn size="x-small" variant="text" title="Look at the instant in which it was set" @click="bench.look(doing.tick)">{{ seconds(doing.tick) }}</v-btn>
      </p>
    </template>
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
