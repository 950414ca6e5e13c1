<script setup lang="ts">
import type { ChartConfiguration } from 'chart.js'
import { computed, useTemplateRef } from 'vue'
import { plain, useChart } from '~/composables/useChart'
import { useColors } from '~/composables/useColors'
import { useKept } from '~/composables/useKept'
import { metIn } from '~~/core/runs'
import { STYLES } from './compare'
import { FIGURES, figureText } from './figures'
import { useRunsStore } from './runs'

/** A figure of every run, the oldest first: how it changed from one revision to the next. */
const runs = useRunsStore()
const colors = useColors()
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')

const ITEMS = FIGURES.map(f => ({ value: f.value, title: f.unit === '' ? f.title : `${f.title}, ${f.unit}` }))
const chosen = useKept('runs.figure', FIGURES[0]!.value)
const figure = computed(() => FIGURES.find(f => f.value === chosen.value) ?? FIGURES[0]!)
const points = computed(() => runs.runs.toReversed().map((run, i) => {
  const { outline: o } = run
  const all = o.goals.length > 0 && metIn(o) === o.goals.length
  return { x: i + 1, y: figure.value.of(o), run, all }
}))

const config = (): ChartConfiguration<'line' | 'scatter'> => {
  const color = colors.value
  const { axis, options } = plain(color)
  const all = points.value
  const letter = (i: number): string => STYLES[runs.chosen.indexOf(all[i]!.run.id)]?.letter ?? ''
  return {
    type: 'line',
    data: {
      datasets: [{
        data: all.map(({ x, y }) => ({ x, y })), borderColor: color('line'), borderWidth: 1,
        // Done and not done differ by their shape, and by being filled.
        pointStyle: all.map(p => p.all ? 'circle' as const : 'rectRot' as const), pointBackgroundColor: all.map(p => p.all ? color('good') : color('surface')),
        pointBorderColor: all.map((p, i) => letter(i) !== '' ? color('signal') : p.all ? color('good') : color('ink')), pointBorderWidth: all.map((_, i) => letter(i) === '' ? 1.5 : 3), pointRadius: 4.5, pointHoverRadius: 6,
      }],
    },
    options: {
      ...options,
      scales: { x: { type: 'linear' as const, min: 0.5, max: all.length + 0.5, ...axis, ticks: { ...axis.ticks, precision: 0, callback: (value: string | number) => Number.isInteger(value) ? value : '' } }, y: { beginAtZero: true, ...axis } },
      plugins: { legend: { display: false }, tooltip: { displayColors: false, callbacks: { title: ([item]: { dataIndex: number }[]) => told(all[item!.dataIndex]!.run), label: (item: { dataIndex: number }) => `${figure.value.title}: ${figureText(figure.value, all[item.dataIndex]!.y)}` } } },
      onClick: (_: unknown, [item]: { index: number }[]) => { if (item !== undefined) runs.choose(all[item.index]!.run.id) },
    },
  } as ChartConfiguration<'line' | 'scatter'>
}
useChart(canvas, config)
const told = (run: { name: string, revision: number | null, seed: number, realism: string }): string => `${run.name === '' ? '' : `${run.name}, `}${run.revision === null ? '' : `revision ${run.revision}, `}seed ${run.seed}, ${run.realism}`
const words = computed(() => `${figure.value.title} of ${points.value.length} runs, the oldest first`)
</script>

<template>
  <figure class="chart">
    <figcaption><v-select v-model="chosen" class="figure" :items="ITEMS" aria-label="What is drawn of every run" /><span class="small">per run, the oldest first · ● all goals met, ◇ not · a click compares it</span></figcaption>
    <div class="plot"><canvas ref="canvas" role="img" :aria-label="words" /></div>
  </figure>
</template>

<style scoped>
.chart { margin: 0; padding: 8px 12px 4px; flex: none; border-bottom: 1px solid var(--line); }
figcaption { display: flex; align-items: center; gap: 12px; }
.figure { flex: none; width: 210px; }
.plot { position: relative; height: 138px; margin-top: 4px; }
</style>
