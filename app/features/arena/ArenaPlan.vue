<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { shownLength } from '~/shown/lengths'
import { useKept } from '~/composables/useKept'
import { PEN, useArenaStore } from './arena'
import { goalMarks } from './marks'
import { snap, type Snapped } from './snap'
import { boundsOf, cornersOf, dragCorner, dragPoint, isSized, middleOf, moveBy, outlineOf, pointsOf, refKey, turnAbout, type Point, type Raw, type Ref } from './things'
import { plain } from '~/draft/document'
import type { ArenaItem } from '~~/core/arena'

/** The arena from above: things are chosen, moved, turned and drawn here, and measured while they are. */
const tool = defineModel<ArenaItem | null>('tool', { required: true })
const pointing = defineModel<((name: string) => void) | null>('pointing', { required: true })
const store = useArenaStore()
const svg = useTemplateRef<SVGSVGElement>('svg')
/** Spacing of the grid that things snap to, metres; 0 is none. */
const grid = useKept<number>('arena.grid', 0.05)

const MARGIN = 0.2
/** How near, page pixels, a place must come to snap. */
const REACH = 9
const size = computed<Point>(() => store.arena?.size ?? [2, 2])
/** What is seen: its middle (metres) and how many times as much as all. */
const eye = ref<{ x: number, y: number, zoom: number } | null>(null)
watch(size, (now, before) => { if (now[0] !== before[0] || now[1] !== before[1]) eye.value = null })
/** The drawing's own size, page pixels: what it shows has its shape. */
const box = ref({ width: 1, height: 1 })
useResizeObserver(svg, ([entry]) => { if (entry !== undefined) box.value = { width: Math.max(1, entry.contentRect.width), height: Math.max(1, entry.contentRect.height) } })
const seen = computed(() => {
  const [w, h] = [size.value[0] + 2 * MARGIN, size.value[1] + 2 * MARGIN]
  const pixel = Math.max(w / box.value.width, h / box.value.height) * (eye.value?.zoom ?? 1)
  const [vw, vh] = [pixel * box.value.width, pixel * box.value.height]
  const [cx, cy] = eye.value === null ? [size.value[0] / 2, size.value[1] / 2] : [eye.value.x, eye.value.y]
  return { x: cx - vw / 2, y: size.value[1] - cy - vh / 2, w: vw, h: vh, pixel }
})
/** Metres of one page pixel. */
const px = computed(() => seen.value.pixel)

/** Where the pointer is, metres. */
function placeOf(event: { clientX: number, clientY: number }): Point {
  const at = svg.value!.getBoundingClientRect()
  return [seen.value.x + (event.clientX - at.left) * px.value, size.value[1] - (seen.value.y + (event.clientY - at.top) * px.value)]
}

type Drag =
  | { readonly what: 'move', readonly from: Point, readonly before: readonly { readonly ref: Ref, readonly raw: Raw }[] }
  | { readonly what: 'point', readonly ref: Ref, readonly index: number }
  | { readonly what: 'corner', readonly ref: Ref }
  | { readonly what: 'turn', readonly from: number, readonly about: Point, readonly before: readonly { readonly ref: Ref, readonly raw: Raw }[] }
  | { readonly what: 'box', readonly from: Point, readonly under: Ref | null, readonly more: boolean }
  | { readonly what: 'pan', readonly from: Point }
let drag: Drag | null = null
/** Each drag is a step of undo of its own. */
let gesture = 0
const rubber = ref<readonly [Point, Point] | null>(null)
const snapped = ref<Snapped | null>(null)
/** What is told beside the pointer while something is dragged. */
const told = ref<{ at: Point, words: string } | null>(null)

