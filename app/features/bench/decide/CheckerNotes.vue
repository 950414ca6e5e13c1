<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useBenchStore } from '~/features/bench/bench'
import { useRulesStore } from '~/features/rules/rules'

/** The first of what the checker says, each with the way to its place. */
const bench = useBenchStore()
const rules = useRulesStore()
defineEmits<{ go: [line: number, offset: number] }>()

const SHOWN = 4
const notes = computed(() => bench.diagnostics.slice(0, SHOWN).map(d => ({ ...d, line: rules.lineOf(d.range.from) })))
/** Rows that were needed so far: one that says nothing now stays, hidden, as every second letter of a word is a mistake and its removal. */
const rows = ref(0)
watch(() => notes.value.length, (now) => { rows.value = Math.max(rows.value, now) }, { immediate: true, flush: 'sync' })
const NOTHING = { severity: 'hint', line: 0, range: { from: 0, to: 0 }, message: '', code: '', fix: null } as const
const shown = computed(() => Array.from({ length: rows.value }, (_, i) => notes.value[i] ?? NOTHING))
const more = computed(() => Math.max(0, bench.diagnostics.length - SHOWN))
</script>

<template>
  <ul v-show="notes.length > 0" class="notes" aria-label="What the checker says">
    <CheckerNote
      v-for="(note, i) in shown" :key="i" :hidden="i >= notes.length" :severity="note.severity" :line="note.line" :from="note.range.from" :message="note.message" :code="note.code"
      :title="note.fix?.title ?? null" :at="note.fix?.from ?? 0" :end="note.fix?.to ?? 0" :text="note.fix?.text ?? ''" @go="(line, from) => $emit('go', line, from)"
    />
    <li v-if="more > 0" class="small more">and {{ more }} more</li>
  </ul>
</template>

<style scoped>
.notes { list-style: none; margin: 0; padding: 4px 0; border-top: 1px solid var(--line); background: var(--ground); flex: none; max-height: 150px; overflow: auto; }
.more { padding: 2px 12px 2px 52px; }
</style>
