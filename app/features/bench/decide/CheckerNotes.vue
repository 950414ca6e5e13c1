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
const more = computed(() => Math.max(0, bench.diagnostics.length - SHOWN))
</script>

<template>
  <ul v-show="notes.length > 0" class="notes" aria-label="What the checker says">
    <CheckerNote
      v-for="i in rows" :key="i" :hidden="notes[i - 1] === undefined" :severity="notes[i - 1]?.severity ?? 'hint'" :line="notes[i - 1]?.line ?? 0" :from="notes[i - 1]?.range.from ?? 0"
      :message="notes[i - 1]?.message ?? ''" :code="notes[i - 1]?.code ?? ''" :title="notes[i - 1]?.fix?.title ?? null" :at="notes[i - 1]?.fix?.from ?? 0" :end="notes[i - 1]?.fix?.to ?? 0"
      :text="notes[i - 1]?.fix?.text ?? ''" @go="(line, from) => $emit('go', line, from)"
    />
    <li v-if="more > 0" class="small more">and {{ more }} more</li>
  </ul>
</template>

<style scoped>
.notes { list-style: none; margin: 0; padding: 4px 0; border-top: 1px solid var(--line); background: var(--ground); flex: none; max-height: 150px; overflow: auto; }
.more { padding: 2px 12px 2px 52px; }
</style>
