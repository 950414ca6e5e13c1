<script setup lang="ts">
import { refThrottled } from '@vueuse/core'
import { computed, nextTick, onBeforeUnmount, onMounted, ref, shallowRef, useTemplateRef, watch } from 'vue'
import type { TapeLayout } from '~~/core/tape'
import { PHASE } from '~~/core/vm'
import { readingName, shownValue } from '~/shown/readings'
import type { LiveLines } from '~/features/text/live'
import { useKeys } from '~/composables/useKeys'
import { useLive } from '~/composables/useLive'
import { whenShown } from '~/composables/whenShown'
import { examplesFor } from '~/features/rules/examples'
import { useBenchStore } from '~/features/bench/bench'
import { useProjectStore } from '~/draft/project'
import { shownParts, useRulesStore, type Face, type TextFace } from '~/features/rules/rules'

/** The program, what is wrong with it, and its dials. */
const bench = useBenchStore()
const project = useProjectStore()
const rules = useRulesStore()
const editor = useTemplateRef<TextFace>('editor')
const rulesFace = useTemplateRef<{ addWith(condition: string): void, show(line: number): void }>('rulesFace')
watch(editor, face => rules.attach(face ?? null))
onBeforeUnmount(() => rules.attach(null))
watch(() => bench.inserting, (text) => {
  if (text === null) return
  if (rules.face === 'rules') rulesFace.value?.addWith(text)
  else editor.value?.insert(text)
  bench.inserting = null
})

const FACES = [{ face: 'rules', title: 'Rules', key: 'F2' }, { face: 'text', title: 'Text', key: 'F8' }, { face: 'map', title: 'Map', key: 'F9' }] as const
/** Another face of the same program, at the same place. */
function turnTo(face: Face): void {
  const before = rules.face
  if (before === face) return
  if (before === 'text') {
    const line = rules.caretLine()
    rules.face = face
    void nextTick(() => rulesFace.value?.show(line))
    return
  }
  const row = (document.activeElement as HTMLElement | null)?.closest<HTMLElement>('[data-row]')?.dataset['row'] ?? shownLine.value
  rules.face = face
  if (face === 'text') void nextTick(() => editor.value?.goTo(offsetOf(Number(row ?? 1))))
}
/** The row that had the focus last, as a line. */
const shownLine = ref<string | undefined>(undefined)
function remember(event: FocusEvent): void { shownLine.value = (event.target as HTMLElement).closest<HTMLElement>('[data-row]')?.dataset['row'] ?? shownLine.value }
function offsetOf(line: number): number {
  let at = 0
  for (let i = 1; i < line; i++) at = project.program.indexOf('\n', at) + 1
  return at
}
useKeys('Program', {
  f2: { says: 'as rules', act: () => turnTo('rules') },
  f8: { says: 'as text', act: () => turnTo('text') },
  f9: { says: 'as a map', act: () => turnTo('map') },
})

/** Undo when no text has the focus: both faces share one history. */
function press(event: KeyboardEvent): void {
  if (!(event.ctrlKey || event.metaKey) || event.defaultPrevented || (event.target instanceof HTMLElement && event.target.closest('input, textarea, .cm-editor') !== null)) return
  const key = event.key.toLowerCase()
  if (key === 'z' && !event.shiftKey) rules.undo()
  else if (key === 'y' || key === 'z') rules.redo()
  else return
  event.preventDefault()
}
onMounted(() => globalThis.addEventListener('keydown', press))
onBeforeUnmount(() => globalThis.removeEventListener('keydown', press))

function goTo(line: number, offset: number): void {
  if (rules.face === 'rules') rulesFace.value?.show(line)
  else rules.goTo(offset)
}

const live = shallowRef<LiveLines | null>(null)
const now = ref('')
const nowLine = ref<number | null>(null)
/** Who is in control, for those who hear the page: at most so often, milliseconds. */
const SPOKEN = 4000
const announced = refThrottled(computed(() => now.value === '' ? '' : `${now.value} in control at ${bench.running ? Math.round(bench.time) : bench.time.toFixed(2)} s`), SPOKEN)
let lastKey = ''
/** How often figures behind the lines of the text change, milliseconds. */
const READ = 150
let worthNow: ReturnType<typeof worthOf> = []
let worthAt = 0

