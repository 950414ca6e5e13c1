<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from 'vue'
import type { DeviceFacts, RobotFacts } from '~~/core/robot'
import type { Threshold } from '~~/core/program'
import { boundOf } from '~/shown/named'
import { deviceColor, mainReading, readingName, shownValue } from '~/shown/readings'
import { changes, drawTrace, drawnOf, fitCanvas, lastSeconds, leastOf } from './trace'
import { useColors } from '~/composables/useColors'
import { useLive } from '~/composables/useLive'
import { useBenchStore } from '~/features/bench/bench'

/** One sensor: its name, port, live reading, and the last ten seconds with the program's thresholds. */
const props = defineProps<{ device: DeviceFacts, facts: RobotFacts, thresholds: readonly Threshold[], folded: boolean }>()
const emit = defineEmits<{ fold: [], move: [by: 1 | -1], drag: [] }>()
const bench = useBenchStore()
const colors = useColors()
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')

const main = computed(() => mainReading(props.device))
const color = computed(() => deviceColor(props.facts, props.device.name))
const truth = computed(() => main.value.spec.type.type === 'truth')
const figure = ref('')
const unit = ref('')
const on = ref(false)
const looksOther = changes()

const mine = computed(() => props.thresholds.filter(t => t.reading === main.value.name))
const uses = computed(() => {
  const program = bench.opened?.program
  if (program === null || program === undefined) return ''
  const all = props.thresholds.filter(t => t.reading.startsWith(`${props.device.name}.`))
  const texts = all.map((t) => {
    const spec = props.device.readings.find(r => readingName(props.device, r) === t.reading)
    const { value } = t
    const bound = (t.cell === null ? undefined : program.named.find(n => n.cell === t.cell)?.name) ?? (value === null || spec === undefined ? 'worked out' : Object.values(shownValue(spec, value, props.facts.colors)).join(' '))
    const reading = t.reading === main.value.name ? '' : `${t.reading.slice(props.device.name.length + 1)} `
    return `${reading}${t.operator} ${bound} · ${program.rules[t.rule]!.mode || `rule ${program.rules[t.rule]!.urgency}`}`
  })
  return [...new Set(texts)].slice(0, 2).join(', ')
})

function show(): void {
  const { row, opened, tape } = bench
  if (row === null || opened === null || tape === null) return
  const column = opened.layout.readings + main.value.index
  const value = row[column]!
  const shown = shownValue(main.value.spec, value, props.facts.colors)
  figure.value = shown.figure
  unit.value = shown.unit
  on.value = value !== 0
  if (canvas.value === null) return
  const { clientWidth: width, clientHeight: height } = canvas.value
  const bounds = mine.value.flatMap(t => boundOf(t, opened, bench.dials, row, bench.shownTick) ?? []).filter(Number.isFinite)
  const least = leastOf(main.value.spec.type)
  if (!looksOther(drawnOf(tape), tape.rows, bench.shownTick, column, value, width, height, least, colors.value, ...bounds)) return
  const ctx = fitCanvas(canvas.value)
  if (ctx === null) return
  const box = lastSeconds(tape, column, bench.shownTick, opened.layout.dt, { width, height }, truth.value ? [0, 1] : bounds, least)
  const color3 = colors.value
  ctx.strokeStyle = color3('signal')
  ctx.lineWidth = 1
  ctx.setLineDash([3, 3])
  for (const bound of bounds) {
    const y = box.y + box.height * (1 - (bound - box.low) / (box.high - box.low))
    ctx.beginPath()
    ctx.moveTo(0, y)
    ctx.lineTo(width, y)
    ctx.stroke()
  }
  ctx.setLineDash([])
  ctx.strokeStyle = color3(color.value)
  ctx.lineWidth = 1.4
  drawTrace(ctx, tape, column, box)
}

/** What was true at the instant asked about, and how old the look was that the reading tells of. */
const behind = computed(() => {
  const known = bench.behind?.tick === bench.shownTick ? bench.behind.known.filter(k => k.device === props.device.name) : []
  // Where that cannot be told, of another reading, by its name.
  const found = known.find(k => k.reading === main.value.index) ?? known[0]
  if (found === undefined) return ''
  const spec = props.device.readings[found.reading - props.device.first]!
  return `${found.reading === main.value.index ? '' : `${spec.name} `}true ${Object.values(shownValue(spec, found.truth, props.facts.colors)).join(' ')} · ${found.age.toFixed(2)} s old`
})

/** A condition from what it reads now. */
function start(): void {
  const { row, opened } = bench
  const value = row === null || opened === null ? 0 : row[opened.layout.readings + main.value.index]!
  const shown = shownValue(main.value.spec, value, props.facts.colors)
  const { type } = main.value.spec.type
  const most = main.value.spec.range?.[1]
  const bound = value === Infinity && most !== undefined ? shownValue(main.value.spec, most, props.facts.colors) : shown
  bench.insert(type === 'truth' ? main.value.name : type === 'color' ? `${main.value.name} is ${shown.figure}` : `${main.value.name} < ${`${bound.figure} ${bound.unit}`.trim()}`)
}

const { now } = useLive(10, show)
watch([colors, mine], now)
</script>

<template>
  <li class="row" :data-device="device.name" :title="main.spec.summary">
    <SenseHead
      :device="device" :color="color" :folded="folded" says="Put a condition from this reading where the caret is"
      @press="start" @fold="emit('fold')" @move="emit('move', $event)" @drag="emit('drag')"
    >
      {{ truth ? (on ? '●' : '○') : `${figure} ${unit}` }}
    </SenseHead>
    <div v-show="!folded" class="body">
      <span v-if="truth" class="truth" :class="{ on }" data-figure>{{ figure }}</span>
      <span v-else class="figure mono" :class="{ words: unit === '' }"><span data-figure>{{ figure }}</span> <small>{{ unit }}</small></span>
      <canvas ref="canvas" class="trace" aria-hidden="true" />
    </div>
    <div v-if="behind !== ''" class="small true" title="What an ideal sensor would have read in this tick, and how old the look is that the reading tells of">{{ behind }}</div>
    <div v-if="uses !== '' && !folded" class="small uses" :title="uses">{{ uses }}</div>
  </li>
</template>

<style scoped>
.row { padding: 8px 10px 7px; border-bottom: 1px solid var(--line); }
.body { display: flex; align-items: center; height: 36px; gap: 6px; }
.figure { font-size: 19px; font-weight: 600; min-width: 96px; flex: none; white-space: nowrap; }
.figure.words { font-size: 16px; }
.figure small { font-size: 12px; font-weight: 400; color: var(--muted); font-family: var(--text); }
.truth { width: 96px; flex: none; color: var(--muted); white-space: nowrap; }
.truth.on { color: var(--good); font-weight: 700; }
.trace { flex: 1; min-width: 0; height: 32px; }
.true { font-weight: 600; }
.uses { white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
</style>