/** Places that others snap to: ends, corners and middles of all that is not chosen, and of the arena. */
function marks(): readonly Point[] {
  const [w, h] = size.value
  const others = store.things.filter(t => !store.isChosen(t.ref))
  return [[0, 0], [w, 0], [0, h], [w, h], [w / 2, h / 2], ...others.flatMap(t => [middleOf(t.raw), ...cornersOf(outlineOf(t.ref, t.raw))])]
}
/** Edges that others snap to: stretches of walls and lines, sides of all else that is not chosen. */
function edges(): readonly (readonly [Point, Point])[] {
  return store.things.filter(t => !store.isChosen(t.ref) && t.ref.list !== 'start').flatMap((t) => {
    const outline = outlineOf(t.ref, t.raw)
    const points = outline.shape === 'way' ? outline.points : cornersOf(outline)
    const ends = outline.shape === 'way' ? points : [...points, points[0]!]
    return ends.slice(1).map((p, i): readonly [Point, Point] => [ends[i]!, p])
  })
}
const snapTo = (place: Point, free: boolean): Snapped => free ? { at: place, to: null } : snap(place, marks(), REACH * px.value, grid.value, edges())

function take(event: PointerEvent): void { (event.currentTarget as Element).setPointerCapture(event.pointerId); gesture++ }

/** Begins on a thing: it is chosen, and dragging moves what is chosen. */
function grab(event: PointerEvent, thing: { ref: Ref, raw: Raw }): void {
  if (event.button !== 0 || tool.value !== null) return
  event.stopPropagation()
  svg.value?.focus({ preventScroll: true })
  if (pointing.value !== null) {
    pointing.value(String(thing.raw['name'] ?? thing.raw['kind'] ?? thing.raw['color'] ?? ''))
    pointing.value = null
    return
  }
  const { ref: r } = thing
  // A deck lies under everything: dragging on it chooses what stands there.
  if (r.list === 'decks' && !store.isChosen(r)) { beginBox(event, r); return }
  if (event.shiftKey) {
    store.selected = store.isChosen(r) ? store.selected.filter(s => refKey(s) !== refKey(r)) : [...store.selected, ...store.withGroup(r, event.altKey)]
    return
  }
  if (!store.isChosen(r)) store.selected = store.withGroup(r, event.altKey)
  take(event)
  drag = { what: 'move', from: placeOf(event), before: plain(store.chosen) as { ref: Ref, raw: Raw }[] }
}
function beginBox(event: PointerEvent, under: Ref | null): void {
  take(event)
  drag = { what: 'box', from: placeOf(event), under, more: event.shiftKey }
}
function grabHandle(event: PointerEvent, next: Drag): void {
  event.stopPropagation()
  take(event)
  drag = next
}
function grabTurn(event: PointerEvent): void {
  const about = store.pivot
  if (about === null) return
  const [x, y] = placeOf(event)
  grabHandle(event, { what: 'turn', from: Math.atan2(y - about[1], x - about[0]), about, before: plain(store.chosen) as { ref: Ref, raw: Raw }[] })
}

/** Begins on nothing: with a tool something new, else a box that chooses, or with the other button the drawing moves. */
function begin(event: PointerEvent): void {
  svg.value?.focus({ preventScroll: true })
  if (event.button !== 0) { take(event); drag = { what: 'pan', from: placeOf(event) }; return }
  if (tool.value !== null) {
    const { at } = snapTo(placeOf(event), event.ctrlKey)
    put(at)
    const [made] = store.selected
    const raw = made === undefined ? null : store.rawOf(made)
    if (made === undefined || raw === null) return
    take(event)
    if (pointsOf(raw).length === 2) {
      store.changeThing(made, `draw ${gesture}`, (r) => { dragPoint(r, 0, at, PEN); dragPoint(r, 1, at, PEN) })
      drag = { what: 'point', ref: made, index: 1 }
    } else if (isSized(raw)) drag = { what: 'corner', ref: made }
    return
  }
  beginBox(event, null)
}
/** A new thing of the tool's kind at a place. */
function put(at: Point): void {
  if (tool.value !== null) store.add(tool.value, at[0], at[1])
  tool.value = null
}

