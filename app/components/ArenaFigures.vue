<script setup lang="ts">
import { computed } from 'vue'
import { figuresOf, pieceFigure, type Layout, type SolidFigure, type Tint } from '~~/core/arena'

/** What stands in an arena as a seed lays it out, from above, for a drawing in metres with north upwards: pictures of projects and the Arena view. */
const { layout, robot = false } = defineProps<{ layout: Layout, robot?: boolean }>()

const DEG = 180 / Math.PI
const fill = (tint: Tint): string => `rgb(var(--v-theme-${tint}))`
const figures = computed(() => figuresOf(layout.arena))
/** What stands on the paint, from below: what is put out later is not there yet. */
const solids = computed<readonly SolidFigure[]>(() => [...figures.value.fixed, ...layout.pieces.filter(p => p.fed === null).map(pieceFigure), ...figures.value.walking])
const place = ({ at, yaw }: SolidFigure): string => `translate(${at[0]} ${at[1]}) rotate(${yaw * DEG})`
</script>

<template>
  <g :transform="`matrix(1 0 0 -1 0 ${layout.arena.size[1]})`">
    <template v-for="(solid, i) in figures.ground" :key="i">
      <rect
        v-if="solid.shape.shape === 'box'" :transform="place(solid)" :fill="fill(solid.tint)"
        :x="-solid.shape.hx" :y="-solid.shape.hy" :width="2 * solid.shape.hx" :height="2 * solid.shape.hy"
      />
    </template>
    <template v-for="(paint, i) in figures.paint" :key="i">
      <circle v-if="paint.shape === 'disc'" :cx="paint.at[0]" :cy="paint.at[1]" :r="paint.radius" :fill="fill(`paint-${paint.color}`)" />
      <rect
        v-else-if="paint.shape === 'box'" :x="paint.at[0] - paint.size[0] / 2" :y="paint.at[1] - paint.size[1] / 2" :width="paint.size[0]" :height="paint.size[1]"
        :fill="fill(`paint-${paint.color}`)" :transform="`rotate(${-paint.turn * DEG} ${paint.at[0]} ${paint.at[1]})`"
      />
      <polyline
        v-else fill="none" stroke-linejoin="round" :points="paint.points.map(p => p.join(',')).join(' ')" :stroke="fill(`paint-${paint.color}`)" :stroke-width="paint.width"
      />
    </template>
    <template v-for="solid in solids" :key="solid.id">
      <rect
        v-if="solid.shape.shape === 'box'" :transform="place(solid)" :fill="fill(solid.tint)" :fill-opacity="solid.hollow ? 0.35 : 1"
        :x="-solid.shape.hx" :y="-solid.shape.hy" :width="2 * solid.shape.hx" :height="2 * solid.shape.hy"
      />
      <circle v-else :cx="solid.at[0]" :cy="solid.at[1]" :r="solid.shape.radius" :fill="fill(solid.tint)" />
    </template>
    <circle v-for="lamp in figures.lights" :key="lamp.name" class="lamp" :cx="lamp.at[0]" :cy="lamp.at[1]" r="0.03" />
    <g v-if="robot" :transform="`translate(${layout.start.x} ${layout.start.y}) rotate(${-layout.start.heading * DEG})`">
      <rect class="robot" x="-0.085" y="-0.06" width="0.17" height="0.12" rx="0.02" />
      <path class="nose" d="M0.05 0 L-0.02 0.035 L-0.02 -0.035 Z" />
    </g>
  </g>
</template>

<style scoped>
.lamp { fill: rgb(var(--v-theme-paint-yellow)); stroke: rgb(var(--v-theme-ink)); stroke-width: 0.006; }
.robot { fill: rgb(var(--v-theme-hull)); stroke: rgb(var(--v-theme-tyre)); stroke-width: 0.015; }
.nose { fill: rgb(var(--v-theme-signal)); }
</style>
