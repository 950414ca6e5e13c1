<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'
import type { NamedCell } from '~~/core/program'
import { valueAt } from '~/shown/named'
import { shownValue } from '~/shown/readings'
import { changes, drawTrace, drawnOf, fitCanvas, lastSeconds, leastOf } from './trace'
import { useColors } from '~/composables/useColors'
import { useLive } from '~/composables/useLive'
import { useBenchStore } from '~/features/bench/bench'

/** What the program names: one memory or value, live, with its last ten seconds; of a memory of several values, what they are. */
const props = defineProps<{ name: string, cells: readonly { readonly named: NamedCell, readonly at: number }[] }>()
const bench = useBenchStore()
const colors = useColors()
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const figure = ref('')
const on = ref(false)
const looksOther = changes()

const one = computed(() => props.cells.length === 1 ? props.cells[0]! : null)
const truth = computed(() => props.cells[0]!.named.shown.type === 'truth')

function words(named: NamedCell, value: number): string {
  const { shown } = named
  if (named.ago && value === Infinity) return 'never'
  if (shown.type === 'truth') return value === 0 ? '○ false' : '● true'
  const said = shownValue({ name: named.name, type: shown.type === 'quantity' ? shown : { type: 'color' } }, value, bench.opened?.facts.colors ?? [])
  return `${said.figure} ${said.unit}`.trim()
}

function show(): void {
  const { opened, row, tape } = bench
  if (opened === null) return
  const values = props.cells.map(({ named, at }) => ({ named, at, value: valueAt(named, at, opened, row, bench.shownTick) ?? 0 }))
  if (one.value === null) {
    const label = (named: NamedCell): string => named.name.slice(props.name.length + 1, -1)
    figure.value = truth.value ? values.filter(v => v.value !== 0).map(v => label(v.named)).join(', ') || 'none is true' : values.map(v => words(v.named, v.value)).join(', ')
    return
  }
  const { named, at, value } = values[0]!
  figure.value = words(named, value)
  on.value = truth.value && value !== 0
  // A time since something grows until it happens again: its figure says it all.
  if (named.ago || tape === null || canvas.value === null) return
  const column = opened.layout.named + at
  const { clientWidth: width, clientHeight: height } = canvas.value
  const least = leastOf(named.shown.type === 'quantity' ? named.shown : { type: 'color' })
  if (!looksOther(drawnOf(tape), tape.rows, bench.shownTick, column, value, width, height, least, colors.value)) return
  const ctx = fitCanvas(canvas.value)
  if (ctx === null) return
  ctx.strokeStyle = colors.value('ink')
  ctx.lineWidth = 1.2
  drawTrace(ctx, tape, column, lastSeconds(tape, column, bench.shownTick, opened.layout.dt, { width, height }, truth.value ? [0, 1] : [], least))
}
useLive(10, show)
</script>

<template>
  <li class="row" :data-named="name">
    <span class="name mono" :title="name">{{ name }}</span>
    <span class="figure mono" :class="{ on, several: one === null }" :title="one === null ? figure : undefined" data-figure>{{ figure }}</span>
    <canvas v-if="one !== null && !one.named.ago" ref="canvas" class="trace" aria-hidden="true" />
  </li>
</template>

<style scoped>
.row { display: grid; grid-template-columns: minmax(0, 1fr) auto; column-gap: 8px; padding: 5px 10px; border-bottom: 1px solid var(--line); }
.name { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; font-size: 13px; }
.figure { font-size: 14px; font-weight: 600; text-align: right; white-space: nowrap; }
.figure.on { color: var(--good); }
.figure.several { grid-column: 1 / -1; text-align: left; font-weight: 400; overflow: hidden; text-overflow: ellipsis; }
.trace { grid-column: 1 / -1; width: 100%; height: 18px; }
</style>