function move(event: PointerEvent): void {
  if (drag === null) return
  const place = placeOf(event)
  switch (drag.what) {
    case 'pan':
      eye.value = { x: (eye.value?.x ?? size.value[0] / 2) + drag.from[0] - place[0], y: (eye.value?.y ?? size.value[1] / 2) + drag.from[1] - place[1], zoom: eye.value?.zoom ?? 1 }
      return
    case 'box':
      rubber.value = [drag.from, place]
      return
    case 'move': return moveAll(drag, place, event.ctrlKey)
    case 'turn': return turnAll(drag, place, event.ctrlKey)
    case 'point': {
      const { ref: r, index } = drag
      const to = snapTo(place, event.ctrlKey)
      snapped.value = to
      store.changeThing(r, `point ${gesture}`, raw => dragPoint(raw, index, to.at, PEN))
      const points = pointsOf(store.rawOf(r) ?? {})
      const other = points[index === 0 ? 1 : index - 1]
      if (other !== undefined) told.value = { at: place, words: `${shownLength(Math.hypot(to.at[0] - other[0], to.at[1] - other[1]))} at ${(-Math.atan2(to.at[1] - other[1], to.at[0] - other[0]) * 180 / Math.PI).toFixed(0)} deg` }
      return
    }
    case 'corner': {
      const { ref: r } = drag
      const to = snapTo(place, event.ctrlKey)
      store.changeThing(r, `corner ${gesture}`, raw => dragCorner(r, raw, to.at, PEN))
      const outline = outlineOf(r, store.rawOf(r) ?? {})
      if (outline.shape === 'box') told.value = { at: place, words: `${shownLength(outline.size[0])} × ${shownLength(outline.size[1])}` }
    }
  }
}
/** Puts what stood before the drag so far away as the pointer went, its first point snapped. */
function moveAll({ from, before }: Extract<Drag, { what: 'move' }>, place: Point, free: boolean): void {
  const first = before[0]
  if (first === undefined) return
  const anchor = pointsOf(first.raw)[0] ?? middleOf(first.raw)
  const to = snapTo([anchor[0] + place[0] - from[0], anchor[1] + place[1] - from[1]], free)
  snapped.value = to
  const [dx, dy] = [to.at[0] - anchor[0], to.at[1] - anchor[1]]
  store.changeChosen(`drag ${gesture}`, all => all.forEach((t, i) => { Object.assign(t.raw, plain(before[i]!.raw)); moveBy(t.raw, dx, dy, PEN) }))
  const near = nearestOf(store.chosen)
  told.value = { at: place, words: `${shownLength(to.at[0])}, ${shownLength(to.at[1])}${near === null ? '' : ` · ${shownLength(near.away)} to ${near.name}`}` }
}
function turnAll({ from, about, before }: Extract<Drag, { what: 'turn' }>, place: Point, free: boolean): void {
  // To the left on the drawing is less heading. Five degrees at a time, freely with Ctrl.
  const raw = from - Math.atan2(place[1] - about[1], place[0] - about[0])
  const step = Math.PI / 36
  const angle = free ? raw : Math.round(raw / step) * step
  store.changeChosen(`spin ${gesture}`, all => all.forEach((t, i) => { Object.assign(t.raw, plain(before[i]!.raw)); turnAbout(t.ref, t.raw, about, angle, PEN) }))
  told.value = { at: place, words: `${(angle * 180 / Math.PI).toFixed(0)} deg` }
}
/** The nearest other thing to the middle of what is chosen. */
function nearestOf(chosen: readonly { raw: Raw }[]): { name: string, away: number } | null {
  const [only] = chosen
  if (only === undefined || chosen.length > 1) return null
  const [x, y] = middleOf(only.raw)
  const others = store.things.filter(t => !store.isChosen(t.ref) && t.ref.list !== 'decks' && t.ref.list !== 'areas').map(t => ({ name: String(t.raw['name'] ?? t.raw['kind'] ?? t.item?.one ?? 'the start'), away: Math.hypot(middleOf(t.raw)[0] - x, middleOf(t.raw)[1] - y) }))
  return others.sort((a, b) => a.away - b.away)[0] ?? null
}

function end(event: PointerEvent): void {
  if (drag?.what === 'box') {
    const [a, b] = [drag.from, placeOf(event)]
    const { under, more } = drag
    if (Math.hypot(a[0] - b[0], a[1] - b[1]) < 4 * px.value) store.selected = under === null ? [] : [under]
    else {
      const inside = store.things.filter(({ ref: r, raw }) => {
        const [w, s, e, n] = boundsOf([{ ref: r, raw }])
        return w >= Math.min(a[0], b[0]) && e <= Math.max(a[0], b[0]) && s >= Math.min(a[1], b[1]) && n <= Math.max(a[1], b[1])
      }).map(t => t.ref)
      store.selected = more ? [...store.selected, ...inside.filter(r => !store.isChosen(r))] : inside
    }
  }
  drag = null
  rubber.value = null
  snapped.value = null
  told.value = null
}

