<script setup lang="ts">
import { computed, ref } from 'vue'
import { groupName, type Summary } from './answers'

/** How often goals are met, or how long that takes, over two dials: a table, so that every figure can be read. */
const { summary } = defineProps<{ summary: Summary }>()
const FIGURES = [{ value: 'share', title: 'met all goals, %' }, { value: 'time', title: 'median time, s' }] as const
const figure = ref<(typeof FIGURES)[number]['value']>('share')

const of = computed(() => {
  const { plan, answers, programs, cells } = summary
  const [down, across] = plan.dials
  return programs.flatMap((program, p) => plan.realisms.map((realism) => {
    const results = answers.results.map((r, i) => ({ r, ...cells[i]! })).filter(({ r }) => r.program === p && r.realism === realism)
    const times = results.flatMap(({ r }) => r.took?.median ?? [])
    const [quick, slow] = [Math.min(...times), Math.max(...times)]
    return {
      title: groupName(summary, program.name, realism),
      columns: results.slice(0, across!.count).map(({ dials }) => dials[1]!),
      lines: Array.from({ length: down!.count }, (_, y) => ({
        name: results[y * across!.count]!.dials[0]!,
        cells: results.slice(y * across!.count, (y + 1) * across!.count).map(({ r, best }) => {
          const share = figure.value === 'share'
          const value = share ? r.share.value : r.took === null ? null : slow === quick ? 1 : (slow - r.took.median) / (slow - quick)
          return {
            // The better the darker, whichever is looked at.
            depth: r.runs === 0 || value === null ? 0 : value,
            text: r.runs === 0 ? '–' : share ? `${Math.round(100 * r.share.value)}` : r.took === null ? '–' : r.took.median.toFixed(1),
            sure: r.runs === 0 ? '' : share ? `${Math.round(100 * r.share.low)}–${Math.round(100 * r.share.high)}` : r.took === null ? '' : `${r.took.lower.toFixed(1)}–${r.took.upper.toFixed(1)}`,
            best,
          }
        }),
      })),
    }
  }))
})
</script>

<template>
  <div class="maps">
    <v-btn-toggle v-model="figure" aria-label="What is shown"><v-btn v-for="f in FIGURES" :key="f.value" :value="f.value">{{ f.title }}</v-btn></v-btn-toggle>
    <figure v-for="map in of" :key="map.title">
      <figcaption><b>{{ map.title }}</b> {{ summary.plan.dials[0]!.name }} down, {{ summary.plan.dials[1]!.name }} across · small: {{ figure === 'share' ? '95 % sure' : 'half of the runs' }} · framed: cannot be told from the best</figcaption>
      <table>
        <thead><tr><th class="corner">{{ summary.plan.dials[0]!.name }} ↓ {{ summary.plan.dials[1]!.name }} →</th><th v-for="c in map.columns" :key="c" scope="col">{{ c }}</th></tr></thead>
        <tbody>
          <tr v-for="line in map.lines" :key="line.name">
            <th scope="row">{{ line.name }}</th>
            <td v-for="(cell, i) in line.cells" :key="i" :class="{ best: cell.best }" :style="{ background: `rgba(var(--v-theme-good), ${(0.06 + 0.5 * cell.depth).toFixed(2)})` }"><span class="mono">{{ cell.text }}</span><small>{{ cell.sure }}</small></td>
          </tr>
        </tbody>
      </table>
    </figure>
  </div>
</template>

<style scoped>
.maps { display: flex; flex-direction: column; gap: 10px; align-items: flex-start; }
figure { margin: 0; width: 100%; overflow-x: auto; background: var(--panel); border: 1px solid var(--line); padding: 8px 12px 12px; border-radius: 4px; }
figcaption { font-size: 12px; color: var(--muted); margin-bottom: 6px; }
figcaption b { color: var(--ink); font-size: 13px; }
table { border-collapse: separate; border-spacing: 3px; font-size: 13px; }
th { font-weight: 600; white-space: nowrap; padding: 2px 8px; text-align: right; }
thead th { text-align: center; }
.corner { color: var(--muted); font-weight: 400; font-size: 12px; }
td { min-width: 62px; text-align: center; padding: 4px 6px; border: 2px solid transparent; border-radius: 3px; }
td.best { border-color: var(--ink); }
td small { display: block; font-size: 11px; color: var(--ink); }
</style>
