<script setup lang="ts">
import { useEventListener, useWindowSize } from '@vueuse/core'
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef } from 'vue'
import { aloud, useAloud } from './useAloud'
import { useKept } from '~/composables/useKept'
import { useKeys } from '~/composables/useKeys'
import { useBenchStore } from './bench'
import { useProjectStore } from '~/draft/project'
import { useGuideStore } from '~/features/guide/guide'

/** The bench: Sense, Decide, Act and the Tape of one project. */
/** Speeds of driving by hand: metres and radians a second. */
const HAND_SPEED = 0.15
const HAND_TURN = 0.9
const route = useRoute()
const bench = useBenchStore()
const project = useProjectStore()
const guide = useGuideStore()
const act = useTemplateRef<{ setView(view: 'above' | 'perspective'): void }>('act')
const sense = useTemplateRef<{ take(which: 'first' | 'second'): void, nextUnit(): void }>('sense')
const ready = ref(false)
/** Keys act once the project is there, and its program is what they act on. */
const there = (act: () => void) => () => { if (ready.value) act() }
useAloud()

async function open(): Promise<void> {
  if (await project.open(String(route.params['id']))) {
    ready.value = true
    bench.arrive()
  }
}
onMounted(open)
onBeforeUnmount(() => {
  void project.save()
  bench.leave()
})

/** What is not saved yet is kept in the browser; only where it has no room is closing the page asked about. */
function warn(event: BeforeUnloadEvent): void {
  if (!project.atRisk) return
  void project.save()
  event.preventDefault()
}
useEventListener('beforeunload', warn)

useKeys('Run', {
  'ctrl+enter': { says: 'run', act: there(() => bench.run()) },
  'enter': { says: 'run', act: there(() => bench.run()) },
  'space': { says: 'pause, go on', act: there(() => bench.toggle()) },
  'f6': { says: 'pause, go on', act: there(() => bench.toggle()) },
  '.': { says: 'a single tick', act: there(() => bench.tickOnce()) },
  'f7': { says: 'a single tick', act: there(() => bench.tickOnce()) },
  '0': { says: 'back to the start', act: there(() => bench.back()) },
  'f4': { says: 'back to the start', act: there(() => bench.back()) },
  's': { says: 'the next seed, and run', act: there(() => bench.shuffle()) },
  '[': { says: 'slower', act: there(() => bench.faster(-1)) },
  ']': { says: 'faster', act: there(() => bench.faster(1)) },
  'end': { says: 'the newest instant', act: there(() => bench.look(null)) },
  '1': { says: 'from above', act: there(() => act.value?.setView('above')) },
  '2': { says: 'in three dimensions', act: there(() => act.value?.setView('perspective')) },
  'r': { says: 'the next realism', act: there(() => bench.nextRealism()) },
  'm': { says: 'hear the horn', act: there(() => { aloud.value = !aloud.value }) },
  'h': { says: 'by hand', act: there(() => bench.handle()) },
  'w': { says: 'why this?', act: there(() => bench.askWhy()) },
  'n': { says: 'capture this situation', act: there(() => sense.value?.take('first')) },
  'f': { says: 'capture that situation', act: there(() => sense.value?.take('second')) },
  'u': { says: 'the unit of lengths', act: there(() => sense.value?.nextUnit()) },
})

// By hand, the arrow keys drive as long as they are held.
const held = new Set<string>()
function drive(event: KeyboardEvent): void {
  if (!bench.byHand || !event.key.startsWith('Arrow') || (event.target as HTMLElement).closest('input, textarea, select, [contenteditable], [role=slider]') !== null) return
  event.preventDefault()
  if (event.type === 'keydown') held.add(event.key)
  else held.delete(event.key)
  const has = (key: string): number => held.has(key) ? 1 : 0
  bench.steer(HAND_SPEED * (has('ArrowUp') - has('ArrowDown')), HAND_TURN * (has('ArrowRight') - has('ArrowLeft')))
}
useEventListener(['keydown', 'keyup'], drive)

// Borders can be moved; where they were is remembered.
const senseWidth = useKept('width.sense', 196)
// On a wide screen the extra goes to Decide and Act.
const decide = useKept('width.decide', 492 + Math.round(Math.max(0, globalThis.innerWidth - 1280) * 0.4))
const tape = useKept('height.tape', 168)
const { width: wide, height: high } = useWindowSize()
/** The least width, page pixels, in which the guide stands beside the rest; else its next step alone stands above. */
const ROOM = 1160
const guideBeside = computed(() => guide.open && wide.value >= ROOM)
</script>

<template>
  <div v-if="ready && !project.missing" class="view">
    <BenchBar />
    <SaveConflict />
    <GuidePanel v-if="guide.open && !guideBeside" short />
    <main class="bench" :style="{ gridTemplateColumns: `${senseWidth}px 5px minmax(240px, ${decide}px) 5px minmax(220px, 1fr) ${guideBeside ? '252px' : '0'}`, gridTemplateRows: `minmax(0, 1fr) 5px ${tape}px` }">
      <h1 class="visually-hidden">{{ project.data?.title }}: the bench</h1>
      <SensePanel ref="sense" />
      <BorderHandle v-model="senseWidth" label="Border of Sense" :least="150" :most="360" />
      <DecidePanel />
      <BorderHandle v-model="decide" label="Border of Decide" :least="320" :most="Math.max(320, wide - senseWidth - 240)" />
      <ActPanel ref="act" />
      <GuidePanel v-if="guideBeside" />
      <BorderHandle v-model="tape" class="wide" label="Border of Tape" level after :least="80" :most="Math.max(80, high - 260)" />
      <TapePanel class="wide" />
    </main>
  </div>
  <ProjectGate v-else what="the project" @again="open" />
</template>

<style scoped>
.view { display: flex; flex-direction: column; height: 100vh; min-height: 520px; }
.bench { display: grid; flex: 1; min-height: 0; position: relative; }
.bench > * { min-width: 0; }
.wide { grid-column: 1 / -1; }
/* Narrow, or twice as large: one below the other, and the page scrolls under the bar. */
@media (max-width: 900px) {
  .view { height: auto; min-height: 100vh; }
  .bench { display: flex; flex-direction: column; flex: none; }
  .bench > .border { display: none; }
  .bench > * { flex: none; border-bottom: 2px solid rgb(var(--v-theme-bar)); }
  .bench > :nth-child(2) { height: 300px; }
  .bench > .decide { height: auto; min-height: 320px; max-height: 640px; }
  .bench > .act { height: 380px; }
  .bench > .tape { height: 220px; }
}
</style>
