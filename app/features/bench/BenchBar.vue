<script setup lang="ts">
import { computed, ref } from 'vue'
import { useAppTheme } from '~/composables/useAppTheme'
import { aloud } from './useAloud'
import { useLive } from '~/composables/useLive'
import { useBenchStore } from './bench'
import { useProjectStore } from '~/draft/project'

/** The bar: project, saving, seed and realism, clock, run. */
const bench = useBenchStore()
const project = useProjectStore()
const { dark, toggle } = useAppTheme()
const clock = ref(0)
useLive(10, () => { clock.value = bench.time })

const hasHorn = computed(() => bench.opened?.facts.devices.some(d => d.kind === 'horn') === true)
const speedText = computed(() => bench.speed === Infinity ? 'fastest' : bench.speed === 0.25 ? '¼×' : bench.speed === 0.5 ? '½×' : `${bench.speed}×`)
const REALISMS = ['ideal', 'typical', 'rough'] as const

function setSeed(event: Event): void {
  const value = Number((event.target as HTMLInputElement).value)
  if (Number.isInteger(value) && value >= 0 && value <= 4294967295) { bench.seed = value; bench.back() }
}
function nextRealism(): void {
  bench.realism = REALISMS[(REALISMS.indexOf(bench.realism) + 1) % REALISMS.length]!
  bench.back()
}
defineExpose({ nextRealism })
</script>

<template>
  <header class="bar">
    <NuxtLink to="/" class="home" title="All projects"><span aria-hidden="true">‹</span><span class="visually-hidden">All projects</span></NuxtLink>
    <input
      class="title" aria-label="Title of the project" :value="project.data?.title ?? ''" maxlength="80"
      @change="project.rename(($event.target as HTMLInputElement).value)"
    >
    <ViewTabs v-if="project.data !== null" :project="project.data.id" view="bench" />
    <span class="save" :class="project.state" role="status" :title="project.words">{{ project.words }}</span>
    <span class="gap" />
    <button type="button" class="quiet hand" :aria-pressed="bench.byHand" title="No program: drive with the arrow keys, drag the robot and pieces, and read" @click="bench.handle()">{{ bench.byHand ? '▶ by hand' : 'by hand' }}<span class="key">H</span></button>
    <button v-if="hasHorn" type="button" class="quiet" :aria-pressed="aloud" :title="aloud ? 'The horn is heard; press to mute it' : 'The horn is mute'" @click="aloud = !aloud">{{ aloud ? '♪' : '♪ off' }}<span class="key">M</span></button>
    <button type="button" class="quiet" :title="`Realism: ${bench.realism}. Press for the next`" @click="nextRealism">{{ bench.realism }}<span class="key">R</span></button>
    <label class="seed">seed <input class="mono" type="number" min="0" max="4294967295" :value="bench.seed" aria-label="Seed" @change="setSeed"></label>
    <span class="mono clock" aria-label="Clock">{{ clock.toFixed(2) }} s</span>
    <button type="button" class="field" title="Slower ([) or faster (])" @click="bench.faster(bench.speed === Infinity ? -1 : 1)">{{ speedText }}<span class="key">[ ]</span></button>
    <button type="button" class="field" :disabled="bench.opened === null" title="Back to the start" @click="bench.back()">|‹<span class="key">0</span></button>
    <button type="button" class="field" :disabled="bench.end !== null && bench.cursor === null" title="A single tick" @click="bench.tickOnce()">tick<span class="key">.</span></button>
    <button type="button" class="field pause" :disabled="bench.end !== null || bench.atStart" @click="bench.toggle()">{{ bench.running ? 'Pause' : 'Go on' }}<span class="key">Space</span></button>
    <button v-if="bench.runHindrance !== null && project.data?.ranProgram != null" type="button" class="field" title="Runs the program that ran last" @click="bench.runLast()">Run the last</button>
    <button type="button" class="run" :disabled="bench.runHindrance !== null" @click="bench.run()">
      {{ bench.runHindrance === null ? (bench.atStart ? 'Run' : 'Run again') : bench.runHindrance }}<span class="key">Ctrl ⏎</span>
    </button>
    <button type="button" class="quiet" :aria-label="dark ? 'Light theme' : 'Dark theme'" @click="toggle">{{ dark ? '☀' : '☾' }}</button>
  </header>
</template>

<style scoped>
.bar { contain: layout paint; will-change: transform; display: flex; align-items: center; gap: 6px; height: var(--bar-height); padding: 0 10px; background: var(--bar); color: var(--on-bar); flex: none; white-space: nowrap; }
.home { color: inherit; text-decoration: none; font-size: 22px; padding: 0 8px 3px 4px; }
.title { color: inherit; font-weight: 700; width: 170px; padding: 3px 6px; border-radius: 4px; text-overflow: ellipsis; }
.title:hover, .title:focus { background: var(--bar-field); }
.save { font-size: 12px; opacity: 0.85; overflow: hidden; text-overflow: ellipsis; }
.save.conflict, .save.unsaved { opacity: 1; font-weight: 600; }
.gap { flex: 1; }
button { color: inherit; font-weight: 600; border-radius: 5px; height: 30px; padding: 0 10px; }
button:disabled { opacity: 0.45; }
.field { background: var(--bar-field); }
.pause { min-width: 116px; }
.quiet { padding: 0 8px; }
.hand[aria-pressed=true] { background: var(--signal); color: var(--on-signal); }
.seed { font-size: 13px; display: flex; gap: 5px; align-items: center; }
.seed input { color: inherit; background: var(--bar-field); border-radius: 4px; width: 58px; padding: 4px 6px; }
.clock { font-size: 16px; font-weight: 700; min-width: 88px; text-align: right; padding-right: 6px; }
.run { background: var(--signal); color: var(--on-signal); min-width: 142px; padding: 0 12px; }
.run:disabled { opacity: 1; background: var(--bar-field); color: var(--on-bar); }
</style>
