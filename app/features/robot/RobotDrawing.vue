<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'
import { gripAt, placeFrames, posedBy, type Grip } from '~~/core/robot'
import { lengthUnit, shownLength } from '~/shown/lengths'
import { drawingOf, off, onto, type Outline, type Side } from './drawing'
import { readLength, writeQuantity } from '~/shown/quantities'
import { useRobotStore } from './robot'

/** The robot from above or from its right side: devices are chosen, moved and turned here. */
const props = defineProps<{ side: Side, colors: ReadonlyMap<string, string> }>()
const store = useRobotStore()
const svg = useTemplateRef<SVGSVGElement>('svg')

const WIDTH = 640
const HEIGHT = computed(() => props.side === 'above' ? 330 : 290)
const zoom = ref(1)

const drawing = computed(() => store.robot === null ? null : drawingOf(store.robot, store.frames, store.values, props.side))
/** The robot as a run begins: what it is drawn to the scale of, so that posing moves the arm and nothing else. */
const standing = computed(() => store.robot === null ? null : drawingOf(store.robot, store.frames, store.frames.map(f => f.link.start), props.side))
/** Pixels a metre: the robot's body fills a third of the drawing. */
const scale = computed(() => {
  const points = standing.value?.outlines.flatMap(o => o.points) ?? []
  const span = Math.max(0.12, ...points.map(([x]) => Math.abs(x))) * 2
  const tall = Math.max(0.1, ...points.map(([, y]) => Math.abs(y))) * 2
  return Math.min(WIDTH * 0.55 / span, HEIGHT.value * 0.62 / tall) * zoom.value
})
const cx = WIDTH * 0.4
const cy = computed(() => HEIGHT.value * (props.side === 'above' ? 0.5 : 0.55))
const onPaper = ([x, y]: readonly [number, number]): string => `${(cx + x * scale.value).toFixed(1)},${(cy.value + y * scale.value).toFixed(1)}`
const path = (points: readonly (readonly [number, number])[]): string => points.length === 0 ? '' : `M${points.map(onPaper).join('L')}Z`
const grid = computed(() => {
  // Whole inches for those who think in inches.
  const [fine, middle, coarse] = lengthUnit.value === 'in' ? [0.0254, 0.0508, 0.1016] : [0.02, 0.05, 0.1]
  const step = scale.value > 900 ? fine : scale.value > 260 ? middle : coarse
  const across = Array.from({ length: 61 }, (_, i) => (i - 30) * step)
  return { step, across }
})

type Drag = { readonly kind: 'move' | 'turn', readonly x: number, readonly y: number, readonly mount: Readonly<Record<string, number>> }
let drag: Drag | null = null
/** The link that a hand holds. */
let grip: Grip | null = null

/** Where the pointer is on the drawing, metres. */
function placeOf(event: PointerEvent): readonly [number, number] {
  const box = svg.value!.getBoundingClientRect()
  const drawn = Math.min(box.width / WIDTH, box.height / HEIGHT.value)
  const x = (event.clientX - box.left - (box.width - WIDTH * drawn) / 2) / drawn
  const y = (event.clientY - box.top - (box.height - HEIGHT.value * drawn) / 2) / drawn
  return [(x - cx) / scale.value, (y - cy.value) / scale.value]
}

/** Takes hold of an arm's link: dragging it turns the joint behind it. */
function hold(event: PointerEvent, outline: Outline): void {
  if (outline.frame === -1) return
  const { frame } = outline
  const through = placeFrames(store.frames, store.values)[frame]!.position
  grip = gripAt(store.frames, store.values, frame, off(props.side, placeOf(event), through));
  (event.currentTarget as Element).setPointerCapture(event.pointerId)
}
function pull(event: PointerEvent): void {
  if (grip === null) return
  const posed = posedBy(store.frames, store.values, store.rangeOf, grip, p => onto(props.side, p.x, p.y, p.z), placeOf(event))
  store.pose = Object.fromEntries(store.frames.map((f, i) => [f.name, posed[i]!]))
}

function begin(event: PointerEvent, name: string, kind: Drag['kind']): void {
  store.selected = name
  const mount = store.device?.mount ?? {}
  drag = {
    kind, x: event.clientX, y: event.clientY,
    mount: Object.fromEntries(['forward', 'right', 'up'].map(k => [k, readLength(mount[k], 'length', k === 'up' && mount['on'] === undefined ? 0.05 : 0)])),
  };
  (event.currentTarget as Element).setPointerCapture(event.pointerId)
}

/** A millimetre, or a degree: what hands can place. */
function move(event: PointerEvent): void {
  pull(event)
  if (drag === null || svg.value === null) return
  const box = svg.value.getBoundingClientRect()
  const metres = 1 / Math.min(box.width / WIDTH, box.height / HEIGHT.value) / scale.value
  const dx = (event.clientX - drag.x) * metres
  const dy = (event.clientY - drag.y) * metres
  const { mount, kind } = drag
  if (kind === 'move') {
    const place = (key: string, by: number): string => writeQuantity('length', Math.round(((mount[key] ?? 0) + by) * 1000) / 1000)
    store.changeDevice('move', (d) => {
      const m = d.mount ??= {}
      m['forward'] = place('forward', dx)
      if (props.side === 'above') m['right'] = place('right', dy)
      else m['up'] = place('up', -dy)
    })
    return
  }
  const spot = drawing.value?.spots.find(s => s.name === store.selected)
  if (spot === undefined) return
  const [px, py] = placeOf(event)
  const ax = px - spot.x
  const ay = py - spot.y
  const angle = Math.round(Math.atan2(props.side === 'above' ? ay : -ay, ax) * 180 / Math.PI)
  store.changeDevice('turn', (d) => {
    const m = d.mount ??= {}
    if (props.side === 'above') m['facing'] = `${angle} deg`
    else m['tilt'] = `${Math.max(-90, Math.min(90, angle))} deg`
  })
}
function end(): void { drag = null; grip = null }

