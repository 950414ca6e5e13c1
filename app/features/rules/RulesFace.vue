<script setup lang="ts">
import { listKeys } from '~/composables/useKeys'
import { computed, nextTick, onBeforeUnmount, onMounted, provide, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { addComment, addMemoryLine, insertRule, removeItem, type Card } from '~~/core/editing'
import { newLane, newMode, newRoutine, newRule } from './actions'
import { examplesFor } from './examples'
import { NEARNESS } from './nearness'
import { useFinders } from './useFinders'
import { useLive } from '~/composables/useLive'
import { useBenchStore } from '~/features/bench/bench'
import { useProjectStore } from '~/draft/project'
import { shownParts, useRulesStore } from './rules'

/** The program as cards of rules. What it shows live is written straight into the page: a running robot rebuilds nothing. */
const bench = useBenchStore()
const project = useProjectStore()
const rules = useRulesStore()
const finders = useFinders()
const root = useTemplateRef<HTMLElement>('root')
const dragged = ref<number | null>(null)

rules.follow()
const facts = computed(() => rules.facts)
const examples = computed(() => facts.value === null ? [] : examplesFor(facts.value))
const empty = computed(() => rules.outline.cards.length === 0)
/**
 * Whether each rule is live or stepped, by its line, of the program that was open last: until an edit is checked, it is as it was where no
 * line was moved. The same object as long as it says the same, so that no card is drawn anew.
 */
const liveness = shallowRef<ReadonlyMap<number, boolean>>(new Map())
let countedLines = -1
const linesIn = (text: string): number => text.split('\n').length
watch(() => [bench.opened?.program ?? null, project.program] as const, ([program, text]) => {
  const lines = linesIn(text)
  if (program === null || program.text !== text) {
    if (lines !== countedLines && liveness.value.size > 0) liveness.value = new Map()
    return
  }
  countedLines = lines
  const now = new Map(program.rules.map(r => [r.line, r.live] as const))
  if (now.size !== liveness.value.size || [...now].some(([line, live]) => liveness.value.get(line) !== live)) liveness.value = now
}, { immediate: true })

const SIGNS = { control: '▶', outranked: '◐', true: '●', false: '○' } as const

/** Nothing is shown live: there is nothing to take away either, as what is drawn anew comes bare. */
let bare = true
function paint(): void {
  const page = root.value
  if (page === null) return
  const { opened, row } = bench
  const program = opened?.program ?? null
  const shows = program !== null && row !== null && program.text === project.program
  if (!shows && bare) return
  // Before a run begins, an edit is open as soon as it is checked, and says the same in most of its lines: taking all away for so long would flicker.
  if (!shows && program !== null && row !== null && bench.atStart && bench.mistakes === 0 && linesIn(program.text) === linesIn(project.program)) return
  bare = !shows
  const states = new Map<number, keyof typeof SIGNS>()
  const steps = new Set<number>()
  const modes = new Map<string, string>()
  if (shows) {
    const { layout } = opened!
    const inControl = new Set<number>()
    layout.laneNames.forEach((lane, l) => {
      const at = layout.lanes + 4 * l
      if (!bench.atStart && row[at + 2]! >= 0) inControl.add(row[at + 2]!)
      if (!bench.atStart && row[at + 3]! >= 0) steps.add(program.steps[row[at + 3]!]!.line)
      const mode = program.lanes[l]?.modes[row[at + 1]!]
      if (mode !== undefined && !bench.atStart) modes.set(mode, `now · ${((bench.shownTick - row[layout.entered + l]!) * layout.dt).toFixed(1)} s`)
    })
    program.rules.forEach((r, i) => {
      const mode = program.lanes[r.lane]?.modes[row[layout.lanes + 4 * r.lane + 1]!]
      const counts = r.mode === '' || r.mode === mode
      states.set(r.line, inControl.has(i) ? 'control' : !counts || bench.atStart ? 'false' : row[layout.wants + i] === 1 ? 'outranked' : 'false')
    })
  }
  const found = shows ? rules.conditions ?? undefined : undefined
  for (const element of page.querySelectorAll<HTMLElement>('[data-row]')) {
    const state = states.get(Number(element.dataset['row']))
    setData(element, 'state', state ?? null)
    const sign = element.querySelector<HTMLElement>(':scope > .line > .handle > [data-sign]')
    if (sign !== null) setText(sign, state === undefined ? '' : SIGNS[state])
  }
  for (const element of page.querySelectorAll<HTMLElement>('[data-line]')) setData(element, 'now', steps.has(Number(element.dataset['line'])) ? '' : null)
  for (const element of page.querySelectorAll<HTMLElement>('[data-live]')) {
    const parts = found?.get(Number(element.dataset['live']))
    setText(element, parts === undefined ? '' : shownParts(parts))
  }
  for (const element of page.querySelectorAll<HTMLElement>('[data-mode]')) {
    const said = modes.get(element.dataset['mode']!)
    setData(element, 'now', said === undefined ? null : '')
    const about = element.querySelector<HTMLElement>('[data-about]')
    if (about !== null) setText(about, said ?? '')
  }
}
function setData(element: HTMLElement, name: string, value: string | null): void {
  if (value === null) { if (element.dataset[name] !== undefined) Reflect.deleteProperty(element.dataset, name) } else if (element.dataset[name] !== value) element.dataset[name] = value
}
function setText(element: HTMLElement, text: string): void { if (element.textContent !== text) element.textContent = text }

const { now } = useLive(20, paint)
watch(() => [rules.outline, rules.conditions, bench.running], () => { void nextTick(now) })

function add(make: Parameters<typeof rules.change>[0], focus: () => string): void {
  if (rules.change(make)) rules.focus(focus())
}
const last = (kind: Card['kind']) => (): string => `${rules.outline.cards.findLastIndex(c => c.kind === kind)}.name`
/** Where the first rule of a program goes. */
const EMPTY_CARD: Card = { kind: 'main', name: '', nameRange: null, at: -1, lane: '', above: [], behind: null, parameters: [], rows: [] }
const addFirst = (): void => finders.rule('first', EMPTY_CARD, null, { card: 0, row: 0 })
const addStart = (): void => add(s => insertRule(s, -1, s.tree.items.find(i => i.tag === 'rule' || i.tag === 'mode')?.range.from ?? null, 'start\n  wait 0.5 s'), () => '0.0.0')
const hasStart = computed(() => rules.sheet.tree.items.some(i => i.tag === 'start'))
function addMemory(): void {
  rules.find({
    key: 'memory', title: 'a memory: its name = its first value', text: 'count = 0', offers: [],
    take: text => rules.change(s => addMemoryLine(s, text)) ? null : `“${text}” cannot be a memory`,
  })
}
function addPlan(): void {
  rules.find({ key: 'plan', title: 'a line of plan, as a comment', text: '', offers: [], take: text => rules.change(s => addComment(s, text)) ? null : 'a comment has words' })
}

/** A new rule with a condition that was pointed at elsewhere; its step is chosen next. */
function addWith(condition: string): void {
  const { cards } = rules.outline
  const mode = root.value?.querySelector<HTMLElement>('[data-mode][data-now]')?.dataset['mode']
  const at = Math.max(0, cards.findIndex(c => mode === undefined ? c.kind === 'main' || c.kind === 'mode' : c.name === mode))
  const card = cards[at]
  if (facts.value === null) return
  const known = facts.value
  const before = card?.rows.findIndex(r => r.what === 'otherwise') ?? -1
  const index = before === -1 ? card?.rows.length ?? 0 : before
  if (!rules.change(newRule(card ?? EMPTY_CARD, null, condition, known))) return
  finders.onlyStep(at, index)
}
/** Shows the row in which a line of the text stands. */
function show(line: number): void {
  const all = [...root.value?.querySelectorAll<HTMLElement>('[data-row]') ?? []]
  const row = all.findLast(r => Number(r.dataset['row']) <= line) ?? all[0]
  row?.querySelector<HTMLElement>('.handle')?.focus({ preventScroll: true })
  row?.scrollIntoView({ block: 'center' })
}
defineExpose({ addWith, show })

// A long program draws only the rows that are near the window; the others keep their place by their height.
/** Programs of no more rows are drawn whole. */
const WHOLE = 60
const NEAR = 500
let observer: IntersectionObserver | null = null
const hears = new Map<Element, (near: boolean) => void>()
onMounted(() => {
  observer = new IntersectionObserver((entries) => {
    for (const e of entries) hears.get(e.target)?.(e.isIntersecting)
    now()
  }, { root: root.value, rootMargin: `${NEAR}px 0px` })
  // Rows are there before the face that holds them.
  for (const element of hears.keys()) observer.observe(element)
})
onBeforeUnmount(() => observer?.disconnect())
const rowCount = computed(() => rules.outline.cards.reduce((n, c) => n + c.rows.length, 0))
provide(NEARNESS, {
  always: computed(() => rowCount.value <= WHOLE),
  watch: (element, hear) => { hears.set(element, hear); observer?.observe(element) },
  forget: (element) => { hears.delete(element); observer?.unobserve(element) },
})

listKeys('Rules, on a rule, step or piece', {
  'arrowup': 'the row above, below', 'arrowdown': 'the row above, below', 'arrowleft': 'the piece before, after', 'arrowright': 'the piece before, after',
  'alt+arrowup': 'more, less urgent; a step up, down', 'alt+arrowdown': 'more, less urgent; a step up, down', 'alt+enter': 'a new one below', 'enter': 'choose or type a piece anew',
  'alt+a': 'and …', 'alt+b': 'or …', 'alt+o': 'off and on', 'ctrl+d': 'duplicate', 'delete': 'remove', 'alt+c': 'a comment',
})

/** Arrow keys go from row to row, and from piece to piece. */
function press(event: KeyboardEvent): void {
  const target = event.target as HTMLElement
  if (target.tagName === 'INPUT' || event.altKey || event.shiftKey) return
  if ((event.ctrlKey || event.metaKey) && (event.key === 'z' || event.key === 'y')) {
    if (event.key === 'z') rules.undo()
    else rules.redo()
  } else if (event.ctrlKey || event.metaKey) return
  else {
    const step = { ArrowUp: -1, ArrowLeft: -1, ArrowDown: 1, ArrowRight: 1 }[event.key]
    if (step === undefined) return
    const across = event.key === 'ArrowLeft' || event.key === 'ArrowRight'
    const all = [...root.value!.querySelectorAll<HTMLElement>(across ? '[data-key]' : '.handle')]
    const here = across ? all.indexOf(target) : all.findIndex(h => h === target.closest('.row')?.querySelector('.handle'))
    const next = all[here + step]
    next?.focus()
    next?.scrollIntoView({ block: 'nearest' })
  }
  event.preventDefault()
  event.stopPropagation()
}
const removeNamed = (at: number): void => { rules.change(s => removeItem(s, at)) }
</script>

<template>
  <div ref="root" class="rules" @keydown="press" @dragend="dragged = null">
    <section v-if="rules.outline.named.length > 0" class="named" aria-label="Names">
      <div v-for="n in rules.outline.named" :key="n.at" class="name">
        <div v-if="n.above.length > 0" class="comments"><RulesComment v-for="c in n.above" :key="c.from" :comment="c" /></div>
        <span class="small what">{{ n.what === 'title' ? 'program' : n.what }}</span><b v-if="n.what !== 'dial'">{{ n.name }}</b><span v-else class="dial mono">{{ n.name }}</span>
        <template v-if="n.what === 'dial'"><RulesSentence :pieces="n.pieces.slice(0, 1)" :prefix="`n${n.line}`" /><span v-if="n.pieces.length > 2" class="small">from</span><RulesSentence :pieces="n.pieces.slice(1, 2)" :prefix="`n${n.line}a`" /><span v-if="n.pieces.length > 2" class="small">to</span><RulesSentence :pieces="n.pieces.slice(2)" :prefix="`n${n.line}b`" /></template>
        <template v-else-if="n.what === 'memory'"><span class="small">at first</span><RulesSentence :pieces="n.pieces" :prefix="`n${n.line}`" /></template>
        <template v-else-if="n.what === 'let'"><span class="small">is</span><RulesSentence :pieces="n.pieces" :prefix="`n${n.line}`" /></template>
        <RulesComment v-if="n.behind !== null" :comment="n.behind" />
        <v-btn v-if="n.what !== 'title'" size="x-small" variant="text" class="away" :aria-label="`Remove ${n.name}`" @click="removeNamed(n.at)">✕</v-btn>
      </div>
    </section>
    <RulesCard v-for="(card, i) in rules.outline.cards" :key="i" :card="card" :index="i" :live="liveness" :dragged="dragged" @drag="dragged = $event" />
    <div v-if="empty" class="first">
      <p>No rule yet. A rule says <i>when</i> something is so, and what to do then; the most urgent stands on top.</p>
      <v-btn data-key="first" class="new-rule" @click="addFirst">+ rule</v-btn>
      <template v-if="project.program.trim() === ''">
        <p class="or">Or begin with one of the two smallest programs:</p>
        <v-card v-for="e in examples" :key="e.title" tag="button" class="example" @click="project.edit(e.text)"><b>{{ e.title }}</b><span class="mono">{{ e.text.trim() }}</span></v-card>
      </template>
    </div>
    <div v-if="rules.outline.tail.length > 0" class="tail"><RulesComment v-for="c in rules.outline.tail" :key="c.from" :comment="c" /></div>
    <footer v-if="facts !== null">
      <v-btn size="small" v-if="!hasStart" @click="addStart">+ start</v-btn>
      <v-btn size="small" class="new-mode" @click="add(newMode(facts), last('mode'))">+ mode</v-btn>
      <v-btn size="small" @click="add(newLane(facts), last('lane'))">+ lane</v-btn>
      <v-btn size="small" @click="add(newRoutine(facts), last('routine'))">+ routine</v-btn>
      <v-btn size="small" data-key="memory" @click="addMemory">+ memory</v-btn>
      <v-btn size="small" data-key="plan" @click="addPlan">+ comment</v-btn>
    </footer>
  </div>
</template>

<style scoped>
.rules { height: 100%; overflow: auto; padding: 8px 8px 40px; background: var(--paper); contain: strict; }
.named { border: 1px solid var(--line); border-radius: 6px; background: var(--panel); margin-bottom: 8px; padding: 3px 10px; }
.name { display: flex; gap: 7px; align-items: baseline; flex-wrap: wrap; }
.name .comments { flex-basis: 100%; display: flex; flex-direction: column; align-items: flex-start; }
.what { width: 52px; }
.dial { font-size: 13px; font-weight: 600; background: var(--dial); border-bottom: 2px solid var(--ink); border-radius: 2px; padding: 0 3px; }
.away { margin-left: auto; color: var(--muted); opacity: 0; }
.name:hover .away, .away:focus-visible { opacity: 1; }
.first { border: 1px dashed var(--line); border-radius: 6px; padding: 12px 14px; background: var(--panel); margin-bottom: 8px; }
.first p { color: var(--muted); margin-bottom: 8px; }
.first .or { margin-top: 12px; }
.first .example { display: block; width: 100%; text-align: left; padding: 6px 10px; margin-bottom: 6px; }
.example .mono { display: block; white-space: pre; font-size: 12.5px; font-weight: 400; color: var(--muted); }
.tail { padding: 0 10px 8px; display: flex; flex-direction: column; align-items: flex-start; }
footer { display: flex; gap: 6px; flex-wrap: wrap; }
</style>