useLive(20, () => {
  const { opened, row } = bench
  const program = opened?.program ?? null
  // Lines are of the text that runs; while another is being written they would point astray.
  if (program === null || row === null || program.text !== project.program) {
    if (lastKey !== '') { lastKey = ''; live.value = null; now.value = '' }
    return
  }
  const { layout } = opened!
  const kinds = { live: program.rules.filter(r => r.live).map(r => r.line), stepped: program.rules.filter(r => !r.live).map(r => r.line) }
  if (bench.atStart) {
    const key = `start ${program.text.length} ${kinds.live.join()}`
    if (key !== lastKey) { lastKey = key; live.value = { ...kinds, control: [], steps: [], outranked: [], worth: [] }; now.value = ''; nowLine.value = null }
    return
  }
  const control: (readonly [number, number])[] = []
  const steps: number[] = []
  const outranked: number[] = []
  const names: string[] = []
  const inControl = new Set<number>()
  layout.laneNames.forEach((lane, i) => {
    const rule = row[layout.lanes + 4 * i + 2]!
    const step = row[layout.lanes + 4 * i + 3]!
    if (rule >= 0) {
      const r = program.rules[rule]!
      control.push([r.line, r.lastLine])
      inControl.add(rule)
      names.push(`${layout.laneNames.length > 1 ? `${lane}: ` : ''}${r.mode === '' ? '' : `${r.mode} `}rule ${r.urgency}`)
    } else if (row[layout.lanes + 4 * i] === PHASE.laneStart) names.push('start')
    else if (row[layout.lanes + 4 * i] === PHASE.modeStart) names.push(`${program.lanes[i]?.modes[row[layout.lanes + 4 * i + 1]!] ?? ''} start`.trimStart())
    if (step >= 0) steps.push(program.steps[step]!.line)
  })
  // Only rules of the mode that the lane is in have a say; those of others keep what they wanted last.
  program.rules.forEach((r, i) => {
    const mode = program.lanes[r.lane]?.modes[row[layout.lanes + 4 * r.lane + 1]!]
    if (row[layout.wants + i] === 1 && !inControl.has(i) && (r.mode === '' || r.mode === mode)) outranked.push(r.line)
  })
  // Figures that change faster than one reads them are not written: what is in control is.
  const at = performance.now()
  if (rules.face === 'rules') worthNow = []
  else if (!bench.running || at - worthAt > READ) { worthNow = worthOf(row, layout); worthAt = at }
  const worth = worthNow
  const key = JSON.stringify([control, steps, outranked, worth])
  if (key === lastKey) return
  lastKey = key
  live.value = { ...kinds, control, steps, outranked, worth }
  now.value = names.join(' · ')
  nowLine.value = control[0]?.[0] ?? steps[0] ?? null
})

/** What the conditions are worth that have a say now, by line: those of the modes that the lanes are in. */
function worthOf(row: Float64Array, layout: TapeLayout): readonly (readonly [number, string])[] {
  const program = bench.opened!.program!
  const found = rules.conditions
  if (found === null) return []
  const now = program.rules.filter((r) => { const mode = program.lanes[r.lane]?.modes[row[layout.lanes + 4 * r.lane + 1]!]; return r.mode === '' || r.mode === mode })
  const byLine = new Map<number, string>()
  for (const [from, parts] of found) {
    const line = rules.lineOf(from)
    if (!now.some(r => r.line <= line && line <= r.lastLine)) continue
    byLine.set(line, `${byLine.has(line) ? `${byLine.get(line)!}  ` : ''}${shownParts(parts)}`)
  }
  return [...byLine].sort((a, b) => a[0] - b[0])
}

/** A reading as it stands at the instant looked at. */
function worth(name: string): string | null {
  const { opened, row } = bench
  if (opened === null || row === null) return null
  for (const d of opened.facts.devices) {
    const i = d.readings.findIndex(r => readingName(d, r) === name)
    if (i === -1) continue
    const shown = shownValue(d.readings[i]!, row[opened.layout.readings + d.first + i]!, opened.facts.colors)
    return `${shown.figure} ${shown.unit}`.trim()
  }
  return null
}

