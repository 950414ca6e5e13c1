<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core'
import { computed, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { screenWords } from '~~/core/devices'
import { boundOf } from '~/shown/named'
import { changes, drawTrace, drawnOf, extent, fitCanvas } from '~/features/bench/sense/trace'
import { inLengthUnit, lengthUnit } from '~/shown/lengths'
import { useColors } from '~/composables/useColors'
import { useKept } from '~/composables/useKept'
import { useKeys } from '~/composables/useKeys'
import { useLive } from '~/composables/useLive'
import { useBenchStore } from '~/features/bench/bench'
import { useKeepingStore } from '~/run/keeping'
import { nextEvent, nextTakeover, panned, zoomed, type Span } from './moves'
import { useProjectStore } from '~/draft/project'
import { fileName, saveAs } from '~/utils/files'
import { difference, said, sourcesOf, usualIds, worth, type Source } from './sources'

/**
 * Time: which rule was in control when, what the senses read, what happened. Dragging goes back; the wheel zooms to the pointer, with
 * Shift it moves along; a mark beside the cursor tells what changed between the two.
 */
const bench = useBenchStore()
const project = useProjectStore()
const colors = useColors()
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const axis = useTemplateRef<HTMLCanvasElement>('axis')
const body = useTemplateRef<HTMLElement>('body')
const keeping = useKeepingStore()
/** What is known of a kept run that is looked at. */
const keptWords = computed(() => {
  const { kept, replayed } = bench
  if (kept === null) return ''
  const again = replayed === null ? '◌ runs it again' : replayed.same ? '● the same to the bit when it is run again' : `✕ not the same when it is run again${replayed.says === '' ? '' : `, ${replayed.says} first`}${kept.older ? ': another engine made it' : ''}`
  return `seed ${kept.seed}, ${kept.realism} · ${again}`
})
/** Where the run went on from another, and what of that began anew. */
const wentOn = computed(() => {
  const from = bench.opened?.from
  if (from == null || bench.opened === null) return null
  const anew = from.carried.filter(c => !c.goesOn)
  const said = anew.map(c => `${c.part === 'rule' ? `the rule of line ${c.line}` : `${c.part} ${c.name}`}: ${c.why}`)
  return `went on at ${(from.ticks * bench.opened.layout.dt).toFixed(2)} s · ${anew.length === 0 ? 'all of the program goes on as it was' : `begins anew: ${said.join('; ')}`}`
})
/** Saves the run, as far as it has come, as a file. */
async function keep(): Promise<void> {
  const name = fileName(project.data?.title ?? '', 'run')
  const text = await bench.record()
  saveAs(`${name}-${bench.seed}.run.json`, text, 'application/json')
}
/** What the words beside the drawing say; renewed with it. */
const at = shallowRef({ tick: 0, time: 0, rows: 0 })

const BAND = 26
const TRACE = 28
const EVENTS = 22
/** Where there is room, a trace grows to this height by itself. */
const GROWN = 84
const TALLEST = 320
/** The shortest time shown, seconds; a longer run is shown whole. */
const SHORTEST = 20

const sources = computed(() => bench.opened === null ? [] : sourcesOf(bench.opened))
/** What somebody chose to see, by robot and program alike; null as usual. */
const chosen = useKept<readonly string[] | null>('tape.traces', null)
const heights = useKept<Readonly<Record<string, number>>>('tape.heights', {})
const ids = computed(() => {
  const known = (chosen.value ?? []).filter(id => sources.value.some(s => s.id === id))
  return known.length > 0 || bench.opened === null ? known : usualIds(bench.opened)
})
const lanes = computed(() => bench.opened?.layout.laneNames ?? [])
const room = ref(0)
useResizeObserver(body, ([entry]) => { room.value = entry?.contentRect.height ?? 0 })
const traces = computed(() => {
  const shown = ids.value.flatMap(id => sources.value.filter(s => s.id === id))
  const free = shown.filter(s => heights.value[s.id] === undefined).length
  const taken = lanes.value.length * BAND + EVENTS + shown.reduce((n, s) => n + (heights.value[s.id] ?? 0), 0)
  const each = free === 0 ? TRACE : Math.max(TRACE, Math.min(GROWN, Math.floor((room.value - taken - 2) / free)))
  return shown.map(source => ({ source, height: heights.value[source.id] ?? each }))
})
const contentHeight = computed(() => lanes.value.length * BAND + EVENTS + traces.value.reduce((n, t) => n + t.height, 0))

// What is looked at: all of the run, or a part that somebody zoomed to.
const part = shallowRef<Span | null>(null)
watch(() => bench.opened, () => { part.value = null; mark.value = null })
const most = (): number => bench.opened === null ? 1 : Math.max(Math.round(SHORTEST / bench.opened.layout.dt), bench.rows * 1.04)
const span = (): Span => part.value ?? { from: 0, to: most() }
function zoom(factor: number, about = bench.shownTick): void { part.value = zoomed(span(), factor, about, most()); now() }
function pan(share: number): void { const s = span(); part.value = part.value === null ? null : panned(s, share * (s.to - s.from), most()); now() }
/** The cursor stays in sight. */
watch(() => bench.shownTick, (tick) => {
  const p = part.value
  if (p !== null && (tick < p.from || tick > p.to)) part.value = panned(p, tick < p.from ? tick - p.from - 0.2 * (p.to - p.from) : tick - p.to + 0.2 * (p.to - p.from), most())
})

/** A second instant to compare with; null while there is none. */
const mark = ref<number | null>(null)
const between = computed(() => {
  const { opened, tape } = bench
  void at.value
  if (mark.value === null || opened === null || tape === null) return null
  const [from, to] = [tape.find(mark.value), tape.find(bench.shownTick)]
  if (from === null || to === null) return null
  const value = (source: Source, row: Float64Array, tick: number): number => worth(source, row[source.column]!, tick, opened.layout.dt)
  return { time: (bench.shownTick - mark.value) * opened.layout.dt, values: new Map(traces.value.map(({ source }) => [source.id, difference(source, value(source, from, mark.value!), value(source, to, bench.shownTick))])) }
})

const looksOther = changes()
const { now } = useLive(8, () => {
  if (at.value.tick !== bench.shownTick || at.value.rows !== bench.rows) at.value = { tick: bench.shownTick, time: bench.time, rows: bench.rows }
  const { opened, tape } = bench
  if (canvas.value === null || opened === null || tape === null) return
  const { layout, program } = opened
  const { clientWidth: width, clientHeight } = canvas.value
  const { from, to } = span()
  const bounded = new Map(traces.value.map(({ source }) => [source, (program?.thresholds ?? []).filter(t => t.reading === source.id)
    .flatMap(t => boundOf(t, opened, bench.dials, bench.row, bench.shownTick) ?? []).filter(Number.isFinite)]))
  if (!looksOther(
    drawnOf(tape), tape.rows, tape.events.length, bench.shownTick, width, clientHeight, from, to, mark.value, bench.stuck.length === 0 ? null : bench.stuck, colors.value, lengthUnit.value, opened.from, layout.laneNames.length,
    ...layout.laneNames, ...traces.value.flatMap(({ source, height }) => [source.id, source.column, height, ...bounded.get(source)!]), ...tape.rows === 0 ? [] : tape.at(tape.rows - 1),
  )) return
  const ctx = fitCanvas(canvas.value)
  if (ctx === null) return
  const x = (tick: number): number => (tick - from) / (to - from) * width
  const color = colors.value
  ctx.font = '12px "Atkinson Hyperlegible Next Variable", sans-serif'
  ctx.textBaseline = 'middle'
  drawGrid(ctx, width)
  let top = 0
  layout.laneNames.forEach((_, lane) => {
    drawBand(ctx, lane, top, x)
    top += BAND
  })
  for (const { source, height } of traces.value) {
    const truth = source.spec.type.type === 'truth'
    const seen = truth ? [-0.1, 1.1] as const : extent(tape, source.column, Math.floor(from), Math.ceil(to)) ?? [0, 1] as const
    const bounds = bounded.get(source)!
    const low = Math.min(seen[0], ...bounds)
    const high = Math.max(seen[1], ...bounds)
    const pad = (high - low || 1) * 0.08
    const box = { x: 0, y: top + 3, width, height: height - 6, from, to, low: low - pad, high: high + pad }
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
    ctx.strokeStyle = color(source.color)
    ctx.lineWidth = 1.5
    drawTrace(ctx, tape, source.column, box)
    // A high trace has room to say between which values it runs.
    if (height >= 56 && !truth) {
      ctx.fillStyle = color('muted')
      ctx.textAlign = 'right'
      for (const [value, y] of [[high, top + 10], [low, top + height - 9]] as const) {
        const text = said(source, value, opened.facts.colors)
        ctx.clearRect(width - ctx.measureText(text).width - 7, y - 8, width, 16)
        ctx.fillText(text, width - 4, y)
      }
      ctx.textAlign = 'left'
    }
    top += height
  }
  drawEvents(ctx, top, x, width)
  const line = (tick: number, dash: readonly number[]): void => {
    const px = Math.round(x(tick))
    ctx.setLineDash([...dash])
    ctx.beginPath()
    ctx.moveTo(px, 0)
    ctx.lineTo(px, canvas.value!.clientHeight)
    ctx.stroke()
    ctx.setLineDash([])
  }
  ctx.lineWidth = 2
  ctx.strokeStyle = color('ink')
  if (mark.value !== null) line(mark.value, [5, 4])
  // Where it went on from another run.
  if (opened.from !== null) line(opened.from.ticks, [2, 3])
  ctx.strokeStyle = color('signal')
  line(bench.shownTick, [])
})
watch([colors, traces, mark, () => bench.stuck], now)

/** Seconds between two lines, and the lines. */
function drawGrid(ctx: CanvasRenderingContext2D, width: number): void {
  const foot = axis.value === null ? null : fitCanvas(axis.value)
  const { dt } = bench.opened!.layout
  const { from, to } = span()
  const seconds = (to - from) * dt
  const step = [0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 30, 60, 120, 300].find(s => s / seconds * width > 70) ?? 600
  ctx.strokeStyle = colors.value('line')
  ctx.lineWidth = 1
  if (foot !== null) { foot.font = ctx.font; foot.textBaseline = 'middle'; foot.fillStyle = colors.value('muted') }
  for (let k = Math.floor(from * dt / step) + 1; k * step < to * dt; k++) {
    const px = Math.round((k * step / dt - from) / (to - from) * width) + 0.5
    ctx.beginPath()
    ctx.moveTo(px, 0)
    ctx.lineTo(px, canvas.value!.clientHeight)
    ctx.stroke()
    foot?.fillText(`${Number((k * step).toFixed(2))} s`, px + 3, 9)
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
  const { from, to: until } = span()
  const stride = Math.max(1, Math.floor((until - from) / (ctx.canvas.clientWidth || 1) / 2))
  const last = Math.min(tape.rows, Math.ceil(until) + 1)
  let begin = Math.max(tape.first, Math.floor(from))
  for (let t = begin + stride; begin < last; t += stride) {
    const over = t >= last
    if (!over && key(t) === key(begin)) continue
    const rule = key(begin)
    const to = over ? last : t
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
const OWN_WORDS: ReadonlySet<string> = new Set(['note', 'finish', 'signal'])
const EVENT_SIGNS: Readonly<Record<string, string>> = { contact: '✳', fall: '↓', note: '“', finish: '■', blocked: '⊣', error: '✕', goal: '◎', signal: '→', poke: '☟', clipped: '⤒', show: '▤', fed: '↦', arena: '⌂', held: '⊓' }
function drawEvents(ctx: CanvasRenderingContext2D, top: number, x: (tick: number) => number, width: number): void {
  const { tape } = bench
  let free = -Infinity
  // Where it got nowhere, the row is hatched.
  ctx.strokeStyle = colors.value('muted')
  ctx.lineWidth = 1
  for (const s of bench.stuck) {
    const [left, right] = [Math.max(0, x(s.from)), Math.min(width, x(s.to))]
    ctx.beginPath()
    for (let at = left; at < right; at += 7) { ctx.moveTo(at, top + EVENTS - 3); ctx.lineTo(Math.min(right, at + 5), top + EVENTS - 8) }
    ctx.moveTo(left, top + EVENTS - 2)
    ctx.lineTo(right, top + EVENTS - 2)
    ctx.stroke()
  }
  ctx.fillStyle = colors.value('ink')
  for (const event of tape?.events ?? []) {
    // What the program wrote stays as it wrote it.
    const said = event.type === 'show' ? screenWords(event.text) : OWN_WORDS.has(event.type) ? event.text : inLengthUnit(event.type === 'goal' ? `${event.about}: ${event.text}` : event.text)
    const label = `${EVENT_SIGNS[event.type] ?? ''} ${said}`
    const long = ctx.measureText(label).width
    const at = Math.min(x(event.tick), Math.max(0, width - long - 4))
    if (at < free) continue
    ctx.fillText(label, at + 2, top + EVENTS / 2)
    free = at + long + 14
  }
}

function tickAt(event: MouseEvent): number {
  const box = canvas.value!.getBoundingClientRect()
  const { from, to } = span()
  return Math.max(0, Math.round(from + (event.clientX - box.left) / box.width * (to - from)))
}
function seek(event: PointerEvent): void {
  if (event.buttons !== 1 || canvas.value === null) return
  canvas.value.setPointerCapture(event.pointerId)
  if (event.shiftKey) mark.value = Math.min(tickAt(event), bench.rows - 1)
  else bench.look(tickAt(event))
}
function wheel(event: WheelEvent): void {
  if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) pan((event.deltaX || event.deltaY) / 800)
  else zoom(event.deltaY > 0 ? 1.25 : 0.8, tickAt(event))
}
function seekByKey(event: KeyboardEvent): void {
  const step = { ArrowLeft: -1, ArrowRight: 1, PageUp: -50, PageDown: 50 }[event.key]
  if (step !== undefined) bench.look(bench.shownTick + step)
  else if (event.key === 'End') bench.look(null)
  else if (event.key === 'Home') bench.look(0)
  else if (event.key === '+' || event.key === '=') zoom(0.5)
  else if (event.key === '-') zoom(2)
  else return
  event.preventDefault()
  event.stopPropagation()
}
function go(tick: number | null): void { if (tick !== null) bench.look(tick) }
const takeover = (by: 1 | -1) => (): void => { if (bench.tape !== null && bench.opened !== null) go(nextTakeover(bench.tape, bench.opened.layout, bench.shownTick, by)) }
const event = (by: 1 | -1, ...types: readonly ('contact' | 'note' | 'finish' | 'goal')[]) => (): void => { if (bench.tape !== null) go(nextEvent(bench.tape.events, bench.shownTick, by, types)) }
useKeys('Tape', {
  '<': { says: 'the takeover before, after', act: takeover(-1) }, '>': { says: 'the takeover before, after', act: takeover(1) },
  '{': { says: 'the contact before, after', act: event(-1, 'contact') }, '}': { says: 'the contact before, after', act: event(1, 'contact') },
  '(': { says: 'the note before, after', act: event(-1, 'note', 'finish') }, ')': { says: 'the note before, after', act: event(1, 'note', 'finish') },
  'x': { says: 'a mark here to compare with, and away', act: () => { mark.value = mark.value === bench.shownTick ? null : bench.shownTick } },
  'p': { says: 'go on from here, with the program as it is now', act: () => bench.goOn() },
  'y': { says: 'go on from here with other noise', act: () => bench.goOn(true) },
  '+': { says: 'a shorter, a longer time', act: () => zoom(0.5) }, '-': { says: 'a shorter, a longer time', act: () => zoom(2) },
})

/** Drags the lower border of a trace. */
function stretch(id: string, height: number, event: PointerEvent): void {
  const grip = event.currentTarget as HTMLElement
  grip.setPointerCapture(event.pointerId)
  const begin = event.clientY
  const move = (e: PointerEvent): void => { heights.value = { ...heights.value, [id]: Math.min(TALLEST, Math.max(TRACE, height + e.clientY - begin)) } }
  grip.addEventListener('pointermove', move)
  grip.addEventListener('pointerup', () => grip.removeEventListener('pointermove', move), { once: true })
}
/** As high as there is room again. */
function unstretch(id: string): void { heights.value = Object.fromEntries(Object.entries(heights.value).filter(([other]) => other !== id)) }
</script>

<template>
  <section class="tape" aria-label="Tape">
    <header class="head">
      <h2>Tape</h2>
      <TapeChooser :sources="sources" :chosen="ids" @choose="chosen = $event" />
      <v-btn-group><v-btn size="small" aria-label="A longer time" title="A longer time; the wheel does it too" :disabled="part === null" @click="zoom(2)">−</v-btn><v-btn size="small" aria-label="A shorter time" title="A shorter time; the wheel does it too" @click="zoom(0.5)">+</v-btn><v-btn size="small" :disabled="part === null" @click="part = null; now()">all</v-btn></v-btn-group>
      <span v-if="bench.kept !== null" class="hint" role="status" :title="keptWords"><b>kept run</b> {{ keptWords }}</span>
      <span v-else-if="wentOn !== null" class="small hint" role="status" :title="wentOn">{{ wentOn }}</span>
      <span v-else class="small hint">{{ bench.cursor === null ? 'the newest instant' : 'looking back' }} · drag, or ← →</span>
      <KeyButton v-if="bench.cursor !== null" variant="text" size="small" color="signal" keys="End" @click="bench.look(null)">to the newest</KeyButton>
      <span v-if="between !== null" class="mono between" role="status">Δ {{ between.time.toFixed(2) }} s<v-btn size="x-small" variant="text" aria-label="Take the mark away" @click="mark = null">✕</v-btn></span>
      <KeyButton class="on" variant="text" size="small" color="signal" :disabled="!bench.canGoOn" keys="P" says="From the instant looked at, with the program as it is now: a run of its own, and this one is kept" @click="bench.goOn()">Go on from here</KeyButton>
      <KeyButton class="why" variant="text" size="small" color="signal" :aria-pressed="bench.asking" :disabled="bench.rows === 0 || bench.byHand" keys="W" @click="bench.askWhy()">Why this?</KeyButton>
      <KeyButton class="keep" variant="text" size="small" :disabled="bench.rows === 0" says="Saves this run as a file, with what hands did in it: ./mindpath replay FILE runs it again to the bit" @click="keep">Keep run</KeyButton>
      <NuxtLink v-if="keeping.words !== ''" class="small kept" :to="`/projects/${project.data?.id}/runs`" :title="keeping.trouble ?? 'To the list of kept runs'">{{ keeping.words }}</NuxtLink>
      <span class="mono at">{{ at.time.toFixed(2) }} s</span>
    </header>
    <div ref="body" class="body">
      <div class="labels">
        <div v-for="name in lanes" :key="`lane ${name}`" class="label" :style="{ height: `${BAND}px` }">{{ name }}</div>
        <div v-for="{ source, height } in traces" :key="source.id" class="label trace" :class="{ tall: height >= 42 }" :data-trace="source.id" :title="source.title" :style="{ height: `${height}px`, color: `rgb(var(--v-theme-${source.color}))` }">
          <span class="name">{{ source.title }}</span><span v-if="between?.values.get(source.id) != null" class="mono change">{{ between.values.get(source.id) }}</span>
          <span class="grip" title="Drag to make it higher; press twice for as high as there is room" @pointerdown="stretch(source.id, height, $event)" @dblclick="unstretch(source.id)" />
        </div>
        <div class="label" :style="{ height: `${EVENTS}px` }">events</div>
      </div>
      <canvas
        ref="canvas" tabindex="0" role="slider" aria-label="Instant of the run" :aria-valuenow="at.tick" aria-valuemin="0" :aria-valuemax="at.rows" :aria-valuetext="`${at.time.toFixed(2)} s`"
        :style="{ height: `${Math.max(contentHeight, room)}px` }" @pointerdown="seek" @pointermove="seek" @wheel.prevent="wheel" @keydown="seekByKey"
      />
    </div>
    <div class="foot">
      <span /><canvas ref="axis" aria-hidden="true" />
    </div>
  </section>
</template>

<style scoped>
/* A layer of its own: what changes in here repaints nothing beside it. */
.tape { display: flex; flex-direction: column; min-height: 0; background: var(--panel); border-top: 2px solid var(--bar); contain: strict; will-change: transform; }
.head { display: flex; align-items: center; gap: 10px; padding: 0 12px; height: 31px; border-bottom: 1px solid var(--line); flex: none; white-space: nowrap; }
.head h2 { font-size: 13.5px; margin: 0; }
.hint { overflow: hidden; text-overflow: ellipsis; }
.between { font-weight: 600; }
.on { margin-left: auto; }
.kept { color: inherit; }
.at { background: var(--signal); color: var(--on-signal); border-radius: 3px; padding: 0 6px; font-weight: 600; min-width: 70px; text-align: right; }
.body { display: grid; grid-template-columns: 150px 1fr; overflow: hidden auto; min-height: 0; flex: 1; scrollbar-gutter: stable; }
.foot { display: grid; grid-template-columns: 150px 1fr; height: 18px; flex: none; border-top: 1px solid var(--line); overflow: hidden auto; scrollbar-gutter: stable; }
.foot > span, .labels { border-right: 1px solid var(--line); }
.foot canvas { height: 17px; cursor: default; }
.label { position: relative; display: flex; align-items: center; gap: 6px; padding: 0 6px 0 12px; font-weight: 600; font-size: 12.5px; white-space: nowrap; overflow: hidden; }
.name { overflow: hidden; text-overflow: ellipsis; flex: 1; }
/* The name above, what changed below it. */
.tall { flex-wrap: wrap; align-content: center; gap: 0 6px; }
.tall .name { flex: 1 1 100%; }
.change { color: var(--ink); font-size: 12px; }
.grip { position: absolute; inset: auto 0 0; height: 5px; cursor: row-resize; touch-action: none; }
.grip:hover { background: var(--field); }
canvas { width: 100%; display: block; cursor: col-resize; touch-action: none; }
/* Within, and not in the colour of the cursor: at its sides it would pass for one. */
canvas:focus-visible { outline: 2px solid var(--muted) !important; outline-offset: -2px; }
</style>
