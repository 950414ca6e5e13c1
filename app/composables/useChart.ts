import { Chart, LineController, LineElement, LinearScale, PointElement, ScatterController, Tooltip, type ChartConfiguration } from 'chart.js'
import { onBeforeUnmount, onMounted, watch, type Ref } from 'vue'

Chart.register(LineController, LineElement, LinearScale, PointElement, ScatterController, Tooltip)
/** Text of charts is the house's. */
Chart.defaults.font.family = '"Atkinson Hyperlegible Next Variable", sans-serif'

/** A chart on a canvas, drawn anew when what it shows changes. */
export function useChart(canvas: Readonly<Ref<HTMLCanvasElement | null>>, config: () => ChartConfiguration<'line' | 'scatter'>): void {
  let chart: Chart<'line' | 'scatter'> | null = null
  const draw = (): void => {
    if (canvas.value === null) return
    chart?.destroy()
    chart = new Chart(canvas.value, config())
  }
  onMounted(draw)
  // Its canvas may come with what it shows.
  watch(config, draw, { flush: 'post' })
  onBeforeUnmount(() => chart?.destroy())
}

/** Lines, figures and grid in the house's colours; nothing moves by itself. */
export const plain = (color: (name: string) => string) => ({
  options: { animation: false as const, maintainAspectRatio: false, layout: { padding: { top: 8, right: 14 } } },
  axis: { grid: { color: color('line') }, ticks: { color: color('muted'), font: { size: 11 } }, border: { display: false } },
  title: (text: string) => ({ display: true, text, color: color('muted'), font: { size: 11 } }),
})

/** An axis of things under one another, each by its name. */
export const namesAxis = (names: readonly string[], { axis, color }: { readonly axis: ReturnType<typeof plain>['axis'], readonly color: (name: string) => string }) => ({
  type: 'linear' as const, min: -0.6, max: names.length - 0.4, reverse: true, ...axis, grid: { display: false },
  ticks: { ...axis.ticks, color: color('ink'), stepSize: 1, autoSkip: false, callback: (v: string | number) => names[Number(v)] ?? '' },
})