function zoomBy(factor: number, about: Point = [size.value[0] / 2, size.value[1] / 2]): void {
  const now = eye.value ?? { x: size.value[0] / 2, y: size.value[1] / 2, zoom: 1 }
  const zoom = Math.min(2, Math.max(0.05, now.zoom * factor))
  const share = zoom / now.zoom
  eye.value = { x: about[0] + (now.x - about[0]) * share, y: about[1] + (now.y - about[1]) * share, zoom }
}
const wheel = (event: WheelEvent): void => zoomBy(event.deltaY > 0 ? 1.1 : 1 / 1.1, placeOf(event))

/** Arrow keys move what is chosen by a centimetre, with shift by ten, with alt by a millimetre. Enter puts the tool's thing into the middle. */
function key(event: KeyboardEvent): void {
  if (event.key === 'Escape') { tool.value = null; pointing.value = null; store.selected = []; return }
  if (event.key === 'Enter' && tool.value !== null) { put([seen.value.x + seen.value.w / 2, size.value[1] - seen.value.y - seen.value.h / 2]); event.preventDefault(); return }
  const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key]
  if (way === undefined || store.selected.length === 0) return
  event.preventDefault()
  const by = event.shiftKey ? 0.1 : event.altKey ? 0.001 : 0.01
  store.moveChosen(way[0]! * by, way[1]! * by)
}

const flip = computed(() => `matrix(1 0 0 -1 0 ${size.value[1]})`)
const pathOf = (points: readonly Point[], closed: boolean): string => points.length === 0 ? '' : `M${points.map(p => `${p[0]} ${p[1]}`).join('L')}${closed ? 'Z' : ''}`
/** Things with what a pointer finds of them. Those whose place the seed draws stand as their area. */
const shapes = computed(() => store.things.map((thing) => {
  const outline = outlineOf(thing.ref, thing.raw)
  const key = refKey(thing.ref)
  return {
    ...thing, key, outline, d: pathOf(cornersOf(outline), outline.shape === 'box'), chosen: store.isChosen(thing.ref), wrong: store.wrong(key) !== '' || unplaced.value.has(key),
    drawn: thing.raw['area'] !== undefined, name: String(thing.raw['name'] ?? thing.raw['kind'] ?? thing.item?.one ?? 'start'),
  }
}))
/** Places of the document that find no room with this seed. */
const unplaced = computed(() => {
  const layout = store.layout
  if (layout === null) return new Set<string>()
  const kinds = new Set(layout.leftOut)
  return new Set([...layout.noRoom, ...((store.draft['scatter'] ?? []) as Raw[]).flatMap((s, i) => kinds.has(String(s['kind'])) ? [`scatter[${i}]`] : [])])
})
const leftOut = computed(() => {
  const { layout } = store
  if (layout === null) return ''
  const counts = new Map<string, number>()
  for (const kind of layout.leftOut) counts.set(kind, (counts.get(kind) ?? 0) + 1)
  const said = [...[...counts].map(([kind, n]) => `${n} ${kind}`), ...layout.noRoom]
  return said.length === 0 ? '' : `✕ no room with seed ${store.seed} for ${said.join(', ')}`
})
/** The thing that alone is chosen, with its handles. */
const only = computed(() => store.chosen.length === 1 ? store.chosen[0]! : null)
/** Towards the right border words stand left of the pointer. */
const toldLeft = computed(() => told.value !== null && told.value.at[0] > seen.value.x + 0.55 * seen.value.w)
const turnHandle = computed<Point | null>(() => {
  if (store.pivot === null) return null
  const [w, , e, n] = boundsOf(store.chosen)
  return [(w + e) / 2, n + 22 * px.value]
})
const corner = computed<Point | null>(() => only.value !== null && isSized(only.value.raw) ? cornersOf(outlineOf(only.value.ref, only.value.raw))[2] ?? null : null)
/** The two that alone are chosen: how far apart they are. */
const pair = computed(() => {
  const [a, b] = store.chosen
  if (store.chosen.length !== 2 || a === undefined || b === undefined) return null
  const [p, q] = [middleOf(a.raw), middleOf(b.raw)]
  return { p, q, words: shownLength(Math.hypot(p[0] - q[0], p[1] - q[1])) }
})
const gridLines = computed(() => {
  const step = grid.value > 0 ? Math.max(grid.value, grid.value * Math.ceil(8 * px.value / grid.value)) : 0
  if (step === 0) return null
  const lines = (to: number): number[] => Array.from({ length: Math.min(400, Math.floor(to / step + 1e-6) + 1) }, (_, i) => i * step)
  return { across: lines(size.value[0]), up: lines(size.value[1]) }
})
const goals = computed(() => store.layout === null ? [] : goalMarks(store.goals, store.layout))
defineExpose({ zoomBy, all: () => { eye.value = null }, focus: () => svg.value?.focus() })
</script>

