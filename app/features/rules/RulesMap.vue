<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { LineIndex } from '~~/core/language'
import { modeMap, type ModeMap } from '~~/core/editing'
import { useLive } from '~/composables/useLive'
import { useBenchStore } from '~/features/bench/bench'
import { useProjectStore } from '~/draft/project'
import type { LiveLines } from '~/features/text/live'
import { rowsByLine, shortened, textOf, whenOf } from './map-words'
import { useRulesStore } from './rules'

/** Modes and the ways between them, laid out by themselves; the current ones lit. A press goes there. */
const props = defineProps<{ live: LiveLines | null }>()
const emit = defineEmits<{ go: [line: number] }>()
const bench = useBenchStore()
const project = useProjectStore()
const rules = useRulesStore()

const map = computed(() => {
  const lines = new LineIndex(project.program)
  return modeMap(rules.sheet.tree, at => lines.placeOf(at).line)
})

interface Drawn {
  readonly width: number
  readonly height: number
  readonly modes: readonly { readonly lane: string, readonly name: string, readonly line: number, readonly x: number, readonly y: number, readonly w: number }[]
  readonly ways: readonly { readonly path: string, readonly x: number, readonly y: number, readonly lines: readonly number[], readonly says: string }[]
}
/** A mode's box: its name, and under it three lines of what its rules wait for or do. */
const HEIGHT = 86
const WIDTH = 236
const LINES = 3
const LINE = 17
/** Letters that fit into a line of a box, and of a way's words. */
const FITS = 34
const WORDS = 28
const WAY_WIDTH = 186
const rows = computed(() => rowsByLine(rules.outline.cards))
const cards = computed(() => new Map(rules.outline.cards.filter(c => c.kind === 'mode').map(c => [`${c.lane}\n${c.name}`, c])))
const wordsOf = (lines: readonly number[]): string => {
  const row = rows.value.get(lines[0]!)
  return `${row === undefined ? `line ${lines[0]!}` : shortened(whenOf(row), WORDS)}${lines.length > 1 ? ` +${lines.length - 1}` : ''}`
}
const inControl = (line: number): boolean => props.live?.control.some(([from, to]) => from <= line && line <= to) === true
/** What a way waits for now, where its rules have a say. */
function nowOf(lines: readonly number[]): string {
  const worth = props.live?.worth.find(([line]) => lines.includes(line))?.[1]
  return worth === undefined ? '' : shortened(worth.replaceAll(/\s+/g, ' '), WORDS)
}
/** What stands in a mode's box: the steps of its rule in control, the one at work marked; else what its rules wait for. */
function linesOf(lane: string, name: string): readonly { readonly text: string, readonly lit: boolean }[] {
  const card = cards.value.get(`${lane}\n${name}`)
  if (card === undefined) return []
  const playing = current.value.has(`${lane}\n${name}`) ? card.rows.find(r => inControl(r.line)) : undefined
  if (playing !== undefined) {
    const steps = playing.steps.filter(s => s.what !== 'unread')
    const first = Math.max(0, Math.min(steps.findIndex(s => props.live?.steps.includes(s.line)), steps.length - LINES))
    return steps.slice(first, first + LINES).map(s => ({ text: shortened(textOf(s.pieces), FITS), lit: props.live?.steps.includes(s.line) === true }))
  }
  const all = card.rows.filter(r => !r.off && r.what !== 'unread')
  return all.slice(0, LINES).map((r, i) => ({ text: i === LINES - 1 && all.length > LINES ? `… ${all.length - i} more` : shortened(`${r.urgency === null ? '' : `${r.urgency} `}${whenOf(r)}`, FITS), lit: false }))
}
const drawn = shallowRef<Drawn | null>(null)

/** The layout library is fetched when somebody looks at the map. */
async function layOut(now: ModeMap): Promise<Drawn> {
  const { graphlib, layout } = await import('@dagrejs/dagre')
  const graph = new graphlib.Graph({ multigraph: true, compound: false })
  graph.setGraph({ rankdir: 'TB', nodesep: 46, ranksep: 54, edgesep: 26, marginx: 24, marginy: 24 })
  graph.setDefaultEdgeLabel(() => ({}))
  const id = (lane: string, name: string): string => `${lane}\n${name}`
  for (const m of now.modes) graph.setNode(id(m.lane, m.name), { width: WIDTH, height: m.name === '' ? 34 : HEIGHT })
  for (const w of now.ways) graph.setEdge(id(w.lane, w.from), id(w.lane, w.to), { width: WAY_WIDTH, height: 34, labelpos: 'c' }, w.lines.join())
  layout(graph)
  const size = graph.graph()
  return {
    width: size.width ?? 0, height: size.height ?? 0,
    modes: now.modes.map((m) => { const n = graph.node(id(m.lane, m.name)) as { x: number, y: number, width: number }; return { ...m, x: n.x, y: n.y, w: n.width } }),
    ways: now.ways.map((w) => {
      const e = graph.edge(id(w.lane, w.from), id(w.lane, w.to), w.lines.join()) as { points: { x: number, y: number }[], x?: number, y?: number }
      const middle = e.points[e.points.length >> 1]!
      return { path: smooth(e.points), x: e.x ?? middle.x, y: e.y ?? middle.y, lines: w.lines, says: `line ${w.lines.join(', ')}: ${w.from === '' ? 'from every mode' : w.from} to ${w.to}` }
    }),
  }
}
function titleOf(m: { readonly lane: string, readonly name: string }): string {
  return `${m.lane === '' ? '' : `${m.lane}: `}${m.name === '' ? 'every mode' : m.name}`
}
/** A line through points, round at the corners. */
function smooth(points: readonly { x: number, y: number }[]): string {
  const f = (p: { x: number, y: number }): string => `${p.x.toFixed(1)} ${p.y.toFixed(1)}`
  const [first, ...rest] = points
  if (first === undefined) return ''
  let path = `M${f(first)}`
  rest.forEach((p, i) => {
    const next = rest[i + 1]
    path += next === undefined ? `L${f(p)}` : `Q${f(p)} ${f({ x: (p.x + next.x) / 2, y: (p.y + next.y) / 2 })}`
  })
  return path
}
watch(map, async (now) => {
  if (now.modes.length === 0) { drawn.value = null; return }
  const made = await layOut(now)
  if (map.value === now) drawn.value = made
}, { immediate: true })

