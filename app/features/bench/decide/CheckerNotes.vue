<script setup lang="ts">
import { computed } from 'vue'
import { useBenchStore } from '~/features/bench/bench'
import { useRulesStore } from '~/features/rules/rules'

/** The first of what the checker says, each with the way to its place. */
const bench = useBenchStore()
const rules = useRulesStore()
defineEmits<{ go: [line: number, offset: number] }>()

const SHOWN = 4
/** Told apart by what they say and the how manieth of it: places move with every key that is typed above them. */
const notes = computed(() => {
  const said = new Map<string, number>()
  return bench.diagnostics.slice(0, SHOWN).map((d) => {
    const nth = (said.get(d.code) ?? 0) + 1
    said.set(d.code, nth)
    return { ...d, key: `${d.code} ${nth}`, line: rules.lineOf(d.range.from) }
  })
})
const more = computed(() => Math.max(0, bench.diagnostics.length - SHOWN))
</script>

<template>
  <ul v-if="notes.length > 0" class="notes" aria-label="What the checker says">
    <CheckerNote
      v-for="note in notes" :key="note.key" :severity="note.severity" :line="note.line" :from="note.range.from" :message="note.message" :code="note.code"
      :title="note.fix?.title ?? null" :at="note.fix?.from ?? 0" :end="note.fix?.to ?? 0" :text="note.fix?.text ?? ''" @go="(line, from) => $emit('go', line, from)"
    />
    <li v-if="more > 0" class="small more">and {{ more }} more</li>
  </ul>
</template>

<style scoped>
.notes { list-style: none; margin: 0; padding: 4px 0; border-top: 1px solid var(--line); background: var(--ground); flex: none; max-height: 150px; overflow: auto; }
.more { padding: 2px 12px 2px 52px; }
</style>