<template>
  <div class="plan" :class="[store.arena?.surround ?? 'ground', { drawing: tool !== null, pointing: pointing !== null }]">
    <svg
      ref="svg" :viewBox="`${seen.x} ${seen.y} ${seen.w} ${seen.h}`" tabindex="0" role="application" aria-label="The arena from above"
      @pointerdown="begin" @pointermove="move" @pointerup="end" @pointercancel="end" @keydown="key" @wheel.prevent="wheel" @contextmenu.prevent
    >
      <ArenaFigures v-if="store.layout !== null" :layout="store.layout" robot />
      <g :transform="flip">
        <g v-if="gridLines !== null" class="grid" :stroke-width="px * 0.7">
          <line v-for="x in gridLines.across" :key="`x${x}`" :x1="x" :x2="x" y1="0" :y2="size[1]" />
          <line v-for="y in gridLines.up" :key="`y${y}`" x1="0" :x2="size[0]" :y1="y" :y2="y" />
        </g>
        <g v-for="mark in goals" :key="mark.key" class="goal" :stroke-width="px * 1.6" :stroke-dasharray="`${px * 5} ${px * 4}`">
          <circle v-if="mark.radius !== null" :cx="mark.at[0]" :cy="mark.at[1]" :r="mark.radius" />
          <path v-if="mark.path.length > 0" :d="pathOf(mark.path, mark.closed)" />
        </g>
        <path
          v-for="s in shapes" :key="s.key" class="thing" :class="{ chosen: s.chosen, wrong: s.wrong, drawn: s.drawn, way: s.outline.shape === 'way' }" :d="s.d" :data-thing="s.key" :data-name="s.name"
          :stroke-width="s.outline.shape === 'way' ? Math.max(s.outline.width, px * 12) : px * (s.chosen ? 2 : 1.2)" :stroke-dasharray="s.drawn || s.ref.list === 'areas' || s.ref.list === 'lanes' ? `${px * 6} ${px * 4}` : undefined"
          @pointerdown="grab($event, s)"
        />
        <template v-for="s in shapes" :key="`c${s.key}`"><path v-if="s.chosen && s.outline.shape === 'way'" class="spine" :d="s.d" :stroke-width="px * 2" /></template>
        <line v-if="pair !== null" class="measure" :x1="pair.p[0]" :y1="pair.p[1]" :x2="pair.q[0]" :y2="pair.q[1]" :stroke-width="px * 1.5" />
        <template v-if="only !== null">
          <circle
            v-for="(p, i) in pointsOf(only.raw)" :key="i" class="handle" :cx="p[0]" :cy="p[1]" :r="px * 6" :stroke-width="px * 2" :data-point="i"
            @pointerdown="grabHandle($event, { what: 'point', ref: only.ref, index: i })"
          />
          <rect v-if="corner !== null" class="handle" :x="corner[0] - px * 5" :y="corner[1] - px * 5" :width="px * 10" :height="px * 10" :stroke-width="px * 2" data-corner @pointerdown="grabHandle($event, { what: 'corner', ref: only.ref })" />
        </template>
        <circle v-if="turnHandle !== null" class="handle turn" :cx="turnHandle[0]" :cy="turnHandle[1]" :r="px * 6" :stroke-width="px * 2" data-turn @pointerdown="grabTurn"><title>Turn</title></circle>
        <circle v-if="snapped !== null && (snapped.to === 'end' || snapped.to === 'edge')" class="snapped" :cx="snapped.at[0]" :cy="snapped.at[1]" :r="px * 9" :stroke-width="px * 1.5" />
        <rect v-if="rubber !== null" class="rubber" :x="Math.min(rubber[0][0], rubber[1][0])" :y="Math.min(rubber[0][1], rubber[1][1])" :width="Math.abs(rubber[0][0] - rubber[1][0])" :height="Math.abs(rubber[0][1] - rubber[1][1])" :stroke-width="px" />
      </g>
      <g class="words" :font-size="px * 12.5">
        <text v-for="mark in goals" :key="mark.key" class="number" :x="mark.at[0] + px * 8" :y="size[1] - mark.at[1] - px * 8">{{ mark.words }}</text>
        <text v-if="pair !== null" :x="(pair.p[0] + pair.q[0]) / 2 + px * 6" :y="size[1] - (pair.p[1] + pair.q[1]) / 2 - px * 6">{{ pair.words }}</text>
        <text v-if="told !== null" :text-anchor="toldLeft ? 'end' : 'start'" :x="told.at[0] + px * (toldLeft ? -14 : 14)" :y="size[1] - told.at[1] - px * 12">{{ told.words }}</text>
      </g>
    </svg>
    <p v-if="tool !== null" class="hint" role="status">{{ tool.one }}: press on the plan{{ tool.list === 'walls' || tool.list === 'lines' ? ' and drag to its end' : '' }}, or Enter for the middle · Esc</p>
    <p v-else-if="pointing !== null" class="hint" role="status">Press on the thing that the goal means · Esc</p>
    <p v-else-if="leftOut !== ''" class="hint wrong" role="status">{{ leftOut }}</p>
  </div>
