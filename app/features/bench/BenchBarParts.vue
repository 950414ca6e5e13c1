<script setup lang="ts">
import { computed } from 'vue'
import { LAST_SEED } from '~~/core/random'
import { aloud } from './useAloud'
import { useBenchStore } from './bench'
import { useProjectStore } from '~/draft/project'
import { useWireStore } from '~/wire/wire'

/** What stands in the bar: project, saving, seed and realism, clock, run. What is said twice elsewhere gives way where it is narrow; the clock and Run never do. */
const bench = useBenchStore()
const project = useProjectStore()
const wire = useWireStore()

const hasHorn = computed(() => bench.opened?.facts.devices.some(d => d.kind === 'horn') === true)
const speedText = computed(() => wire.real ? '1×' : bench.speed === Infinity ? 'fastest' : bench.speed === 0.25 ? '¼×' : bench.speed === 0.5 ? '½×' : `${bench.speed}×`)

function setSeed(event: Event): void {
  const value = Number((event.target as HTMLInputElement).value)
  if (Number.isInteger(value) && value >= 0 && value <= LAST_SEED) { bench.seed = value; bench.back() }
}
const standsStill = computed(() => bench.end !== null || bench.atStart)
/** Whether the program that ran last can stand in for one with mistakes. */
const offersLast = computed(() => bench.runHindrance !== null && project.data?.ranProgram != null)
</script>

<template>
  <div class="parts">
    <NuxtLink to="/" class="home" title="All projects"><span aria-hidden="true">‹</span><span class="visually-hidden">All projects</span></NuxtLink>
    <v-text-field
      class="title" aria-label="Title of the project" bg-color="bar" :title="project.data?.title" :model-value="project.data?.title ?? ''" maxlength="80"
      @change="project.rename(($event.target as HTMLInputElement).value)"
    />
    <ViewTabs v-if="project.data !== null" :project="project.data.id" view="bench" />
    <SaveSign />
    <span class="gap" />
    <KeyButton class="hand" :color="bench.byHand ? 'signal' : 'bar'" :aria-pressed="bench.byHand" keys="H" says="No program: drive with the arrow keys, drag the robot and pieces, and read" @click="bench.handle()">{{ bench.byHand ? '▶ by hand' : 'by hand' }}</KeyButton>
    <KeyButton v-if="hasHorn" color="bar" :aria-pressed="aloud" keys="M" :says="aloud ? 'The horn is heard; press to mute it' : 'The horn is mute; press to hear it'" @click="aloud = !aloud"><span aria-hidden="true">{{ aloud ? '♪' : '♪̸' }}</span><span class="visually-hidden">hear the horn</span></KeyButton>
    <KeyButton color="bar" keys="R" :says="`Realism: ${bench.realism}. Press for the next`" @click="bench.nextRealism()">{{ bench.realism }}</KeyButton>
    <label class="seed"><span class="word">seed</span> <v-text-field class="mono" bg-color="bar-field" type="number" min="0" :max="LAST_SEED" :model-value="bench.seed" aria-label="Seed" @change="setSeed" /></label>
    <BenchClock />
    <KeyButton class="speed" :disabled="wire.real" keys="[ ]" :says="wire.real ? 'Real devices go by the clock' : 'Slower [ or faster ]'" @click="bench.faster(bench.speed === Infinity ? -1 : 1)">{{ speedText }}</KeyButton>
    <KeyButton :disabled="bench.opened === null" keys="0" says="Back to the start" @click="bench.back()"><span aria-hidden="true">|‹</span><span class="visually-hidden">Back to the start</span></KeyButton>
    <KeyButton class="tick" :disabled="bench.end !== null && bench.cursor === null" keys="." says="A single tick" @click="bench.tickOnce()">tick</KeyButton>
    <!-- Where nothing can go on, the program that ran last has its place. -->
    <KeyButton v-if="!(offersLast && standsStill)" class="pause" :disabled="standsStill" keys="Space" @click="bench.toggle()">{{ bench.running ? 'Pause' : 'Go on' }}</KeyButton>
    <KeyButton v-if="offersLast" says="Runs the program that ran last" @click="bench.runLast()">Run the last</KeyButton>
    <KeyButton class="run" color="signal" :disabled="bench.runHindrance !== null" keys="Ctrl ⏎" @click="bench.run()">
      {{ bench.runHindrance === null ? (bench.atStart ? 'Run' : 'Run again') : bench.runHindrance }}
    </KeyButton>
    <HelpMenu />
    <ThemeButton />
  </div>
</template>

<style scoped>
/* How wide the bar is decides what of it stands in words. */
.parts { display: contents; }
.home { color: inherit; text-decoration: none; font-size: 22px; padding: 0 8px 3px 4px; }
.title { flex: 0 1 170px; min-width: 60px; }
.title :deep(input) { font-weight: 700; color: rgb(var(--v-theme-on-bar)); text-overflow: ellipsis; }
/* It changes with every letter: neither clipped nor translucent, as the browser would have to lay out its layers anew each time. */
.save { font-size: 12px; color: rgba(var(--v-theme-on-bar), 0.85); flex: none; min-width: 62px; white-space: nowrap; }
.save.conflict, .save.unsaved { color: rgb(var(--v-theme-on-bar)); font-weight: 600; }
.save.long { flex: 0 10 auto; min-width: 46px; overflow: hidden; text-overflow: ellipsis; }
.gap { flex: 1 0 0; }
.pause { width: 108px; }
.speed { width: 84px; }
.seed { font-size: 13px; display: flex; gap: 5px; align-items: center; flex: none; }
.seed .v-input { width: 62px; flex: none; }
.seed :deep(input) { color: rgb(var(--v-theme-on-bar)); appearance: textfield; }
.clock { font-size: 16px; font-weight: 700; width: 82px; text-align: right; flex: none; }
.run { min-width: 132px; }
@container bar (max-width: 1480px) {
  .word { display: none; }
  .title { flex-basis: 140px; }
  .parts :deep(.tabs a) { padding-inline: 7px; }
  /* Their tips and the sheet of keys tell them. */
  .parts :deep(.v-btn:not(.run, .pause) .key) { display: none; }
  .speed { width: 62px; }
  .pause { width: 102px; }
  .run { min-width: 118px; }
  /* The sign says how saving stands, where all is well or soon will be. */
  .save:not(.conflict, .long) { width: 12px; min-width: 12px; }
  .save:not(.conflict, .long) :deep(.words) { font-size: 0; }
}
@container bar (max-width: 1240px) {
  .parts :deep(.key) { display: none; }
  .parts :deep(.tabs a) { padding-inline: 5px; font-size: 13px; }
  .pause { width: 66px; }
  .speed { width: 62px; }
  .run { min-width: 84px; }
}
/* On a tablet a single tick is its key's. */
@container bar (max-width: 1110px) {
  .parts :deep(.tabs) { gap: 0; }
  .parts :deep(.tabs a) { padding-inline: 3px; font-size: 12.5px; }
  .title { min-width: 40px; }
  .run { min-width: 74px; }
  .home { padding-inline: 4px; }
  .pause { width: 58px; }
  .tick { display: none; }
  .clock { font-size: 15px; width: 68px; }
  .seed .v-input { width: 50px; }
}
</style>
