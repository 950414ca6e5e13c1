import { Chart, Filler, LineController, LineElement, LinearScale, PointElement, ScatterController, Tooltip, CategoryScale, type ChartConfiguration } from 'chart.js'
import { onBeforeUnmount, onMounted, watch, type Ref } from 'vue'

Chart.register(CategoryScale, Filler, LineController, LineElement, LinearScale, PointElement, ScatterController, Tooltip)

/** A chart on a canvas, drawn anew when what it shows changes. */
export function useChart(canvas: Readonly<Ref<HTMLCanvasElement | null>>, config: () => ChartConfiguration<'line' | 'scatter'>): void {
  let chart: Chart<'line' | 'scatter'> | null = null
  const draw = (): void => {
    if (canvas.value === null) return
    chart?.destroy()
    chart = new Chart(canvas.value, config())
  }
  onMounted(draw)
  watch(config, draw)
  onBeforeUnmount(() => chart?.destroy())
}

/** Lines, figures and grid in the house's colours; nothing moves by itself. */
export const plain = (color: (name: string) => string) => ({
  animation: false as const, maintainAspectRatio: false, layout: { padding: { top: 8, right: 14 } },
  axis: { grid: { color: color('line') }, ticks: { color: color('muted'), font: { size: 11, family: '"Atkinson Hyperlegible Next Variable", sans-serif' } }, border: { display: false } },
  title: (text: string) => ({ display: true, text, color: color('muted'), font: { size: 11, family: '"Atkinson Hyperlegible Next Variable", sans-serif' } }),
})
