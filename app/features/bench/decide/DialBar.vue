<script setup lang="ts">
import { useBenchStore } from '~/features/bench/bench'
import { useProjectStore } from '~/draft/project'
import { DIAL_STEPS, dialAt, dialText } from './dials'
import type { DialView } from '~/run/protocol'

/** The program's dials as sliders: they act on the running robot and on the text at once. */
const bench = useBenchStore()
const project = useProjectStore()

function move(dial: DialView, value: number): void {
  const text = dialText(dial, value)
  const before = project.program
  // The place is of the text that was checked last; a text that moved on is left alone.
  const written = before.slice(dial.at.from, dial.at.to)
  if (!/^-?[\d.]/.test(written)) return
  project.edit(before.slice(0, dial.at.from) + text + before.slice(dial.at.to))
  bench.dials = bench.dials.map((d) => {
    if (d.name === dial.name) return { ...d, value, at: { from: d.at.from, to: d.at.from + text.length } }
    const shift = text.length - (dial.at.to - dial.at.from)
    return d.at.from > dial.at.from ? { ...d, at: { from: d.at.from + shift, to: d.at.to + shift } } : d
  })
  bench.poke({ poke: 'dial', name: dial.name, value })
}

const placeOf = (dial: DialView): number => Math.round((dial.value - dial.from) / (dial.to - dial.from) * DIAL_STEPS)
function moved(dial: DialView, place: number): void { if (place !== placeOf(dial)) move(dial, dialAt(dial, place)) }
</script>

<template>
  <div v-if="bench.dials.length > 0" class="dials" role="group" aria-label="Dials">
    <div v-for="dial in bench.dials" :key="dial.name" class="dial" :data-dial="dial.name">
      <span class="mono name">{{ dial.name }}</span>
      <v-slider
        min="0" :max="DIAL_STEPS" step="1" :model-value="placeOf(dial)" :name="`${dial.name}, ${dialText(dial, dial.from)} to ${dialText(dial, dial.to)}`"
        :value-format="({ value }: { value: number }) => dialText(dial, dialAt(dial, value))" @update:model-value="moved(dial, $event)"
      />
      <span class="mono value">{{ dialText(dial, dial.value) }}</span>
    </div>
  </div>
</template>

<style scoped>
.dials { background: var(--ground); border-top: 1px solid var(--line); padding: 6px 12px; flex: none; max-height: 130px; overflow: auto; }
.dial { display: grid; grid-template-columns: 92px 1fr 84px; align-items: center; gap: 8px; min-height: 22px; }
.name { overflow: hidden; text-overflow: ellipsis; }
.value { text-align: right; font-weight: 600; }
</style>
