<script setup lang="ts">
import { computed, inject, onBeforeUnmount, onMounted, ref, useTemplateRef } from 'vue'
import { addPart, insertRule, insertStep, removePart, replaceStep, setCommentAbove, setCondition, toggleNot, type Card, type CardKind, type RuleRow, type StepLine } from '~~/core/editing'
import { useFinders } from './useFinders'
import { keyName, rowActions, stepActions, type Action } from './actions'
import { NEARNESS } from './nearness'
import { useRulesStore } from './rules'

/**
 * A rule: when at the left, what to do at the right. A `start`, and a line that cannot be read, are rows too. Its handle, the dots of its
 * steps and what adds one are bare buttons: hundreds of them are drawn as one scrolls.
 */
const props = defineProps<{ kind: CardKind, place: number, row: RuleRow, at: string, index: number, live: boolean | null }>()
const emit = defineEmits<{ dragged: [], dropped: [before: number] }>()
const rules = useRulesStore()
const finders = useFinders()

// Far from the window a row is its handle alone, as high as it was.
const nearness = inject(NEARNESS)!
const element = useTemplateRef<HTMLElement>('element')
const near = ref(false)
const drawn = computed(() => nearness.always.value || near.value)
/** Heights of a row's first line and of each further step, pixels, before it was ever drawn. */
const FIRST_HEIGHT = 46
const STEP_HEIGHT = 22
const height = ref(0)
onMounted(() => {
  nearness.watch(element.value!, (now) => {
    if (!now && element.value !== null && drawn.value) height.value = element.value.offsetHeight
    near.value = now
  })
})
onBeforeUnmount(() => nearness.forget(element.value!))

const facts = computed(() => rules.facts)
/** The card that it stands in, as it is now; asked when something is done, so that edits elsewhere draw nothing here. */
const card = (): Card => rules.outline.cards[props.place]!
const actions = (): readonly Action[] => facts.value === null ? [] : rowActions(props.row, facts.value, rules.sheet.tree)
const actionsOf = (step: StepLine): readonly Action[] => facts.value === null ? [] : stepActions(step, facts.value, rules.sheet.tree)
const isRule = computed(() => props.row.what === 'rule' || props.row.what === 'otherwise')
/** Steps of the row's own block, and how many there are: what stands deeper belongs to them. */
const own = computed(() => props.row.steps.filter(s => s.depth === 0 && s.isStep))
const worst = computed(() => rules.worstOf(props.row.line, props.row.steps.at(-1)?.line ?? props.row.line))

const keyOfRow = (index: number): string => `${props.at.slice(0, props.at.lastIndexOf('.'))}.${index}`

function act(action: Action): void {
  const to = action.key === 'Delete' ? Math.max(0, props.index - 1) : props.index + action.moves
  rules.change(action.edit, keyOfRow(to))
}
function actStep(action: Action, i: number): void {
  // A step moves past the lines of its neighbour's block, which may be some.
  const steps = props.row.steps
  let to = i
  if (action.moves !== 0) for (to = i + action.moves; steps[to] !== undefined && !(steps[to]!.isStep && steps[to]!.depth <= steps[i]!.depth); to += action.moves);
  rules.change(action.edit, `${props.at}.${action.key === 'Delete' ? Math.max(0, i - 1) : to}`)
}

/** A new rule under this one, or above `otherwise`. */
function addBelow(): void {
  const last = props.row.what === 'otherwise'
  finders.rule(props.at, card(), last ? props.row.at : card().rows[props.index + 1]?.at ?? null, { card: props.place, row: last ? props.index : props.index + 1 })
}
function addStep(heading: number, place: number, key: string, line: number): void {
  finders.step(key, 'do …', text => s => insertStep(s, heading, place, text), `${props.at}.${line}`)
}
/** A step below a step, in the same block. */
function addAfter(i: number): void {
  const steps = props.row.steps
  const step = steps[i]!
  // A heading's new step goes first into its block.
  if (step.what !== 'step' && step.what !== 'unread') { addStep(step.at, 0, `${props.at}.${i}`, i + 1); return }
  let heading = -1
  for (let k = i - 1; k >= 0 && heading === -1; k--) if (steps[k]!.depth < step.depth) heading = k
  const place = steps.slice(heading + 1, i + 1).filter(s => s.depth === step.depth && s.isStep).length
  addStep(heading === -1 ? props.row.at : steps[heading]!.at, place, `${props.at}.${i}`, i + 1)
}
const otherStep = (step: StepLine, key: string): void => finders.step(key, 'instead …', text => s => replaceStep(s, step.at, text), key)
const addCondition = (operator: 'and' | 'or'): void => finders.condition(props.at, `${operator} …`, text => s => addPart(s, props.row.at, operator, text), props.at)
const giveCondition = (): void => finders.condition(props.at, 'when …', text => s => setCondition(s, props.row.at, text), props.at)
function comment(at: number, key: string): void {
  rules.find({ key, title: 'a comment above', text: '', offers: [], take: text => rules.change(s => setCommentAbove(s, at, text), key) ? null : 'no comment can stand above a step behind an arrow' })
}
/** A rule as text, set back to the margin, so that it can stand in any program. */
async function copyText(): Promise<void> {
  const lines = rules.sheet.text.split('\n').slice(props.row.line - 1, props.row.steps.at(-1)?.line ?? props.row.line)
  const depth = /^ */.exec(lines[0] ?? '')![0].length
  await navigator.clipboard.writeText(`${lines.map(l => l.slice(Math.min(depth, l.length - l.trimStart().length))).join('\n')}\n`)
}
async function pasteText(): Promise<void> {
  const words = (await navigator.clipboard.readText()).trimEnd()
  const before = props.row.what === 'otherwise' ? props.row.at : card().rows[props.index + 1]?.at ?? null
  if (words !== '') rules.change(s => insertRule(s, card().at, before, words), keyOfRow(props.index + 1))
}