const current = ref<ReadonlySet<string>>(new Set())
useLive(10, () => {
  const { opened, row } = bench
  const found = new Set<string>()
  if (opened?.program != null && row !== null && !bench.atStart && opened.program.text === project.program) {
    opened.program.lanes.forEach((lane, l) => {
      const mode = lane.modes[row[opened.layout.lanes + 4 * l + 1]!]
      if (mode !== undefined) found.add(`${lane.name === 'main' ? '' : lane.name}\n${mode}`)
    })
  }
  if ([...found].join() !== [...current.value].join()) current.value = found
})
</script>

<template>
  <div class="map">
    <RulesLadder v-if="map.modes.length === 0 && rules.outline.cards.length > 0" :live="live" @go="emit('go', $event)" />
    <p v-else-if="map.modes.length === 0" class="none">No rules yet. What a robot decides is drawn here.</p>
    <svg v-else-if="drawn !== null" :viewBox="`0 0 ${drawn.width} ${drawn.height}`" :style="{ maxWidth: `${drawn.width * 1.15}px` }" role="group" aria-label="Map of the modes">
      <defs><marker id="tip" viewBox="0 0 8 8" refX="7" refY="4" markerWidth="7" markerHeight="7" orient="auto-start-reverse"><path d="M0 0L8 4L0 8z" /></marker></defs>
      <path v-for="w in drawn.ways" :key="w.path" class="line" :d="w.path" marker-end="url(#tip)" />
      <g v-for="w in drawn.ways" :key="`words ${w.path}`" class="way" :data-way="w.lines.join()" @click="emit('go', w.lines[0]!)">
        <title>{{ w.says }}</title>
        <rect :x="w.x - WAY_WIDTH / 2" :y="w.y - 17" :width="WAY_WIDTH" height="34" rx="3" />
        <text :x="w.x" :y="w.y - 3" text-anchor="middle">{{ wordsOf(w.lines) }}</text>
        <text :x="w.x" :y="w.y + 12" text-anchor="middle" class="worth">{{ nowOf(w.lines) }}</text>
      </g>
      <g
        v-for="m in drawn.modes" :key="`${m.lane} ${m.name}`" class="mode" :class="{ now: current.has(`${m.lane}\n${m.name}`), every: m.name === '' }" tabindex="0" role="button" :data-mode="m.name"
        :aria-current="current.has(`${m.lane}\n${m.name}`) || undefined" @click="emit('go', m.line)" @keydown.enter.stop.prevent="emit('go', m.line)"
      >
        <rect :x="m.x - m.w / 2" :y="m.y - (m.name === '' ? 17 : HEIGHT / 2)" :width="m.w" :height="m.name === '' ? 34 : HEIGHT" rx="5" />
        <text :x="m.x" :y="m.name === '' ? m.y + 5 : m.y - HEIGHT / 2 + 20" text-anchor="middle">{{ current.has(`${m.lane}\n${m.name}`) ? '▶ ' : '' }}{{ titleOf(m) }}</text>
        <text v-for="(l, i) in linesOf(m.lane, m.name)" :key="i" class="does" :class="{ lit: l.lit }" :x="m.x - m.w / 2 + 10" :y="m.y - HEIGHT / 2 + 41 + i * LINE">{{ l.lit ? '▸ ' : '' }}{{ l.text }}</text>
      </g>
    </svg>
  </div>
</template>

<style scoped>
.map { height: 100%; overflow: auto; background: var(--paper); padding: 10px; display: flex; flex-direction: column; align-items: center; }
.none { color: var(--muted); padding: 30px 24px; }
svg { width: 100%; flex: 0 1 auto; min-height: 0; }
.mode { cursor: pointer; }
.mode rect { fill: var(--panel); stroke: var(--ink); stroke-width: 1.4; }
.mode text { font-weight: 700; font-size: 14px; fill: var(--ink); }
.mode.every rect { stroke-dasharray: 4 3; stroke: var(--muted); }
.mode.now rect { fill: var(--signal-tint); stroke: var(--signal); stroke-width: 2.4; }
.mode.now text { fill: var(--signal); }
.way { cursor: pointer; }
.line { fill: none; stroke: var(--muted); stroke-width: 1.4; }
marker path { fill: var(--muted); stroke: none; }
.way rect { fill: var(--paper); opacity: 0.92; }
.way text { font-size: 12.5px; fill: var(--ink); }
.way .worth { font-size: 12px; fill: var(--muted); font-family: var(--mono); }
.way:hover text { text-decoration: underline; }
.mode text.does { font-weight: 400; font-size: 12.5px; fill: var(--muted); }
.mode text.lit { font-weight: 700; fill: var(--signal); }
.mode.now text.does:not(.lit) { fill: var(--ink); }
</style>
