<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { capture, conditionOf, propose, type Proposal, type Situation } from './situations'
import { shownValue } from '~/shown/readings'
import { useBenchStore } from '~/features/bench/bench'
import { useProjectStore } from '~/draft/project'

/** Two situations captured by a key each, and the threshold that tells them apart. */
const bench = useBenchStore()
const project = useProjectStore()
const first = shallowRef<Situation | null>(null)
const second = shallowRef<Situation | null>(null)
const told = ref('')

/** Seconds that a situation lasts when it is captured. */
const LASTS = 1

function take(which: 'first' | 'second'): void {
  const { opened, tape } = bench
  if (opened === null || tape === null || tape.rows < 2) { told.value = 'Nothing was read yet: press H and put the robot into the situation.'; return }
  const to = bench.shownTick + 1
  const found = capture(tape, opened.layout, opened.facts, to - Math.round(LASTS / opened.layout.dt), to)
  if (which === 'first') first.value = found
  else second.value = found
  told.value = ''
}
const facts = computed(() => bench.opened?.facts ?? null)
const proposals = computed(() => facts.value === null || first.value === null || second.value === null ? [] : propose(facts.value, first.value, second.value))
const shown = (p: Proposal, value: number): string => {
  const s = shownValue(p.spec, value, facts.value?.colors ?? [])
  return s.unit === '' ? s.figure : `${s.figure} ${s.unit}`
}
const range = (p: Proposal, s: { low: number, high: number }): string => s.low === Infinity ? 'no echo' : `${shown(p, s.low)} … ${shown(p, s.high)}`

/** Puts the condition where the caret is. */
function useAsCondition(p: Proposal): void { bench.insert(conditionOf(p, shown(p, p.threshold!))) }
/** Adds a dial of that value at the top, below the title. */
function useAsDial(p: Proposal): void {
  const name = `${p.device}_limit`
  const lines = project.program.split('\n')
  let free = name
  for (let n = 2; lines.some(l => l.startsWith(`dial ${free} `)); n++) free = `${name}_${n}`
  const at = lines[0]?.startsWith('program ') === true ? 1 : 0
  lines.splice(at, 0, `dial ${free} = ${shown(p, p.threshold!)}`)
  project.edit(lines.join('\n'))
}
function forget(): void { first.value = null; second.value = null }
defineExpose({ take })
</script>

<template>
  <section class="situations" aria-label="Two situations">
    <div class="two">
      <KeyButton size="small" :class="{ taken: first !== null }" keys="N" @click="take('first')">{{ first === null ? '○' : '●' }} this</KeyButton>
      <KeyButton size="small" :class="{ taken: second !== null }" keys="F" @click="take('second')">{{ second === null ? '○' : '●' }} that</KeyButton>
      <v-btn v-if="first !== null || second !== null" size="small" aria-label="Forget both" @click="forget">✕</v-btn>
    </div>
    <p v-if="told !== ''" class="small">{{ told }}</p>
    <p v-else-if="proposals.length === 0" class="small">{{ first === null && second === null ? 'Capture two situations, near and far, on the line and off it: a threshold between them is proposed.' : first !== null && second !== null ? 'Nothing reads differently in the two.' : 'Now the other situation.' }}</p>
    <ul v-else>
      <li v-for="p in proposals.slice(0, 4)" :key="p.reading">
        <b>{{ p.reading }}</b>
        <div class="small mono">{{ range(p, p.first) }}<br>{{ range(p, p.second) }}</div>
        <template v-if="p.threshold !== null">
          <div><b class="mono">{{ shown(p, p.threshold) }}</b> <span class="small">± {{ shown(p, p.margin) }}</span></div>
          <v-btn size="small" @click="useAsCondition(p)">condition</v-btn> <v-btn size="small" @click="useAsDial(p)">dial</v-btn>
        </template>
        <div v-else class="small">✕ they overlap: this cannot tell them apart</div>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.situations { border-top: 1px solid var(--line); padding: 7px 10px; flex: none; max-height: 46%; overflow: auto; background: var(--ground); }
.two { display: flex; gap: 5px; }
.two > * { flex: 1; }
.two > :last-child:nth-child(3) { flex: none; }
.taken { color: var(--good); }
p { padding-top: 5px; }
ul { list-style: none; margin: 0; padding: 0; }
li { padding: 6px 0 4px; border-top: 1px solid var(--line); margin-top: 6px; }
</style>