/** The part of the condition in which the focus stands, else its first. */
function focusedPart(): number {
  const key = (document.activeElement as HTMLElement | null)?.dataset['key'] ?? ''
  const at = key.startsWith(`${props.at}.w.`) ? Number(key.split('.').at(-1)) : 0
  return props.row.when[at]?.from ?? 0
}
const extra = () => !isRule.value ? [] : [
  { title: 'New rule below', key: 'alt+Enter', act: addBelow },
  ...(props.row.what === 'otherwise' ? [{ title: 'Give it a condition', key: 'alt+a', act: giveCondition }] : [
    { title: 'and …', key: 'alt+a', act: () => addCondition('and') },
    { title: 'or …', key: 'alt+b', act: () => addCondition('or') },
    { title: 'not', key: 'alt+n', act: () => { rules.change(s => toggleNot(s, props.row.at, focusedPart()), props.at) } },
    { title: 'Without this part', key: 'alt+Backspace', act: () => { rules.change(s => removePart(s, props.row.at, focusedPart()), props.at) } },
  ]),
  { title: 'Comment', key: 'alt+c', act: () => comment(props.row.at, props.at) },
  { title: 'Copy as text', key: 'ctrl+c', act: () => { void copyText() } },
  { title: 'Paste below', key: 'ctrl+v', act: () => { void pasteText() } },
]
const stepExtra = (i: number) => [
  { title: 'New step below', key: 'alt+Enter', act: () => addAfter(i) },
  { title: 'Another step instead', key: 'alt+x', act: () => otherStep(props.row.steps[i]!, `${props.at}.${i}`) },
  { title: 'Comment', key: 'alt+c', act: () => comment(props.row.steps[i]!.at, `${props.at}.${i}`) },
]

function press(event: KeyboardEvent): void {
  const name = keyName(event)
  const target = event.target as HTMLElement
  if (target.tagName === 'INPUT') return
  const stepAt = target.closest<HTMLElement>('[data-step]')?.dataset['step']
  const found = stepAt === undefined
    ? [...extra().map(e => ({ key: e.key, run: e.act })), ...actions().map(a => ({ key: a.key, run: () => act(a) }))]
    : [...stepExtra(Number(stepAt)).map(e => ({ key: e.key, run: e.act })), ...actionsOf(props.row.steps[Number(stepAt)]!).map(a => ({ key: a.key, run: () => actStep(a, Number(stepAt)) }))]
  const hit = found.find(f => f.key === name)
  if (hit === undefined) return
  event.preventDefault()
  event.stopPropagation()
  hit.run()
}
</script>

<template>
  <li ref="element" class="row" :class="[row.what, { off: row.off }]" :data-row="row.line" :style="drawn ? {} : { height: `${height || FIRST_HEIGHT + STEP_HEIGHT * Math.max(0, row.steps.length - 1)}px` }" @keydown="press" @dragover.prevent @drop.prevent.stop="emit('dropped', row.at)">
    <div v-if="drawn && row.above.length > 0" class="comments"><RulesComment v-for="c in row.above" :key="c.from" :comment="c" /></div>
    <div class="line">
      <button
        type="button" class="handle" :data-key="at" :draggable="isRule" :aria-label="row.urgency === null ? row.what : `Rule ${row.urgency}${row.off ? ', off' : ''}; drag to move`"
        :title="worst?.message ?? ''" @dragstart="emit('dragged')"
      >
