<script setup lang="ts">
import { computed, shallowRef, useTemplateRef, watch } from 'vue'
import { boundOf } from '~/shown/named'
import { mainReading, readingName, deviceColor, type ShownReading } from '~/shown/readings'
import { drawTrace, extent, fitCanvas } from '~/features/bench/sense/trace'
import { inLengthUnit } from '~/shown/lengths'
import { useColors } from '~/composables/useColors'
import { useLive } from '~/composables/useLive'
import { useBenchStore } from '~/features/bench/bench'

/** Time: which rule was in control when, what the senses read, what happened. Dragging goes back. */
const bench = useBenchStore()
const colors = useColors()
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
/** What the words beside the drawing say; renewed with it. */
const at = shallowRef({ tick: 0, time: 0, rows: 0 })

const BAND = 26
const TRACE = 28
const EVENTS = 22
/** The shortest time shown, seconds; a longer run is shown whole. */
const SHORTEST = 20

/** Senses that the program compares, each once; without a program all that measure. */
const traces = computed<readonly ShownReading[]>(() => {
  const { opened } = bench
  if (opened === null) return []
  const used = new Set(opened.program?.thresholds.map(t => t.reading) ?? [])
  const all = opened.facts.devices.flatMap(device => device.readings
    .map((spec, i) => ({ device, spec, index: device.first + i, name: readingName(device, spec) }))
    .filter(r => !r.spec.hidden))
  const chosen = all.filter(r => used.has(r.name))
  return chosen.length > 0 ? chosen : [mainReading(opened.facts.devices[1] ?? opened.facts.devices[0]!)]
})
const lanes = computed(() => bench.opened?.layout.laneNames ?? [])
const labels = computed(() => [
  ...lanes.value.map(name => ({ text: name, color: 'ink', height: BAND })),
  ...traces.value.map(r => ({ text: r.name, color: deviceColor(bench.opened!.facts, r.device.name), height: TRACE })),
  { text: 'events', color: 'ink', height: EVENTS },
])
const contentHeight = computed(() => labels.value.reduce((n, l) => n + l.height, 0))

function span(): number {
  const { opened } = bench
  if (opened === null) return 1
  return Math.max(Math.round(SHORTEST / opened.layout.dt), bench.rows * 1.04)
}

const { now } = useLive(8, () => {
  at.value = { tick: bench.shownTick, time: bench.time, rows: bench.rows }
  const { opened, tape } = bench
  const ctx = canvas.value === null ? null : fitCanvas(canvas.value)
  if (ctx === null || canvas.value === null || opened === null || tape === null) return
  const { layout, program } = opened
  const width = canvas.value.clientWidth
  const all = span()
  const x = (tick: number): number => tick / all * width
  const color = colors.value
  ctx.font = '12px "Atkinson Hyperlegible Next Variable", sans-serif'
  ctx.textBaseline = 'middle'
  drawGrid(ctx, all, width)
  let top = 0
  layout.laneNames.forEach((_, lane) => {
    drawBand(ctx, lane, top, x)
    top += BAND
  })
  for (const reading of traces.value) {
    const column = layout.readings + reading.index
    const truth = reading.spec.type.type === 'truth'
    const seen = truth ? [-0.1, 1.1] as const : extent(tape, column, 0, tape.rows) ?? [0, 1] as const
    const bounds = (program?.thresholds ?? []).filter(t => t.reading === reading.name)
      .flatMap(t => boundOf(t, opened, bench.dials, bench.row, bench.shownTick) ?? []).filter(Number.isFinite)
    const low = Math.min(seen[0], ...bounds)
    const high = Math.max(seen[1], ...bounds)
    const pad = (high - low || 1) * 0.08
    const box = { x: 0, y: top + 3, width, height: TRACE - 6, from: 0, to: all, low: low - pad, high: high + pad }
    ctx.lineWidth = 1
    ctx.strokeStyle = color('signal')
    ctx.setLineDash([3, 3])
    for (const bound of bounds) {
      const y = box.y + box.height * (1 - (bound - box.low) / (box.high - box.low))
      ctx.beginPath()
      ctx.moveTo(0, y)
      ctx.lineTo(x(tape.rows), y)
      ctx.stroke()
    }
    ctx.setLineDash([])
    ctx.strokeStyle = color(deviceColor(opened.facts, reading.device.name))
    ctx.lineWidth = 1.5
    drawTrace(ctx, tape, column, box)
    top += TRACE
  }
  drawEvents(ctx, top, x, width)
  ctx.fillStyle = color('signal')
  ctx.fillRect(Math.round(x(bench.shownTick)) - 1, 0, 2, canvas.value.clientHeight)
})
watch([colors, traces], now)

