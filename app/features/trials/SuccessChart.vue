<script setup lang="ts">
import type { ChartConfiguration, Plugin } from 'chart.js'
import { computed, useTemplateRef } from 'vue'
import { useColors } from '~/composables/useColors'
import { groupName, markOf, resultName, type Summary } from './answers'
import { namesAxis, plain, useChart } from '~/composables/useChart'

/** How often goals are met, each share with the interval that it is sure to lie in: over a dial as lines, else a line for each. */
const { summary } = defineProps<{ summary: Summary }>()
const colors = useColors()
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')

interface Dot { readonly x: number, readonly y: number, readonly low: number, readonly high: number, readonly said: string }
/** Over one dial: its values across. Else every result has a line of its own. */
const over = computed(() => summary.plan.dials.length === 1 ? summary.plan.dials[0]!.name : null)
const unit = computed(() => over.value === null ? '' : /[^\d.\s-].*$/.exec(summary.cells[0]?.dials[0] ?? '')?.[0] ?? '')
const done = computed(() => summary.answers.results.map((r, i) => ({ r, i })).filter(({ r }) => r.runs > 0))
const percent = (x: number): number => 100 * x
const dotOf = ({ share: { low, high } }: Summary['answers']['results'][number], x: number, y: number, said: string): Dot => ({ x, y, low: percent(low), high: percent(high), said })
/** The lines over a dial. */
const groups = computed(() => over.value === null ? [] : summary.plan.realisms.flatMap((realism, k) => summary.programs.map((program, p) => ({
  title: groupName(summary, program.name, realism) || program.name, mark: markOf(k * summary.programs.length + p),
  dots: done.value.filter(({ r }) => r.program === p && r.realism === realism).map(({ r, i }) => dotOf(r, parseFloat(summary.cells[i]!.dials[0]!), percent(r.share.value), `${summary.spoken.results[i]!.where}: ${summary.spoken.results[i]!.said}`)),
}))))
/** The lines of results that stand under one another. */
const names = computed(() => done.value.map(({ i }) => resultName(summary.spoken.results[i]!)))
const height = computed(() => over.value === null ? 60 + 26 * Math.min(40, names.value.length) : 260)

const config = (): ChartConfiguration<'line' | 'scatter'> => {
  const color = colors.value
  const { axis, title, options } = plain(color)
  const flat = over.value === null
  const sets = flat ? [{ title: '', mark: markOf(0), dots: done.value.map(({ r, i }, n) => dotOf(r, percent(r.share.value), n, summary.spoken.results[i]!.said)) }] : groups.value
  const whiskers: Plugin<'line' | 'scatter'> = {
    id: 'whiskers',
    beforeDatasetsDraw({ ctx, scales }) {
      for (const { mark, dots } of sets) {
        ctx.strokeStyle = color(mark.color)
        ctx.lineWidth = 2
        // Those of several lines stand beside one another.
        const aside = flat ? 0 : (sets.findIndex(s => s.dots === dots) - (sets.length - 1) / 2) * 5
        for (const dot of dots) {
          const [x, y] = [scales['x']!, scales['y']!]
          const at = flat ? y.getPixelForValue(dot.y) : x.getPixelForValue(dot.x) + aside
          const ends = [dot.low, dot.high].map(v => (flat ? x : y).getPixelForValue(v))
          const line = (from: readonly [number, number], to: readonly [number, number]): void => { ctx.moveTo(...(flat ? from : [from[1], from[0]] as const)); ctx.lineTo(...(flat ? to : [to[1], to[0]] as const)) }
          ctx.beginPath()
          line([ends[0]!, at], [ends[1]!, at])
          for (const end of ends) line([end, at - 4], [end, at + 4])
          ctx.stroke()
        }
      }
    },
  }
  const share = { min: 0, max: 100, ...axis, title: title('met all goals, %') }
  return {
    type: 'line', plugins: [whiskers],
    data: { datasets: sets.map(({ title: label, mark, dots }) => ({ label, clip: 8, data: dots.map(({ x, y }) => ({ x, y })), showLine: !flat, borderColor: color(mark.color), borderDash: [...mark.dash], borderWidth: 2, pointStyle: mark.point, pointRadius: 5, pointBackgroundColor: color(mark.color), pointBorderColor: color(mark.color) })) },
    options: {
      ...options,
      scales: flat
        ? { x: { type: 'linear', ...share }, y: namesAxis(names.value, { axis, color }) }
        : { x: { type: 'linear', ...axis, title: title(`${over.value}${unit.value === '' ? '' : `, ${unit.value}`}`) }, y: { ...share } },
      plugins: { legend: { display: false }, tooltip: { displayColors: false, callbacks: { title: () => '', label: ({ datasetIndex, dataIndex }) => sets[datasetIndex]!.dots[dataIndex]!.said } } },
    },
  } as ChartConfiguration<'line' | 'scatter'>
}
useChart(canvas, config)
const words = computed(() => summary.spoken.results.map(r => `${r.program} ${r.where}: ${r.said}`).join('. '))
</script>

<template>
  <figure class="chart">
    <figcaption><b>How often</b><span class="small">the bars: 95 % sure</span><TrialsLegend v-if="over !== null && groups.length > 1" :marks="groups" /></figcaption>
    <div class="plot" :style="{ height: `${height}px` }"><canvas ref="canvas" role="img" :aria-label="words" /></div>
  </figure>
</template>

<style scoped>
.chart { margin: 0; background: var(--panel); border: 1px solid var(--line); border-radius: 4px; padding: 8px 12px; }
figcaption { display: flex; gap: 14px; align-items: center; font-size: 13px; }
.plot { position: relative; }
</style>
