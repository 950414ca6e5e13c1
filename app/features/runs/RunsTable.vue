<script setup lang="ts">
import { computed, nextTick, useTemplateRef, watch } from 'vue'
import { useRunsStore } from './runs'
import { MOST_COMPARED, STYLES } from './compare'
import type { KeptRunRow } from '~/utils/api'
import { LEAST_BUDGET, MOST_BUDGET, metIn, touchesIn } from '~~/core/runs'

/** The kept runs, the newest first. */
const { current } = defineProps<{ current: string | null }>()
const emit = defineEmits<{ at: [id: string], open: [id: string], save: [id: string] }>()
const runs = useRunsStore()

const HEADERS = [
  { title: 'vs', key: 'compare', sortable: false, width: 34 },
  { title: 'when', key: 'at', width: 84 },
  { title: 'result', key: 'result', width: 96 },
  { title: 'time', key: 'time', align: 'end', width: 66 },
  { title: 'path', key: 'path', align: 'end', width: 70 },
  { title: 'touched', key: 'contacts', align: 'end', width: 76 },
  { title: 'seed', key: 'seed', align: 'end', width: 66 },
  { title: 'program', key: 'revision', width: 86 },
  { title: 'name', key: 'name', sortable: false, minWidth: 96 },
  { title: 'do', key: 'does', sortable: false, width: 92 },
] as const