<span class="mono">{{ row.urgency ?? (row.what === 'start' && kind !== 'routine' ? 'start' : '') }}</span><span class="sign" data-sign /><span v-if="worst !== null" class="worst" :class="worst.severity">{{ worst.severity === 'error' ? '✕' : '△' }}</span>
</button>
      <template v-if="drawn">
        <div class="when">
          <template v-if="row.what === 'rule' || row.what === 'unread'">
            <RulesSentence :pieces="row.when" :prefix="`${at}.w`" />
            <div v-if="row.what === 'rule' && row.when[0] !== undefined" class="now mono" :data-live="row.when[0].from" />
            <template v-if="row.until.length > 0"><div><i>until </i><RulesSentence :pieces="row.until" :prefix="`${at}.u`" /></div><div class="now mono" :data-live="row.until[0]!.from" /></template>
            <i v-if="row.once">once</i>
          </template>
          <i v-else-if="kind !== 'routine'">{{ row.what }}</i>
          <RulesComment v-if="row.behind !== null" :comment="row.behind" class="behind" />
          <span v-if="row.off" class="small"> off</span>
        </div>
        <div class="arrow"><span>→</span><small v-if="live !== null" :title="live ? 'Live: gone through anew every tick' : 'Stepped: played through, one step after another'">{{ live ? 'live' : 'steps' }}</small></div>
        <ol class="steps">
          <li v-for="(s, i) in row.steps" :key="i" class="stepline" :class="{ off: s.off }" :style="{ paddingLeft: `${s.depth * 14}px` }" :data-step="i" :data-line="s.line">
            <div v-if="s.above.length > 0" class="stepcomment"><RulesComment v-for="c in s.above" :key="c.from" :comment="c" /></div>
            <button type="button" class="dot" :data-key="`${at}.${i}`" :aria-label="`Step ${i + 1}`" />
            <span class="body"><RulesSentence :pieces="s.pieces" :prefix="`${at}.${i}`" /><span v-if="s.off" class="small"> off</span><span v-if="s.condition !== null" class="now mono" :data-live="s.condition" /><RulesComment v-if="s.behind !== null" :comment="s.behind" class="behind" /></span>
            <RulesMenu :actions="() => actionsOf(s)" :extra="() => stepExtra(i)" label="What can be done to this step" @act="actStep($event, i)" />
          </li>
          <li class="add"><button type="button" :data-key="`${at}.+`" title="One more step" @click="addStep(row.at, own.length, `${at}.+`, row.steps.length)">+ step</button></li>
        </ol>
        <RulesMenu v-if="kind !== 'routine'" :actions="actions" :extra="extra" label="What can be done to this rule" @act="act" />
      </template>
    </div>
  </li>
</template>

<style scoped>
.row { border-top: 1px solid var(--line); border-left: 4px solid transparent; padding: 4px 4px 4px 0; }
.row[data-state=control] { border-left-color: var(--signal); background: var(--signal-tint); }
.row.off .when, .row.off .steps, .stepline.off .body { opacity: 0.55; text-decoration: line-through; text-decoration-thickness: 1px; }
.comments { padding: 0 0 0 38px; display: flex; flex-direction: column; align-items: flex-start; }
.line { min-height: 34px; display: grid; grid-template-columns: 38px minmax(90px, 5fr) 34px minmax(120px, 7fr) 20px; align-items: start; }
/* A series has no condition beside it: its steps take the whole width. */
.row.start .line { grid-template-columns: 52px minmax(120px, 1fr) 20px; }
.row.start .arrow, .row.start .when { display: none; }
.handle { display: flex; gap: 3px; align-items: baseline; padding: 2px 0 2px 6px; color: var(--muted); cursor: grab; text-align: left; border-radius: 3px; position: relative; }
.handle .mono { min-width: 12px; font-size: 12px; }
.sign { width: 14px; font-size: 12px; }
.row[data-state=control] .sign { color: var(--signal); }
.worst { position: absolute; left: 7px; top: 18px; font-size: 12px; }
.worst.error { color: var(--error); }
.worst.warning { color: var(--warning); }
.when { min-width: 0; overflow-wrap: anywhere; }
.when i { color: var(--muted); }
.now { font-size: 12px; color: var(--muted); white-space: pre-wrap; line-height: 1.3; }
.now:not(:empty) { display: block; min-height: 16px; }
.stepline .now { display: inline; margin-left: 7px; }
.behind { margin-left: 6px; }
.arrow { text-align: center; color: var(--muted); line-height: 1.5; }
.arrow small { display: block; font-size: 12px; line-height: 1; }
.steps { list-style: none; margin: 0; padding: 0; min-width: 0; }
.stepline { display: flex; flex-wrap: wrap; align-items: flex-start; position: relative; border-radius: 3px; }
.stepline .body { flex: 1; min-width: 0; overflow-wrap: anywhere; }
.stepline[data-now] { box-shadow: inset 0 0 0 1.5px var(--signal); background: var(--panel); }
.stepcomment { flex-basis: 100%; padding-left: 8px; }
.dot { width: 8px; height: 20px; flex: none; border-radius: 2px; }
.dot:hover, .dot:focus-visible { background: var(--field); }
.add button { color: var(--muted); font-size: 12px; padding: 0 6px; opacity: 0; border-radius: 3px; }
.row:hover .add button, .row:focus-within .add button, .add button:focus-visible { opacity: 1; }
.add button:hover { color: var(--ink); background: var(--field); }
.add { height: 0; position: relative; }
.add button { position: absolute; right: 22px; top: -19px; background: var(--panel); border: 1px solid var(--line); line-height: 15px; }
</style>
