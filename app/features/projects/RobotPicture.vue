<script setup lang="ts">
import { computed, onMounted, shallowRef, watch } from 'vue'
import { framesOf, partsOf, placeFrames, readRobot, within } from '~~/core/robot'
import { placeColor } from '~/shown/readings'
import { shadowOf } from '~/shown/shadow'
import { useProjectsStore } from './projects'

/** A robot from above as it stands at the start, its nose upwards. */
const props = defineProps<{ document: string }>()
const projects = useProjectsStore()
/** undefined until it is there; null when it cannot be had. */
const robot = shallowRef<unknown>(undefined)
async function load(): Promise<void> { robot.value = await projects.document(props.document) }
onMounted(load)
watch(() => props.document, load)

/** The drawing keeps a robot of this size, metres, with room about it; larger ones are drawn smaller. */
const LEAST = 0.34
const drawn = computed(() => {
  const read = robot.value === undefined ? null : readRobot(robot.value)
  if (read?.ok !== true) return null
  const frames = framesOf(read.value)
  const poses = placeFrames(frames, [])
  const parts = partsOf(read.value, frames).map(({ what, shape, frame, local, device }) => {
    const { position: p, rotation: q } = frame === -1 ? local : within(poses[frame]!, local)
    const at = read.value.devices.findIndex(d => d.name === device)
    // Forward is up on the page, left is left.
    return { what, color: at === -1 ? '' : placeColor(at), points: shadowOf(shape, [p.x, p.y, p.z, q.x, q.y, q.z, q.w], 0).map(([x, y]) => `${-y},${-x}`).join(' ') }
  })
  const eyes = read.value.devices.flatMap((d, i) => d.on === null ? [{ x: -d.mount.left, y: -d.mount.forward, color: placeColor(i) }] : [])
  const reach = Math.max(LEAST, ...parts.flatMap(part => part.points.split(/[ ,]/).map(v => 2.15 * Math.abs(Number(v)))))
  return { parts: [...parts].sort((a, b) => ORDER[a.what] - ORDER[b.what]), eyes, reach }
})
const ORDER = { wheel: 0, chassis: 1, device: 2 } as const
</script>

<template>
  <svg v-if="drawn !== null" class="robot" :viewBox="`${-drawn.reach / 2} ${-drawn.reach / 2} ${drawn.reach} ${drawn.reach}`" aria-hidden="true">
    <polygon v-for="(part, i) in drawn.parts" :key="i" :class="part.what" :points="part.points" :style="part.color === '' ? {} : { stroke: `rgb(var(--v-theme-${part.color}))` }" />
    <circle v-for="(eye, i) in drawn.eyes" :key="`e${i}`" :cx="eye.x" :cy="eye.y" r="0.008" :fill="`rgb(var(--v-theme-${eye.color}))`" />
  </svg>
  <div v-else-if="robot === undefined" class="robot" />
  <div v-else class="robot broken small">cannot be drawn</div>
</template>

<style scoped>
.robot { display: block; width: 100%; height: 100%; background: rgb(var(--v-theme-ground)); }
.chassis, .device { fill: rgb(var(--v-theme-hull)); stroke: rgb(var(--v-theme-tyre)); stroke-width: 0.004; }
.wheel { fill: rgb(var(--v-theme-tyre)); }
.broken { display: grid; place-items: center; }
</style>
