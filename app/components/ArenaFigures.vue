<script setup lang="ts">
import type { Layout } from '~~/core/arena'

/** What stands in an arena as a seed lays it out, from above, for a drawing in metres with north upwards: pictures of projects and the Arena view. */
const { robot = false } = defineProps<{ layout: Layout, robot?: boolean }>()

const DEG = 180 / Math.PI
const paint = (color: string): string => `rgb(var(--v-theme-paint-${color}))`
</script>

<template>
  <g :transform="`matrix(1 0 0 -1 0 ${layout.arena.size[1]})`">
    <rect
      v-for="(deck, i) in layout.arena.decks" :key="`d${i}`" class="deck" :x="deck.at[0] - deck.size[0] / 2" :y="deck.at[1] - deck.size[1] / 2"
      :width="deck.size[0]" :height="deck.size[1]" :transform="`rotate(${-deck.turn * DEG} ${deck.at[0]} ${deck.at[1]})`"
    />
    <template v-for="(patch, i) in layout.arena.patches" :key="`p${i}`">
      <ellipse v-if="patch.shape === 'disc'" :cx="patch.at[0]" :cy="patch.at[1]" :rx="patch.size[0] / 2" :ry="patch.size[0] / 2" :fill="paint(patch.color)" />
      <rect
        v-else :x="patch.at[0] - patch.size[0] / 2" :y="patch.at[1] - patch.size[1] / 2" :width="patch.size[0]" :height="patch.size[1]"
        :fill="paint(patch.color)" :transform="`rotate(${-patch.turn * DEG} ${patch.at[0]} ${patch.at[1]})`"
      />
    </template>
    <polyline
      v-for="line in layout.arena.lines" :key="line.name" fill="none" stroke-linejoin="round" :points="line.points.map(p => p.join(',')).join(' ')"
      :stroke="paint(line.color)" :stroke-width="line.width"
    />
    <rect
      v-for="belt in layout.arena.belts" :key="belt.name" :x="belt.at[0] - belt.size[0] / 2" :y="belt.at[1] - belt.size[1] / 2" :width="belt.size[0]" :height="belt.size[1]"
      :fill="paint('black')" :transform="`rotate(${-belt.turn * DEG} ${belt.at[0]} ${belt.at[1]})`"
    />
    <rect
      v-for="crate in layout.arena.crates" :key="crate.name" :x="crate.at[0] - crate.size[0] / 2" :y="crate.at[1] - crate.size[1] / 2" :width="crate.size[0]" :height="crate.size[1]"
      :fill="paint(crate.color)" fill-opacity="0.35" :stroke="paint(crate.color)" :stroke-width="crate.wall" :transform="`rotate(${-crate.turn * DEG} ${crate.at[0]} ${crate.at[1]})`"
    />
    <line v-for="(wall, i) in layout.arena.walls" :key="`w${i}`" class="wall" :x1="wall.from[0]" :y1="wall.from[1]" :x2="wall.to[0]" :y2="wall.to[1]" :stroke-width="wall.thickness" />
    <g v-for="piece in layout.pieces.filter(p => p.fed === null)" :key="piece.name" :transform="`translate(${piece.at[0]} ${piece.at[1]}) rotate(${-piece.turn * DEG})`">
      <circle v-if="piece.body.shape !== 'box'" :r="piece.body.diameter / 2" :fill="paint(piece.color)" />
      <rect v-else :x="-piece.body.length / 2" :y="-piece.body.width / 2" :width="piece.body.length" :height="piece.body.width" :fill="paint(piece.color)" />
    </g>
    <circle
      v-for="v in layout.arena.visitors" :key="v.name" :cx="v.path[0]![0]" :cy="v.path[0]![1]" :r="v.diameter / 2" :fill="paint(v.color)"
    />
    <circle v-for="lamp in layout.arena.lamps" :key="lamp.name" class="lamp" :cx="lamp.at[0]" :cy="lamp.at[1]" r="0.03" />
    <g v-if="robot" :transform="`translate(${layout.start.x} ${layout.start.y}) rotate(${-layout.start.heading * DEG})`">
      <rect class="robot" x="-0.085" y="-0.06" width="0.17" height="0.12" rx="0.02" />
      <path class="nose" d="M0.05 0 L-0.02 0.035 L-0.02 -0.035 Z" />
    </g>
  </g>
</template>

<style scoped>
.deck { fill: rgb(var(--v-theme-deck)); }
.wall { stroke: rgb(var(--v-theme-wall)); stroke-linecap: butt; }
.lamp { fill: rgb(var(--v-theme-paint-yellow)); stroke: rgb(var(--v-theme-ink)); stroke-width: 0.006; }
.robot { fill: rgb(var(--v-theme-hull)); stroke: rgb(var(--v-theme-tyre)); stroke-width: 0.015; }
.nose { fill: rgb(var(--v-theme-signal)); }
</style>