function drawGrid(ctx: CanvasRenderingContext2D, all: number, width: number): void {
  const seconds = all * bench.opened!.layout.dt
  const step = [1, 2, 5, 10, 20, 30, 60, 120, 300].find(s => s / seconds * width > 70) ?? 600
  ctx.strokeStyle = colors.value('line')
  ctx.fillStyle = colors.value('muted')
  ctx.lineWidth = 1
  for (let s = step; s < seconds; s += step) {
    const px = Math.round(s / seconds * width) + 0.5
    ctx.beginPath()
    ctx.moveTo(px, 0)
    ctx.lineTo(px, contentHeight.value)
    ctx.stroke()
    ctx.fillText(`${s} s`, px + 3, contentHeight.value + 8)
  }
}

/** Runs of ticks in which one rule had control, as boxes with its name. */
function drawBand(ctx: CanvasRenderingContext2D, lane: number, top: number, x: (tick: number) => number): void {
  const { opened, tape } = bench
  if (opened === null || tape === null) return
  const { layout, program } = opened
  const column = layout.lanes + 4 * lane + 2
  const phase = layout.lanes + 4 * lane
  const color = colors.value
  const key = (t: number): number => tape.value(t, column) >= 0 ? tape.value(t, column) : tape.value(t, phase) < 2 ? -2 : -1
  // A pixel's worth of ticks is looked at once: a long run costs no more than a short one.
  const stride = Math.max(1, Math.floor(span() / (ctx.canvas.clientWidth || 1) / 2))
  let begin = 0
  for (let t = stride; begin < tape.rows; t += stride) {
    const over = t >= tape.rows
    if (!over && key(t) === key(begin)) continue
    const rule = key(begin)
    const to = over ? tape.rows : t
    const left = x(begin)
    const right = Math.max(left + 1, x(to))
    if (rule !== -1) {
      const place = rule === -2 ? 7 : rule
      const tint = `device-${(place * 3 + 3) % 8}`
      ctx.globalAlpha = 0.2
      ctx.fillStyle = color(tint)
      ctx.fillRect(left, top + 3, right - left, BAND - 6)
      ctx.globalAlpha = 1
      const lit = bench.shownTick >= begin && bench.shownTick < to
      if (lit) {
        ctx.strokeStyle = color('signal')
        ctx.lineWidth = 1.5
        ctx.strokeRect(left + 0.75, top + 3.75, Math.max(1, right - left - 1.5), BAND - 7.5)
      }
      const r = rule >= 0 ? program?.rules[rule] : undefined
      const name = r === undefined ? 'start' : `${r.mode === '' ? '' : `${r.mode} `}${r.urgency}`
      const label = right - left > 60 && r !== undefined && r.mode === '' ? `rule ${name}` : name
      if (ctx.measureText(label).width + 8 < right - left) {
        ctx.fillStyle = color('ink')
        ctx.fillText(label, left + 5, top + BAND / 2 + 0.5)
      }
    }
    begin = to
  }
}

