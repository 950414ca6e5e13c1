<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, shallowRef, useTemplateRef } from 'vue'
import { layOut, readArena } from '~~/core/arena'
import { useProjectsStore } from './projects'

/** A small plan of an arena as seed 1 lays it out, fetched when it comes into sight. */
const props = defineProps<{ document: string }>()
const projects = useProjectsStore()

const place = useTemplateRef<HTMLElement>('place')
/** undefined until it is there; null when it cannot be had. */
const arena = shallowRef<unknown>(undefined)
const observer = new IntersectionObserver((entries) => {
  if (!entries.some(e => e.isIntersecting)) return
  observer.disconnect()
  void projects.document(props.document).then((kept) => { arena.value = kept })
}, { rootMargin: '300px' })
onMounted(() => { if (place.value !== null) observer.observe(place.value) })
onBeforeUnmount(() => observer.disconnect())

const DEG = 180 / Math.PI
const plan = computed(() => {
  if (arena.value === undefined) return null
  const read = readArena(arena.value)
  if (!read.ok) return null
  const layout = layOut(read.value, 1)
  return { arena: layout.arena, layout }
})
const paint = (color: string): string => `rgb(var(--v-theme-paint-${color}))`
</script>

<template>
  <div v-if="arena === undefined" ref="place" class="plan" />
  <svg
    v-else-if="plan !== null" class="plan" :viewBox="`-0.12 -0.12 ${plan.arena.size[0] + 0.24} ${plan.arena.size[1] + 0.24}`"
    :class="plan.arena.surround" preserveAspectRatio="xMidYMid meet" aria-hidden="true"
  >
    <g :transform="`matrix(1 0 0 -1 0 ${plan.arena.size[1]})`">
      <rect
        v-for="(deck, i) in plan.arena.decks" :key="`d${i}`" class="deck" :x="deck.at[0] - deck.size[0] / 2" :y="deck.at[1] - deck.size[1] / 2"
        :width="deck.size[0]" :height="deck.size[1]" :transform="`rotate(${-deck.turn * DEG} ${deck.at[0]} ${deck.at[1]})`"
      />
      <template v-for="(patch, i) in plan.arena.patches" :key="`p${i}`">
        <ellipse v-if="patch.shape === 'disc'" :cx="patch.at[0]" :cy="patch.at[1]" :rx="patch.size[0] / 2" :ry="patch.size[0] / 2" :fill="paint(patch.color)" />
        <rect
          v-else :x="patch.at[0] - patch.size[0] / 2" :y="patch.at[1] - patch.size[1] / 2" :width="patch.size[0]" :height="patch.size[1]"
          :fill="paint(patch.color)" :transform="`rotate(${-patch.turn * DEG} ${patch.at[0]} ${patch.at[1]})`"
        />
      </template>
      <polyline
        v-for="line in plan.arena.lines" :key="line.name" fill="none" stroke-linejoin="round" :points="line.points.map(p => p.join(',')).join(' ')"
        :stroke="paint(line.color)" :stroke-width="line.width"
      />
      <rect
        v-for="belt in plan.arena.belts" :key="belt.name" :x="belt.at[0] - belt.size[0] / 2" :y="belt.at[1] - belt.size[1] / 2" :width="belt.size[0]" :height="belt.size[1]"
        :fill="paint('black')" :transform="`rotate(${-belt.turn * DEG} ${belt.at[0]} ${belt.at[1]})`"
      />
      <rect
        v-for="crate in plan.arena.crates" :key="crate.name" :x="crate.at[0] - crate.size[0] / 2" :y="crate.at[1] - crate.size[1] / 2" :width="crate.size[0]" :height="crate.size[1]"
        :fill="paint(crate.color)" fill-opacity="0.35" :stroke="paint(crate.color)" :stroke-width="crate.wall" :transform="`rotate(${-crate.turn * DEG} ${crate.at[0]} ${crate.at[1]})`"
      />
      <line v-for="(wall, i) in plan.arena.walls" :key="`w${i}`" class="wall" :x1="wall.from[0]" :y1="wall.from[1]" :x2="wall.to[0]" :y2="wall.to[1]" :stroke-width="wall.thickness" />
      <g v-for="piece in plan.layout.pieces.filter(p => p.fed === null)" :key="piece.name" :transform="`translate(${piece.at[0]} ${piece.at[1]}) rotate(${-piece.turn * DEG})`">
        <circle v-if="piece.body.shape === 'cylinder'" :r="piece.body.diameter / 2" :fill="paint(piece.color)" />
        <rect v-else :x="-piece.body.length / 2" :y="-piece.body.width / 2" :width="piece.body.length" :height="piece.body.width" :fill="paint(piece.color)" />
      </g>
      <g :transform="`translate(${plan.layout.start.x} ${plan.layout.start.y}) rotate(${-plan.layout.start.heading * DEG})`">
        <rect class="robot" x="-0.085" y="-0.06" width="0.17" height="0.12" rx="0.02" />
        <path class="nose" d="M0.05 0 L-0.02 0.035 L-0.02 -0.035 Z" />
      </g>
    </g>
  </svg>
  <div v-else class="plan broken small">The arena cannot be drawn.</div>
</template>

<style scoped>
.plan { display: block; width: 100%; height: 100%; background: rgb(var(--v-theme-ground)); }
.plan.water { background: rgb(var(--v-theme-water)); }
.deck { fill: rgb(var(--v-theme-deck)); }
.wall { stroke: rgb(var(--v-theme-wall)); }
.robot { fill: rgb(var(--v-theme-hull)); stroke: rgb(var(--v-theme-tyre)); stroke-width: 0.015; }
.nose { fill: rgb(var(--v-theme-signal)); }
.broken { display: grid; place-items: center; }
</style>
