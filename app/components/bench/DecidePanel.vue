<script setup lang="ts">
import { computed, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { placeOf } from '~~/core/language'
import type { LiveLines } from '~/editor/live'
import { useLive } from '~/composables/useLive'
import { useBenchStore } from '~/stores/bench'
import { useProjectStore } from '~/stores/project'

/** The program, what is wrong with it, and its dials. */
const bench = useBenchStore()
const project = useProjectStore()
const editor = useTemplateRef<{ focus(): void, goTo(offset: number): void, insert(text: string): void }>('editor')
watch(() => bench.inserting, (text) => {
  if (text === null) return
  editor.value?.insert(text)
  bench.inserting = null
})

const live = shallowRef<LiveLines | null>(null)
const now = ref('')
let lastKey = ''

useLive(20, () => {
  const { opened, row } = bench
  const program = opened?.program ?? null
  // Lines are of the text that runs; while another is being written they would point astray.
  if (program === null || row === null || program.text !== project.program || bench.atStart) {
    if (lastKey !== '') { lastKey = ''; live.value = null; now.value = '' }
    return
  }
  const { layout } = opened!
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
    } else if (row[layout.lanes + 4 * i] === 0) names.push('start')
    if (step >= 0) steps.push(program.steps[step]!.line)
  })
  // Only rules of the mode that the lane is in have a say; those of others keep what they wanted last.
  program.rules.forEach((r, i) => {
    const mode = program.lanes[r.lane]?.modes[row[layout.lanes + 4 * r.lane + 1]!]
    if (row[layout.wants + i] === 1 && !inControl.has(i) && (r.mode === '' || r.mode === mode)) outranked.push(r.line)
  })
  const key = JSON.stringify([control, steps, outranked])
  if (key === lastKey) return
  lastKey = key
  live.value = { control, steps, outranked }
  now.value = names.join(' · ')
})

let timer: ReturnType<typeof setTimeout> | null = null
watch(() => [project.program, project.data?.id], () => {
  if (timer !== null) clearTimeout(timer)
  timer = setTimeout(() => bench.check(), 60)
}, { immediate: true })

const notes = computed(() => bench.diagnostics.slice(0, 4).map(d => ({ ...d, line: placeOf(project.program, d.range.from).line })))
const more = computed(() => Math.max(0, bench.diagnostics.length - 4))
const SIGNS = { error: '✕', warning: '△', hint: '·' } as const

const EXAMPLES = [
  { title: 'Drive, and stop when something is near', text: 'when sonar.distance < 20 cm\n  halt\notherwise\n  drive 20 cm/s\n' },
  { title: 'Drive one metre and end', text: 'start\n  drive 1 m\n  finish "there"\n' },
]
</script>

<template>
  <section class="decide" aria-label="Decide">
    <header class="head">
      <h2>Decide</h2>
      <span class="now" aria-live="off">{{ now === '' ? '' : `▶ ${now}` }}</span>
      <span class="small">{{ bench.mistakes === 0 ? (bench.checked ? '● ready to run' : '') : `✕ ${bench.runHindrance}` }}</span>
    </header>
    <div class="text">
      <BenchProgramEditor
        ref="editor" :text="project.program" :facts="bench.opened?.facts ?? null" :diagnostics="bench.diagnostics" :live="live"
        @edit="project.edit($event)"
      />
      <div v-if="project.program.trim() === ''" class="empty">
        <p>An empty program. Type below the line number, or begin with one of these:</p>
        <button v-for="example in EXAMPLES" :key="example.title" type="button" @click="project.edit(example.text)">
          <b>{{ example.title }}</b>
          <pre>{{ example.text }}</pre>
        </button>
      </div>
    </div>
    <ul v-if="notes.length > 0" class="notes" aria-label="What the checker says">
      <li v-for="note in notes" :key="`${note.code}${note.range.from}`" :class="note.severity">
        <button type="button" @click="editor?.goTo(note.range.from)">
          <span class="sign">{{ SIGNS[note.severity] }}</span><span class="mono line">{{ note.line }}</span><span>{{ note.message }}</span>
        </button>
      </li>
      <li v-if="more > 0" class="small more">and {{ more }} more</li>
    </ul>
    <BenchWhyPanel v-if="bench.asking" />
    <BenchDialBar />
  </section>
</template>

<style scoped>
.decide { display: flex; flex-direction: column; min-height: 0; background: var(--panel); }
.head { display: flex; align-items: baseline; gap: 12px; padding: 0 12px; height: 33px; line-height: 33px; border-bottom: 1px solid var(--line); flex: none; }
.head h2 { font-size: 13.5px; margin: 0; }
.now { color: var(--signal); font-weight: 600; flex: 1; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.text { position: relative; flex: 1; min-height: 0; }
.empty { position: absolute; inset: 46px 24px auto 60px; }
.empty p { margin: 0 0 10px; color: var(--muted); }
.empty button { display: block; width: 100%; text-align: left; border: 1px solid var(--line); background: var(--paper); border-radius: 5px; padding: 8px 12px; margin-bottom: 8px; color: var(--ink); }
.empty button:hover { border-color: var(--signal); }
.empty pre { font-family: var(--mono); margin: 4px 0 0; color: var(--muted); }
.notes { list-style: none; margin: 0; padding: 4px 0; border-top: 1px solid var(--line); background: var(--ground); flex: none; max-height: 150px; overflow: auto; }
.notes button { display: flex; gap: 8px; width: 100%; text-align: left; padding: 3px 12px; color: var(--ink); }
.notes .sign { width: 12px; flex: none; }
.notes .line { min-width: 20px; text-align: right; color: var(--muted); flex: none; }
.error .sign { color: var(--error); }
.warning .sign { color: var(--warning); }
.more { padding: 2px 12px 2px 52px; }
</style>
