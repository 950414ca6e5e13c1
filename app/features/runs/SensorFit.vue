<script setup lang="ts">
import type { ChartConfiguration } from 'chart.js'
import { computed, useTemplateRef } from 'vue'
import { plain, useChart } from '~/composables/useChart'
import { useColors } from '~/composables/useColors'
import type { SensorFit } from './compare'

/** What a sensor read beside what was found of it: while the robot stood, and while it moved. */
const { fit } = defineProps<{ fit: SensorFit }>()
const colors = useColors()
const still = useTemplateRef<HTMLCanvasElement>('still')
const moved = useTemplateRef<HTMLCanvasElement>('moved')

const dots = (color: (name: string) => string) => ({ pointRadius: 1.6, pointBackgroundColor: color('ink'), borderWidth: 0, showLine: false })
const line = (color: (name: string) => string) => ({ pointRadius: 0, borderColor: color('signal'), borderWidth: 1.5, showLine: true })
const config = (points: readonly (readonly [number, number])[], lines: readonly (readonly (readonly [number, number])[])[], x: object): ChartConfiguration<'line' | 'scatter'> => {
  const color = colors.value
  const { axis, options } = plain(color)
  const of = (all: readonly (readonly [number, number])[]) => all.map(([x, y]) => ({ x, y }))
  return {
    type: 'scatter',
    data: { datasets: [...lines.map(l => ({ ...line(color), data: of(l) })), { ...dots(color), data: of(points) }] },
    options: {
      ...options, events: [],
      scales: { x: { type: 'linear' as const, ...axis, ...x }, y: { ...axis, ticks: { ...axis.ticks, maxTicksLimit: 4 } } },
      plugins: { legend: { display: false }, tooltip: { enabled: false } },
    },
  } as ChartConfiguration<'line' | 'scatter'>
}
useChart(still, () => {
  const { off, noise } = fit.still ?? { off: [], noise: 0 }
  return config(off.map((y, i) => [i, y]), [noise, -noise].map(y => [[0, y], [off.length - 1, y]]), { display: false, min: -0.5, max: off.length - 0.5 })
})
useChart(moved, () => {
  const { at, read, told } = fit.moved ?? { at: [], read: [], told: [] }
  return config(at.map((x, i) => [x, read[i]!]), [at.map((x, i) => [x, told[i]!])], { min: 0, max: at.at(-1), ticks: { color: colors.value('muted'), font: { size: 11 }, maxTicksLimit: 6, includeBounds: false, callback: (v: string | number) => `${v} s` } })
})
const digits = (x: number): number => Number(x.toPrecision(3))
const words = computed(() => ({
  still: fit.still === null ? '' : `${fit.still.off.length} looks while it stood, off their mean; lines: the noise, ±${digits(fit.still.noise)} ${fit.unit}`,
  moved: 'While it moved: dots what it read; line what the wheels tell, as late as was found',
}))
</script>

<template>
  <figure class="fit" :class="{ both: fit.still !== null && fit.moved !== null }" :aria-label="fit.device">
    <figcaption><b>{{ fit.device }}</b> <span class="small">{{ fit.unit }}</span></figcaption>
    <div v-if="fit.still !== null"><div class="plot"><canvas ref="still" role="img" :aria-label="words.still" /></div><p class="small">{{ words.still }}</p></div>
    <div v-if="fit.moved !== null"><div class="plot"><canvas ref="moved" role="img" :aria-label="words.moved" /></div><p class="small">{{ words.moved }}</p></div>
  </figure>
</template>

<style scoped>
.fit { margin: 0; display: grid; grid-template-columns: minmax(0, 1fr); grid-template-rows: auto 1fr; gap: 2px 10px; }
.fit.both { grid-column: 1 / -1; grid-template-columns: 1fr 1fr; }
figcaption { grid-column: 1 / -1; font-size: 13px; }
.fit > div { min-width: 0; background: var(--panel); border: 1px solid var(--line); padding: 2px 6px 4px; }
.plot { position: relative; height: 92px; }
p { margin: 0; line-height: 1.25; }
</style>