interface Line { readonly id: string, readonly run: KeptRunRow, readonly at: string, readonly result: string, readonly time: number, readonly path: number, readonly contacts: number, readonly seed: number, readonly revision: number, readonly name: string }
const lines = computed(() => runs.runs.map((run): Line => {
  const { outline: o } = run
  return { id: run.id, run, at: run.at, result: resultOf(run), time: o.time, path: o.path, contacts: touchesIn(o), seed: run.seed, revision: run.revision ?? 0, name: run.name }
}))
/** How it ended, in a few words, its sign first. */
function resultOf({ outline, ticks }: KeptRunRow): string {
  const { goals, ended } = outline
  const met = metIn(outline)
  if (ended === 'fell') return '↓ fell'
  if (ended === 'error') return '✕ error'
  if (goals.length > 0 && met === goals.length) return '● all met'
  if (ended === 'left') return '◌ left'
  if (outline.stuck.some(s => s.to >= ticks - 50)) return '⟳ stuck'
  return goals.length === 0 ? '■ ended' : `○ ${met} of ${goals.length}`
}
/** Today by its time, else by its day. */
function when(iso: string): string {
  const at = new Date(iso)
  return at.toDateString() === new Date().toDateString() ? at.toLocaleTimeString(undefined, { hour: '2-digit', minute: '2-digit', second: '2-digit', hourCycle: 'h23' }) : at.toLocaleDateString(undefined, { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit', hourCycle: 'h23' })
}
const programOf = ({ revision, originTicks, ticks, outline }: KeptRunRow): string =>
  `${revision === null ? 'not saved' : `rev. ${revision}`}${originTicks === null ? '' : ` ⤷ ${(originTicks * outline.time / Math.max(1, ticks)).toFixed(1)} s`}`
const letterOf = (id: string): string => STYLES[runs.chosen.indexOf(id)]?.letter ?? ''
const megabytes = computed(() => (runs.list?.bytes ?? 0) / 1e6)
function setBudget(event: Event): void {
  const value = Number((event.target as HTMLInputElement).value)
  if (Number.isInteger(value) && value >= LEAST_BUDGET && value <= MOST_BUDGET) void runs.setBudget(value)
  else runs.trouble = `${value} MB for runs: allowed is a whole number from ${LEAST_BUDGET} to ${MOST_BUDGET}`
}

const table = useTemplateRef<HTMLElement>('table')
watch(() => current, async (id) => {
  await nextTick()
  table.value?.querySelector<HTMLElement>(`[data-run="${id}"]`)?.scrollIntoView({ block: 'nearest' })
})
</script>

<template>
  <div ref="table" class="table">
    <v-data-table-virtual :headers="HEADERS" :items="lines" item-value="id" fixed-header height="100%" item-height="33" :sort-by="[{ key: 'at', order: 'desc' }]" must-sort hover>
      <template #item="{ item }">
        <tr :data-run="item.id" :class="{ current: item.id === current, chosen: letterOf(item.id) !== '' }" :aria-current="item.id === current" @click="emit('at', item.id)" @dblclick="emit('open', item.id)">
          <td class="compare">
            <v-checkbox-btn :model-value="letterOf(item.id) !== ''" :disabled="letterOf(item.id) === '' && runs.chosen.length >= MOST_COMPARED" :aria-label="`Compare the run of ${when(item.at)}`" @update:model-value="runs.choose(item.id)" />
            <b v-if="letterOf(item.id) !== ''">{{ letterOf(item.id) }}</b>
          </td>
          <td>{{ when(item.at) }}</td>
          <td :class="{ good: item.result.startsWith('●'), bad: /^[↓✕]/.test(item.result) }">{{ item.result }}</td>
          <td class="mono end">{{ item.time.toFixed(1) }} s</td>
          <td class="mono end">{{ item.path.toFixed(2) }} m</td>
          <td class="mono end">{{ item.contacts }}</td>
          <td class="mono end" :title="item.run.realism">{{ item.seed }} {{ item.run.realism.slice(0, 1) }}</td>
          <td class="program">{{ programOf(item.run) }}</td>
          <td><v-text-field class="name" variant="plain" :model-value="item.name" maxlength="80" placeholder="—" :aria-label="`Name of the run of ${when(item.at)}`" @change="runs.change(item.id, { name: ($event.target as HTMLInputElement).value })" @click.stop @dblclick.stop /></td>
          <td class="does">
            <v-btn size="x-small" variant="text" :aria-pressed="item.run.starred" :aria-label="item.run.starred ? 'Take the star' : 'Star it: it stays'" @click.stop="runs.change(item.id, { starred: !item.run.starred })">{{ item.run.starred ? '★' : '☆' }}</v-btn>
            <v-btn size="x-small" variant="text" aria-label="Open it on the bench" title="Open it on the bench" @click.stop="emit('open', item.id)">▸</v-btn>
            <v-btn size="x-small" variant="text" aria-label="Save it as a file" title="Save it as a file" @click.stop="emit('save', item.id)">⤓</v-btn>
            <v-btn size="x-small" variant="text" aria-label="Put it away" title="Put it away" @click.stop="runs.remove(item.id)">✕</v-btn>
          </td>
        </tr>
      </template>
    </v-data-table-virtual>
    <footer class="small">
      {{ runs.runs.length }} {{ runs.runs.length === 1 ? 'run' : 'runs' }} here; all projects' runs take {{ megabytes.toFixed(1) }} MB of
      <v-text-field class="budget mono" type="number" :min="LEAST_BUDGET" :max="MOST_BUDGET" :model-value="runs.list?.budget" aria-label="Megabytes that all runs may take" @change="setBudget" /> MB.
      Then the oldest go; what has a ★ or a name stays.
    </footer>
  </div>
</template>

<style scoped>
.table { display: flex; flex-direction: column; min-height: 0; flex: 1; }
.v-table { flex: 1; min-height: 0; background: transparent; font-size: 13px; }
.v-table :deep(:is(tr[data-run] td, th)) { height: 33px !important; padding: 0 5px !important; white-space: nowrap; }
.v-table :deep(th) { font-size: 12px; color: var(--muted); background: var(--panel) !important; }
.compare { display: flex; align-items: center; gap: 2px; }
.compare :deep(.v-selection-control) { flex: none; }
.end { text-align: right; }
tr.current { background: var(--field); box-shadow: inset 3px 0 var(--ink); }
tr.chosen td { font-weight: 600; }
.good { color: var(--good); }
.bad { color: var(--error); }
.name :deep(input) { padding: 2px 0; min-height: 0; font-size: 13px; }
.program { color: var(--muted); }
footer { display: flex; align-items: center; gap: 6px; padding: 5px 12px; border-top: 1px solid var(--line); flex: none; }
.budget { flex: none; width: 92px; }
</style>
