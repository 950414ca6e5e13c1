<script setup lang="ts">
import type { ChartConfiguration, Plugin } from 'chart.js'
import { computed, ref, useTemplateRef } from 'vue'
import { useColors } from '~/composables/useColors'
import { markOf, resultName, type Summary } from './answers'
import { namesAxis, plain, useChart } from '~/composables/useChart'

/** How long it takes where goals were met: every run as a dot with the quartiles, or the share that was there by a time. */
const { summary } = defineProps<{ summary: Summary }>()
const colors = useColors()
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const KINDS = [{ value: 'dots', title: 'every run' }, { value: 'share', title: 'share over time' }] as const
const kind = ref<(typeof KINDS)[number]['value']>('dots')
/** More lines than these cannot be told apart: those that meet their goals most often are drawn. */
const MOST = { dots: 20, share: 6 } as const
const lines = computed(() => summary.answers.results.map((r, i) => ({ r, took: summary.cells[i]!.took, title: resultName(summary.spoken.results[i]!) })).filter(l => l.took.length > 0))
const shown = computed(() => (lines.value.length <= MOST[kind.value] ? lines.value : lines.value.toSorted((a, b) => b.r.share.value - a.r.share.value).slice(0, MOST[kind.value])).map((l, i) => ({ ...l, mark: markOf(i) })))
const height = computed(() => kind.value === 'share' ? 240 : 60 + 34 * shown.value.length)

/** Where dots of about the same time stand beside one another: up and down by turns, the same at every draw. */
const aside = (i: number): number => [0, 0.16, -0.16, 0.28, -0.28][i % 5]!

const config = (): ChartConfiguration<'line' | 'scatter'> => {
  const color = colors.value
  const { axis, title, options } = plain(color)
  const all = shown.value
  const dots = kind.value === 'dots'
  const quartiles: Plugin<'line' | 'scatter'> = {
    id: 'quartiles',
    beforeDatasetsDraw({ ctx, scales: { x, y } }) {
      if (!dots) return
      all.forEach(({ r }, n) => {
        if (r.took === null) return
        const [from, to, middle] = [r.took.lower, r.took.upper, r.took.median].map(v => x!.getPixelForValue(v))
        const [top, bottom] = [y!.getPixelForValue(n - 0.36), y!.getPixelForValue(n + 0.36)]
        ctx.fillStyle = color('field')
        ctx.fillRect(from!, top, Math.max(1, to! - from!), bottom - top)
        ctx.strokeStyle = color('ink')
        ctx.lineWidth = 2
        ctx.beginPath()
        ctx.moveTo(middle!, top)
        ctx.lineTo(middle!, bottom)
        ctx.stroke()
      })
    },
  }
  const time = { type: 'linear' as const, beginAtZero: !dots, ...axis, title: title(dots ? 'seconds until the last goal was met; the box holds the middle half, its line is the median' : 'seconds') }
  return {
    type: dots ? 'scatter' : 'line', plugins: [quartiles],
    data: {
      datasets: all.map(({ r, took, title: label, mark }, n) => ({
        label, showLine: !dots, stepped: dots ? false : 'before' as const, borderColor: color(mark.color), borderDash: dots ? [] : [...mark.dash], borderWidth: dots ? 1 : 2,
        pointRadius: dots ? 3.5 : 0, pointStyle: mark.point, pointBackgroundColor: `${color(mark.color)}99`, pointBorderColor: color(mark.color),
        data: dots ? took.map((x, i) => ({ x, y: n + aside(i) })) : [{ x: 0, y: 0 }, ...took.map((x, i) => ({ x, y: 100 * r.share.value * (i + 1) / took.length }))],
      })),
    },
    options: {
      ...options,
      scales: dots
        ? { x: time, y: namesAxis(all.map(l => l.title), { axis, color }) }
        : { x: time, y: { min: 0, max: 100, ...axis, title: title('runs that had met all goals, %') } },
      plugins: { legend: { display: false }, tooltip: { displayColors: false, callbacks: { title: () => '', label: ({ datasetIndex, parsed }) => `${all[datasetIndex]!.title}: ${Number(parsed.x).toFixed(2)} s${dots ? '' : `, ${Number(parsed.y).toFixed(0)} %`}` } } },
    },
  } as ChartConfiguration<'line' | 'scatter'>
}
useChart(canvas, config)
const words = computed(() => shown.value.map(({ title, r }) => `${title}: ${r.took === null ? 'none met its goals' : `median ${r.took.median.toFixed(2)} s, half of them ${r.took.lower.toFixed(2)} to ${r.took.upper.toFixed(2)} s`}`).join('. '))
</script>

<template>
  <figure class="chart">
    <figcaption>
      <b>How long</b>
      <v-btn-toggle v-model="kind" aria-label="How times are drawn"><v-btn v-for="k in KINDS" :key="k.value" :value="k.value">{{ k.title }}</v-btn></v-btn-toggle>
      <TrialsLegend v-if="kind === 'share' && shown.length > 1" :marks="shown" />
      <span v-if="lines.length > shown.length" class="small">the best {{ shown.length }} of {{ lines.length }}</span>
    </figcaption>
    <p v-if="lines.length === 0" class="small">No run has met its goals.</p>
    <div v-show="lines.length > 0" class="plot" :style="{ height: `${height}px` }"><canvas ref="canvas" role="img" :aria-label="words" /></div>
  </figure>
</template>

<style scoped>
.chart { margin: 0; background: var(--panel); border: 1px solid var(--line); border-radius: 4px; padding: 8px 12px; }
figcaption { display: flex; flex-wrap: wrap; gap: 4px 14px; align-items: center; font-size: 13px; }
.plot { position: relative; }
</style>
