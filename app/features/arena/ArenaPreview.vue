<script setup lang="ts">
import { useDebounceFn, useResizeObserver } from '@vueuse/core'
import { computed, onBeforeUnmount, onMounted, shallowRef, useTemplateRef, watch } from 'vue'
import { readRobot } from '~~/core/robot'
import { useColors } from '~/composables/useColors'
import { useBenchStore } from '~/features/bench/bench'
import { robotLooks } from '~/features/bench/act/robot-looks'
import { NOTHING_BESIDE, type Picture } from '~/features/bench/act/picture'
import { useProjectStore } from '~/draft/project'
import { readingName, shownValue } from '~/shown/readings'
import { useArenaStore } from './arena'

/** The arena in three dimensions with the robot at its start, and what its sensors read there, anew after each change. */
const store = useArenaStore()
const bench = useBenchStore()
const project = useProjectStore()
const colors = useColors()
const place = useTemplateRef<HTMLElement>('place')
const failed = shallowRef('')
let picture: Picture | null = null

/** How long changes rest before the world is built anew, milliseconds. */
const REST = 160
function begin(): void { bench.seed = store.seed; bench.preview() }
const rested = useDebounceFn(begin, REST)
watch(() => [project.data?.arena, store.seed], () => void rested())

function show(): void {
  const { opened } = bench
  const robot = readRobot(project.data?.robot)
  if (picture === null || opened === null || !robot.ok) return
  picture.build(opened, robotLooks(robot.value))
  draw()
}
function draw(): void { if (bench.opened !== null) picture?.draw(bench.opened.first, 0, NOTHING_BESIDE) }
watch(() => bench.opened, show)
watch(colors, show)
useResizeObserver(place, ([entry]) => { if (entry !== undefined) { picture?.resize(entry.contentRect.width, entry.contentRect.height); draw() } })

onMounted(async () => {
  // A run that is there already tells how it began.
  if (bench.isCurrent()) store.seed = bench.seed
  else begin()
  const canvas = document.createElement('canvas')
  canvas.setAttribute('role', 'img')
  canvas.setAttribute('aria-label', 'The arena in three dimensions')
  try {
    const { Stage } = await import('~/features/bench/act/stage')
    if (place.value === null) return
    picture = new Stage(canvas, name => colors.value(name))
    place.value.replaceChildren(canvas)
    picture.resize(place.value.clientWidth, place.value.clientHeight)
    show()
  } catch { failed.value = 'This browser cannot draw in three dimensions (WebGL is off).' }
})
onBeforeUnmount(() => { picture?.dispose(); bench.endPreview() })

let last = { x: 0, y: 0 }
function grab(event: PointerEvent): void { last = { x: event.clientX, y: event.clientY }; (event.currentTarget as Element).setPointerCapture(event.pointerId) }
function drag(event: PointerEvent): void {
  if (event.buttons === 0) return
  if (event.ctrlKey || event.buttons !== 1) picture?.pan(event.clientX - last.x, event.clientY - last.y)
  else picture?.turnEye(-(event.clientX - last.x) * 0.006, (event.clientY - last.y) * 0.005)
  last = { x: event.clientX, y: event.clientY }
  draw()
}
function wheel(event: WheelEvent): void {
  const box = place.value!.getBoundingClientRect()
  picture?.zoom(event.deltaY > 0 ? 1.08 : 1 / 1.08, event.clientX - box.left, event.clientY - box.top)
  draw()
}

const readings = computed(() => {
  const { opened } = bench
  if (opened === null) return []
  return opened.facts.devices.filter(d => d.name !== 'wheels').flatMap(d => d.readings.flatMap((r, i) => r.hidden || r.takes.length > 0 ? [] : [{
    name: readingName(d, r), ...shownValue(r, opened.first[opened.layout.readings + d.first + i]!, opened.facts.colors),
  }]))
})
</script>

<template>
  <section class="preview" aria-label="At the start">
    <div ref="place" class="place" @pointerdown="grab" @pointermove="drag" @wheel.prevent="wheel"><p v-if="failed !== ''" class="small note">{{ failed }}</p></div>
    <div class="senses" tabindex="0" role="group" aria-label="What it senses at its start">
      <h2>What it senses at its start</h2>
      <p v-for="p in bench.problems" :key="`${p.document}${p.path}`" class="problem" role="alert">✕ {{ p.document }}, <span class="mono">{{ p.path }}</span>: found {{ p.value }}; {{ p.message }}</p>
      <ul class="readings">
        <li v-for="r in readings" :key="r.name" :data-reading="r.name"><span>{{ r.name }}</span><b class="mono">{{ r.figure }} <span class="small">{{ r.unit }}</span></b></li>
      </ul>
    </div>
  </section>
</template>

<style scoped>
.preview { display: grid; grid-template-columns: minmax(0, 1fr) 270px; height: 226px; flex: none; border-top: 1px solid var(--line); background: var(--panel); }
.place { position: relative; background: var(--ground); contain: strict; }
.place :deep(canvas) { position: absolute; inset: 0; width: 100%; height: 100%; display: block; touch-action: none; }
.senses { overflow: auto; border-left: 1px solid var(--line); }
h2 { font-size: 13.5px; padding: 6px 12px 2px; }
.readings { list-style: none; margin: 0; padding: 0 12px 8px; }
.readings li { display: flex; justify-content: space-between; gap: 8px; white-space: nowrap; }
.readings li > span:first-child { overflow: hidden; text-overflow: ellipsis; }
.problem { color: var(--error); font-weight: 600; padding: 2px 12px 6px; }
.note { padding: 6px 12px; }
</style>
