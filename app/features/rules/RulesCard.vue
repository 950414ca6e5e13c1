<script setup lang="ts">
import { computed } from 'vue'
import { moveItem, moveRuleTo, nameProblem, removeItem, rename, type Card } from '~~/core/editing'
import { useFinders } from './useFinders'
import { newRule } from './actions'
import { useBenchStore } from '~/features/bench/bench'
import { useRulesStore } from './rules'

/** A mode, a lane or a routine as a card; or the rules of a program without modes. */
const props = defineProps<{ card: Card, index: number, live: ReadonlyMap<number, boolean>, dragged: number | null }>()
const emit = defineEmits<{ drag: [at: number] }>()
const bench = useBenchStore()
const rules = useRulesStore()
const finders = useFinders()

const title = computed(() => {
  switch (props.card.kind) {
    case 'main': return 'rules'
    case 'above': return props.card.lane === '' ? 'in every mode' : `in every mode of ${props.card.lane}`
    case 'lane': return `lane ${props.card.name}`
    case 'routine': return `routine ${props.card.name}${props.card.parameters.length === 0 ? '' : `(${props.card.parameters.join(', ')})`}`
    case 'mode': return props.card.name
  }
  return ''
})
const hasOtherwise = computed(() => props.card.rows.some(r => r.what === 'otherwise'))
const key = computed(() => String(props.index))

function renameIt(): void {
  const { name, kind } = props.card
  if (name === '' || (kind !== 'mode' && kind !== 'lane' && kind !== 'routine')) return
  rules.find({
    key: `${key.value}.name`, title: `the ${kind}’s name`, text: name, offers: [],
    take: to => to === name || rules.change(s => rename(s, kind, name, to), `${key.value}.name`) ? null : nameProblem(rules.sheet.tree, to) ?? 'this name cannot be',
  })
}
/** A new rule comes last, but above `otherwise`. */
function addRule(): void {
  const otherwise = props.card.rows.findIndex(r => r.what === 'otherwise')
  finders.rule(`${key.value}.add`, props.card, null, { card: props.index, row: otherwise === -1 ? props.card.rows.length : otherwise })
}
function addOtherwise(): void {
  const facts = bench.opened?.facts
  if (facts !== undefined && rules.change(newRule(props.card, null, null, facts))) finders.onlyStep(props.index, rules.outline.cards[props.index]!.rows.length - 1)
}
function drop(before: number | null): void {
  const { dragged } = props
  if (dragged !== null) rules.change(s => moveRuleTo(s, dragged, props.card.at, before ?? props.card.rows.find(r => r.what === 'otherwise')?.at ?? null))
}
function press(event: KeyboardEvent): void {
  const by = event.altKey && event.key === 'ArrowUp' ? -1 : event.altKey && event.key === 'ArrowDown' ? 1 : 0
  if (by !== 0) { if (rules.change(s => moveItem(s, props.card.at, by), `${props.index + by}.name`)) event.preventDefault() }
  else if (event.key === 'Delete') rules.change(s => removeItem(s, props.card.at))
  else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <section class="card" :class="card.kind" :data-card="card.name" :data-mode="card.kind === 'mode' ? card.name : null" :aria-label="title" @dragover.prevent @drop.prevent="drop(null)">
    <div v-if="card.above.length > 0" class="comments"><RulesComment v-for="c in card.above" :key="c.from" :comment="c" /></div>
    <header>
      <v-btn v-if="card.name !== ''" variant="text" size="small" class="name" :data-key="`${key}.name`" :title="`Rename; Alt ↑ ↓ moves it, Del removes it`" @click="renameIt" @keydown="press">{{ title }}</v-btn>
      <b v-else>{{ title }}</b>
      <RulesComment v-if="card.behind !== null" :comment="card.behind" />
      <span class="about small" data-about>{{ card.kind === 'above' ? 'above the rest' : '' }}</span>
    </header>
    <ul>
      <RulesRow
        v-for="(row, i) in card.rows" :key="i" :kind="card.kind" :place="index" :row="row" :index="i" :at="`${key}.${i}`" :live="live.get(row.line) ?? null"
        @dragged="emit('drag', row.at)" @dropped="drop($event)"
      />
    </ul>
    <footer v-if="card.kind !== 'routine'">
      <v-btn size="small" variant="text" :data-key="`${key}.add`" class="new-rule" @click="addRule">+ rule</v-btn>
      <v-btn v-if="!hasOtherwise && card.kind !== 'above'" size="small" variant="text" class="new-otherwise" @click="addOtherwise">+ otherwise</v-btn>
    </footer>
  </section>
</template>

<style scoped>
.card { border: 1px solid var(--line); border-radius: 6px; background: var(--panel); margin-bottom: 8px; overflow: hidden; content-visibility: auto; contain-intrinsic-size: auto 240px; }
.card[data-now] { border: 1.5px solid var(--signal); }
.comments { padding: 4px 10px 0; display: flex; flex-direction: column; align-items: flex-start; background: var(--ground); }
header { display: flex; gap: 10px; align-items: center; background: var(--ground); padding: 4px 10px; }
header b, .name { font-weight: 700; color: var(--ink); }
.name.v-btn { font-size: 13.5px; margin-left: -7px; height: 20px; }
.about { margin-left: auto; font-variant-numeric: tabular-nums; }
.card[data-now] .about { color: var(--signal); font-weight: 700; }
ul { list-style: none; margin: 0; padding: 0; }
footer { border-top: 1px solid var(--line); display: flex; gap: 6px; padding: 2px 8px; }
footer .v-btn { color: var(--muted); }
</style>