/** The text that is being checked since it was typed. */
let typed: string | null = null
function edit(text: string): void {
  project.edit(text)
  if (rules.face !== 'text') return
  typed = text
  bench.check()
}
let checkOff: (() => void) | null = null
watch(() => [project.program, project.data?.id], ([program]) => {
  checkOff?.()
  checkOff = null
  if (program === typed) { typed = null; return }
  // Where parts are changed and not letters typed, the change is seen first: a check beside it would hold up the frame that shows it.
  if (rules.face === 'text' || !bench.checked) bench.check()
  else checkOff = whenShown(() => bench.check())
}, { immediate: true })
onBeforeUnmount(() => checkOff?.())

const examples = computed(() => bench.opened === null ? [] : examplesFor(bench.opened.facts))
</script>

<template>
  <section class="decide" aria-label="Decide">
    <header class="head">
      <h2>Decide</h2>
      <v-btn class="now" variant="text" size="small" title="Show the rule in control" :disabled="nowLine === null" @click="goTo(nowLine!, offsetOf(nowLine!))">{{ now === '' ? '' : `▶ ${now}` }}</v-btn>
      <span class="visually-hidden" role="status">{{ announced }}</span>
      <span class="small state">{{ bench.mistakes === 0 ? (bench.checked ? '● ready to run' : '') : `✕ ${bench.runHindrance}` }}</span>
      <v-btn-toggle class="faces" :model-value="rules.face" role="group" aria-label="Faces of the program" @update:model-value="turnTo($event)">
        <KeyButton v-for="f in FACES" :key="f.face" :value="f.face" :aria-pressed="rules.face === f.face" :says="`${f.title}: ${f.key}`" :data-face="f.face">{{ f.title }}</KeyButton>
      </v-btn-toggle>
    </header>
    <RulesFace v-if="rules.face === 'rules'" ref="rulesFace" class="text" @focusin="remember" />
    <RulesMap v-if="rules.face === 'map'" class="text" :live="live" @go="turnTo('rules'); goTo($event, 0)" />
    <div v-show="rules.face === 'text'" class="text">
      <ProgramEditor
        ref="editor" :project="project.data?.id ?? ''" :text="project.program" :facts="bench.opened?.facts ?? null" :diagnostics="bench.diagnostics" :live="live" :worth="worth" :shown="rules.face === 'text'"
        @edit="edit"
      />
      <div v-if="project.program.trim() === ''" class="empty">
        <p>An empty program. Type below the line number, or begin with one of these:</p>
        <v-card v-for="example in examples" :key="example.title" class="example" tag="button" @click="project.edit(example.text)">
          <b>{{ example.title }}</b>
          <span class="mono">{{ example.text.trim() }}</span>
        </v-card>
      </div>
    </div>
    <RulesFinder />
    <DecideStrip />
    <p v-if="bench.checkFailure !== null" class="failure" role="alert">✕ {{ bench.checkFailure }}</p>
    <CheckerNotes @go="goTo" />
    <WhyPanel v-if="bench.asking" />
    <DialBar />
  </section>
</template>

<style scoped>
.decide { display: flex; flex-direction: column; min-height: 0; background: var(--panel); }
.head { display: flex; align-items: center; gap: 8px; padding: 0 12px; height: 33px; border-bottom: 1px solid var(--line); flex: none; }
.head h2 { font-size: 13.5px; margin: 0; }
.faces { margin-left: auto; }
/* Empty while a check goes on: nothing beside it moves. */
.state { flex: none; min-width: 92px; text-align: right; }
.now { color: var(--signal); flex: 1; min-width: 0; justify-content: flex-start; opacity: 1; }
.now :deep(.v-btn__content) { overflow: hidden; text-overflow: ellipsis; display: block; }
.text { position: relative; flex: 1; min-height: 0; }
.empty { position: absolute; inset: 46px 24px auto 60px; }
.empty p { margin: 0 0 10px; color: var(--muted); }
.example { display: block; width: 100%; text-align: left; padding: 8px 12px; margin-bottom: 8px; color: var(--ink); }
.example .mono { display: block; white-space: pre; color: var(--muted); padding-top: 4px; }
.failure { color: var(--error); padding: 4px 12px; border-top: 1px solid var(--line); }
</style>
