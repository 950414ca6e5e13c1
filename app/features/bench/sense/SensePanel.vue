<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import SenseCamera from './SenseCamera.vue'
import SenseDisplay from './SenseDisplay.vue'
import SenseRow from './SenseRow.vue'
import type { NamedCell } from '~~/core/program'
import { lengthUnit, nextLengthUnit } from '~/shown/lengths'
import { useKept } from '~/composables/useKept'
import { movedBy, ordered, putBefore } from './order'
import { useBenchStore } from '~/features/bench/bench'

/** Kinds of device that show more than a figure and its trace. */
const PARTS: Readonly<Record<string, typeof SenseCamera | typeof SenseDisplay>> = { camera: SenseCamera, display: SenseDisplay }

/** What the robot senses: every device, live. */
const bench = useBenchStore()
/** In which order somebody wants the devices, and which are folded, by name. */
const order = useKept<readonly string[]>('sense.order', [])
const folded = useKept<readonly string[]>('sense.folded', [])
const dragged = ref<string | null>(null)
const names = (): readonly string[] => devices.value.map(d => d.name)
function fold(name: string): void { folded.value = folded.value.includes(name) ? folded.value.filter(n => n !== name) : [...folded.value, name] }
async function move(name: string, by: 1 | -1): Promise<void> {
  const focused = document.activeElement as HTMLElement | null
  order.value = movedBy(names(), name, by)
  await nextTick()
  focused?.focus()
}
function drop(before: string): void { if (dragged.value !== null) order.value = putBefore(names(), dragged.value, before) }

const devices = computed(() => {
  const facts = bench.opened?.facts
  if (facts === undefined) return []
  // Sensors first, as the robot lists them; its own wheels last. What has no wire has nothing to say.
  return ordered([...facts.devices.filter(d => d.name !== 'wheels' && d.port !== ''), ...facts.devices.filter(d => d.name === 'wheels')], order.value)
})
/** Memories, named values and what is followed over time; a memory of several values is one. Dials have their own place. */
const named = computed(() => {
  const groups = new Map<string, { named: NamedCell, at: number }[]>()
  bench.opened?.program?.named.forEach((cell, at) => { if (cell.what !== 'dial') groups.set(cell.of ?? cell.name, [...groups.get(cell.of ?? cell.name) ?? [], { named: cell, at }]) })
  return [...groups].map(([name, cells]) => ({ name, cells }))
})
const thresholds = computed(() => bench.opened?.program?.thresholds ?? [])
const situations = useTemplateRef<{ take(which: 'first' | 'second'): void }>('situations')
defineExpose({ take: (which: 'first' | 'second') => situations.value?.take(which), nextUnit: nextLengthUnit })
</script>

<template>
  <section class="sense" aria-label="Sense">
    <header class="head"><h2>Sense</h2><KeyButton size="small" keys="U" :says="`Lengths in ${lengthUnit}; press for the next unit`" @click="nextLengthUnit">{{ lengthUnit }}</KeyButton></header>
    <WireStrip />
    <ul v-if="bench.opened !== null" class="list">
      <template v-for="device in devices" :key="device.name">
        <component
          :is="PARTS[device.kind] ?? SenseRow" :device="device" :facts="bench.opened.facts" :folded="folded.includes(device.name)" v-bind="device.kind in PARTS ? {} : { thresholds }"
          @fold="fold(device.name)" @move="by => move(device.name, by)" @drag="dragged = device.name" @dragover.prevent @drop.prevent="drop(device.name)"
        />
      </template>
      <template v-if="named.length > 0">
        <li class="small group">What the program names</li>
        <SenseNamed v-for="n in named" :key="n.name" :name="n.name" :cells="n.cells" />
      </template>
    </ul>
    <p v-if="devices.length === 1" class="small hint">A reactive program needs something to react to: this robot has no sensor yet.</p>
    <SenseSituations v-if="bench.opened !== null" ref="situations" />
  </section>
</template>

<style scoped>
/* A layer of its own: what changes in here repaints nothing beside it. */
.sense { display: flex; flex-direction: column; min-height: 0; background: var(--panel); contain: strict; will-change: transform; }
.head { padding: 0 10px; height: 33px; line-height: 33px; border-bottom: 1px solid var(--line); flex: none; }
.head { display: flex; align-items: center; justify-content: space-between; }
.head h2 { font-size: 13.5px; margin: 0; }
.list { list-style: none; margin: 0; padding: 0; overflow: auto; flex: 1; min-height: 0; }
.hint { padding: 10px; }
.group { padding: 7px 10px 3px; }
</style>