</template>

<style scoped>
.plan { position: relative; flex: 1; min-height: 0; background: var(--ground); overflow: hidden; }
.plan.water { background: rgb(var(--v-theme-water)); }
svg { position: absolute; inset: 0; width: 100%; height: 100%; display: block; touch-action: none; }
svg:focus-visible { outline-offset: -3px; }
.grid { stroke: var(--ink); opacity: 0.09; pointer-events: none; }
.thing { fill: transparent; stroke: transparent; cursor: move; }
.thing.way { fill: none; stroke-linejoin: round; stroke-linecap: round; }
.thing.drawn:not(.way) { stroke: var(--ink); stroke-opacity: 0.45; }
.thing[data-thing^=areas]:not(.chosen), .thing[data-thing^=lanes]:not(.chosen) { stroke: var(--ink); stroke-opacity: 0.5; }
.thing.chosen:not(.way) { stroke: var(--signal); stroke-opacity: 1; fill: color-mix(in srgb, var(--signal) 14%, transparent); }
.thing.wrong:not(.way) { stroke: var(--error); stroke-opacity: 1; }
.thing:hover:not(.chosen):not(.way) { stroke: var(--signal); stroke-opacity: 0.6; }
.drawing .thing, .drawing svg { cursor: crosshair; }
.pointing .thing { cursor: pointer; }
.spine, .measure { fill: none; stroke: var(--signal); pointer-events: none; }
.handle { fill: var(--panel); stroke: var(--signal); cursor: pointer; }
.snapped { fill: none; stroke: var(--signal); pointer-events: none; }
.rubber { fill: color-mix(in srgb, var(--signal) 12%, transparent); stroke: var(--signal); pointer-events: none; }
.goal { fill: none; stroke: var(--good); pointer-events: none; }
.words { fill: var(--ink); font-weight: 700; paint-order: stroke; stroke: var(--panel); stroke-width: 0.25em; stroke-linejoin: round; pointer-events: none; }
.number { fill: var(--good); }
.hint { position: absolute; left: 10px; bottom: 10px; background: color-mix(in srgb, var(--panel) 94%, transparent); border: 1px solid var(--line); border-radius: 5px; padding: 5px 10px; }
.hint.wrong { border-color: var(--error); color: var(--error); font-weight: 600; }
</style>