/** Arrow keys move the chosen device by a millimetre, with shift by a centimetre. */
function key(event: KeyboardEvent): void {
  const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key]
  if (by === undefined || store.device === null) return
  event.preventDefault()
  const step = event.shiftKey ? 0.01 : 0.001
  store.changeDevice('nudge', (d) => {
    const m = d.mount ??= {}
    const other = props.side === 'above' ? 'right' : 'up'
    const add = (k: string, n: number): void => { if (n !== 0) m[k] = writeQuantity('length', Math.round((readLength(m[k], 'length', k === 'up' ? 0.05 : 0) + n * step) * 1000) / 1000) }
    add('forward', by[0]!)
    add(other, props.side === 'above' ? by[1]! : -by[1]!)
  })
}
</script>

<template>
  <figure class="drawing">
    <figcaption>
{{ side === 'above' ? 'From above' : 'From its right side' }}<span class="small">a line every {{ shownLength(grid.step) }} · drag a device, its arrow to turn it{{ store.frames.length > 0 ? ', an arm to pose it' : '' }}</span>
      <span class="zoom"><v-btn size="small" aria-label="Smaller" @click="zoom = Math.max(0.1, zoom / 1.3)">−</v-btn><v-btn size="small" aria-label="Larger" @click="zoom = Math.min(4, zoom * 1.3)">+</v-btn></span>
    </figcaption>
    <svg
      ref="svg" :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" tabindex="0" role="application" :aria-label="side === 'above' ? 'The robot from above' : 'The robot from its right side'"
      @pointermove="move" @pointerup="end" @pointercancel="end" @keydown="key"
    >
      <g class="grid">
        <line v-for="at in grid.across" :key="`x${at}`" :x1="cx + at * scale" :x2="cx + at * scale" :y1="-HEIGHT" :y2="2 * HEIGHT" />
        <line v-for="at in grid.across" :key="`y${at}`" :x1="-WIDTH" :x2="2 * WIDTH" :y1="cy + at * scale" :y2="cy + at * scale" />
      </g>
      <template v-if="drawing !== null">
        <line v-if="side === 'side'" class="floor" :x1="-WIDTH" :x2="2 * WIDTH" :y1="cy + drawing.floor * scale" :y2="cy + drawing.floor * scale" />
        <path v-for="s in drawing.spots" :key="`field ${s.name}`" :d="path(s.field)" class="field" :class="{ chosen: s.name === store.selected }" :style="{ fill: colors.get(s.name) }" />
        <path v-for="(o, i) in drawing.outlines" :key="i" :d="path(o.points)" :class="o.what" :style="o.device === null ? {} : { stroke: colors.get(o.device) }" :data-link="o.frame === -1 ? null : store.frames[o.frame]!.name" @pointerdown="hold($event, o)" />
        <g v-for="s in drawing.spots" :key="s.name" class="spot" :class="{ chosen: s.name === store.selected }" :data-spot="s.name">
          <line v-if="s.name === store.selected" class="arrow" :x1="cx + s.x * scale" :y1="cy + s.y * scale" :x2="cx + s.x * scale + s.dx * 34" :y2="cy + s.y * scale + s.dy * 34" />
          <circle v-if="s.name === store.selected && Math.hypot(s.dx, s.dy) > 0.2" class="handle" :cx="cx + s.x * scale + s.dx * 34" :cy="cy + s.y * scale + s.dy * 34" r="5" @pointerdown.stop="begin($event, s.name, 'turn')" />
          <circle :cx="cx + s.x * scale" :cy="cy + s.y * scale" :r="s.name === store.selected ? 6.5 : 5" :style="{ fill: colors.get(s.name) }" @pointerdown="begin($event, s.name, 'move')"><title>{{ s.name }}</title></circle>
          <text v-if="s.name === store.selected" :x="cx + s.x * scale" :y="cy + s.y * scale - 11" text-anchor="middle">{{ s.name }}</text>
        </g>
      </template>
    </svg>
  </figure>
</template>

<style scoped>
.drawing { margin: 0; display: flex; flex-direction: column; min-height: 0; border-bottom: 1px solid var(--line); flex: 1; }
figcaption { display: flex; gap: 12px; align-items: baseline; padding: 6px 12px 4px; font-weight: 600; }
figcaption .small { font-weight: 400; }
.zoom { margin-left: auto; display: flex; gap: 4px; }
svg { flex: 1; min-height: 0; width: 100%; background: var(--paper); touch-action: none; }
.grid line { stroke: var(--line); stroke-width: 0.6; }
.floor { stroke: var(--ink); stroke-width: 1.5; }
.field { opacity: 0.13; pointer-events: none; }
.field.chosen { opacity: 0.3; }
.chassis { fill: var(--panel); stroke: var(--ink); stroke-width: 1.6; fill-opacity: 0.85; }
.wheel { fill: var(--ink); fill-opacity: 0.75; }
.part[data-link] { cursor: grab; }
.part { fill: var(--panel); fill-opacity: 0.8; stroke-width: 1.6; }
.spot circle { stroke: var(--panel); stroke-width: 1.5; cursor: grab; }
.spot.chosen circle { stroke: var(--ink); }
.spot text { font-size: 12px; font-weight: 700; fill: var(--ink); paint-order: stroke; stroke: var(--paper); stroke-width: 3px; }
.arrow { stroke: var(--ink); stroke-width: 1.6; }
.spot .handle { fill: var(--panel); stroke: var(--ink); cursor: crosshair; }
</style>
