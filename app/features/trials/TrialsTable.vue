<script setup lang="ts">
import { computed } from 'vue'
import type { TrialRow } from './answers'

/** Every run of a plan; a run opens on the Bench. */
const { rows, runs, opening } = defineProps<{ rows: readonly TrialRow[], runs: number, opening: number | null }>()
const emit = defineEmits<{ look: [number: number, at: number | null] }>()
/** What all runs have alike needs no column: the plan says it. */
const differs = (of: 'program' | 'realism' | 'dials' | 'world'): boolean => rows.some(r => r[of] !== rows[0]![of])
const shown = computed(() => ({ program: differs('program'), realism: differs('realism'), dials: differs('dials'), world: differs('world') }))
const headers = computed(() => [
  { title: 'result', key: 'met', width: 92 },
  ...shown.value.program ? [{ title: 'program', key: 'program' }] : [],
  ...shown.value.realism ? [{ title: 'realism', key: 'realism', width: 80 }] : [],
  { title: 'seed', key: 'seed', align: 'end' as const, width: 66 },
  ...shown.value.dials ? [{ title: 'dials', key: 'dials' }] : [],
  ...shown.value.world ? [{ title: 'world', key: 'world' }] : [],
  { title: 'took', key: 'took', align: 'end' as const, width: 78 },
  { title: 'time', key: 'time', align: 'end' as const, width: 78 },
  { title: 'path', key: 'path', align: 'end' as const, width: 78 },
  { title: 'touched', key: 'contacts', align: 'end' as const, width: 80 },
  { title: 'how it ended', key: 'ended' },
  { title: 'do', key: 'does', sortable: false, width: 90 },
])
const seconds = (x: number | null): string => x === null ? '—' : `${x.toFixed(2)} s`
</script>

<template>
  <v-data-table-virtual class="runs" :headers="headers" :items="[...rows]" item-value="number" fixed-header height="100%" item-height="31" hover>
    <template #item="{ item }">
      <tr :data-trial="item.number" @dblclick="emit('look', item.number, item.lost)">
        <td :class="item.met ? 'good' : 'bad'">{{ item.met ? '● all met' : '○ not' }}</td>
        <td v-if="shown.program">{{ item.program }}</td><td v-if="shown.realism">{{ item.realism }}</td><td class="mono end">{{ item.seed }}</td>
        <td v-if="shown.dials" class="mono">{{ item.dials }}</td>
        <td v-if="shown.world" class="world" :title="item.world">{{ item.world }}</td>
        <td class="mono end">{{ seconds(item.took) }}</td><td class="mono end">{{ seconds(item.time) }}</td><td class="mono end">{{ item.path.toFixed(2) }} m</td><td class="mono end">{{ item.contacts }}</td>
        <td class="ended">{{ item.ended }}</td>
        <td><v-btn size="x-small" variant="text" :disabled="opening !== null" :aria-label="`look at the run of seed ${item.seed} on the bench`" @click="emit('look', item.number, item.lost)">{{ opening === item.number ? '◌' : 'look' }}</v-btn></td>
      </tr>
    </template>
  </v-data-table-virtual>
  <p v-if="rows.length < runs" class="small more">the first {{ rows.length }} of {{ runs }} runs; the csv has all of them</p>
</template>

<style scoped>
.runs { flex: 1; min-height: 0; background: var(--panel); font-size: 13px; }
.runs :deep(:is(tr[data-trial] td, th)) { height: 31px !important; padding: 0 8px !important; white-space: nowrap; }
.runs :deep(th) { font-size: 12px; color: var(--muted); background: var(--panel) !important; }
.more { margin: 0; padding: 5px 12px; background: var(--panel); border-top: 1px solid var(--line); }
.end { text-align: right; }
td.good { color: var(--good); }
td.bad { color: var(--error); }
.ended { color: var(--muted); }
.world { max-width: 270px; overflow: hidden; text-overflow: ellipsis; }
</style>