/** Events whose text the program wrote itself. */
const OWN_WORDS: ReadonlySet<string> = new Set(['note', 'finish', 'show', 'signal'])
const EVENT_SIGNS: Readonly<Record<string, string>> = { contact: '✳', fall: '↓', note: '“', finish: '■', blocked: '⊣', error: '✕', goal: '◎', signal: '→', poke: '☟', clipped: '⤒', show: '▤', fed: '↦', arena: '⌂', held: '⊓' }
function drawEvents(ctx: CanvasRenderingContext2D, top: number, x: (tick: number) => number, width: number): void {
  const { tape } = bench
  let free = -Infinity
  ctx.fillStyle = colors.value('ink')
  for (const event of tape?.events ?? []) {
    // What the program wrote stays as it wrote it.
    const said = OWN_WORDS.has(event.type) ? event.text : inLengthUnit(event.type === 'goal' ? `${event.about}: ${event.text}` : event.text)
    const label = `${EVENT_SIGNS[event.type] ?? ''} ${said}`
    const long = ctx.measureText(label).width
    const at = Math.min(x(event.tick), Math.max(0, width - long - 4))
    if (at < free) continue
    ctx.fillText(label, at + 2, top + EVENTS / 2)
    free = at + long + 14
  }
}

function seek(event: PointerEvent): void {
  if (event.buttons !== 1 || canvas.value === null) return
  canvas.value.setPointerCapture(event.pointerId)
  const box = canvas.value.getBoundingClientRect()
  bench.look(Math.round((event.clientX - box.left) / box.width * span()))
}
function seekByKey(event: KeyboardEvent): void {
  const step = { ArrowLeft: -1, ArrowRight: 1, PageUp: -50, PageDown: 50 }[event.key]
  if (step === undefined) return
  event.preventDefault()
  bench.look(bench.shownTick + step)
}
</script>

<template>
  <section class="tape" aria-label="Tape">
    <header class="head">
      <h2>Tape</h2>
      <span class="small">{{ bench.cursor === null ? 'the newest instant' : 'looking back' }} · drag, or ← →</span>
      <KeyButton v-if="bench.cursor !== null" variant="text" size="small" color="signal" keys="End" @click="bench.look(null)">to the newest</KeyButton>
      <KeyButton class="why" variant="text" size="small" color="signal" :aria-pressed="bench.asking" :disabled="bench.rows === 0 || bench.byHand" keys="W" @click="bench.askWhy()">Why this?</KeyButton>
      <span class="mono at">{{ at.time.toFixed(2) }} s</span>
    </header>
    <div class="body">
      <div class="labels">
        <div v-for="label in labels" :key="label.text" class="label" :style="{ height: `${label.height}px`, color: `rgb(var(--v-theme-${label.color}))` }">{{ label.text }}</div>
      </div>
      <canvas
        ref="canvas" tabindex="0" role="slider" aria-label="Instant of the run" :aria-valuenow="at.tick" :aria-valuemax="at.rows" :aria-valuetext="`${at.time.toFixed(2)} s`"
        :style="{ height: `${contentHeight + 18}px` }" @pointerdown="seek" @pointermove="seek" @keydown="seekByKey"
      />
    </div>
  </section>
</template>

<style scoped>
/* A layer of its own: what changes in here repaints nothing beside it. */
.tape { display: flex; flex-direction: column; min-height: 0; background: var(--panel); border-top: 2px solid var(--bar); contain: strict; will-change: transform; }
.head { display: flex; align-items: center; gap: 12px; padding: 0 12px; height: 31px; border-bottom: 1px solid var(--line); flex: none; }
.head h2 { font-size: 13.5px; margin: 0; }
.why { margin-left: auto; }
.at { background: var(--signal); color: var(--on-signal); border-radius: 3px; padding: 0 6px; font-weight: 600; min-width: 70px; text-align: right; }
.body { display: grid; grid-template-columns: 120px 1fr; overflow: auto; min-height: 0; flex: 1; }
.labels { border-right: 1px solid var(--line); }
.label { display: flex; align-items: center; padding-left: 12px; font-weight: 600; font-size: 12.5px; white-space: nowrap; overflow: hidden; }
canvas { width: 100%; display: block; cursor: col-resize; touch-action: none; }
</style>
