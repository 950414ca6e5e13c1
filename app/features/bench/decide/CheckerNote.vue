<script setup lang="ts">
import { ref, watch } from 'vue'
import type { Severity } from '~~/core/language'
import { useRulesStore } from '~/features/rules/rules'

/** A sentence of the checker, with its page and its mend. By plain values: it is drawn anew only where it says something else. */
const props = defineProps<{
  severity: Severity
  line: number
  from: number
  message: string
  code: string
  /** What would mend it, null where nothing does: text in place of what stands from `at` up to `end`. */
  title: string | null
  at: number
  end: number
  text: string
}>()
defineEmits<{ go: [line: number, offset: number] }>()
const rules = useRulesStore()
const SIGNS = { error: '✕', warning: '△', hint: '·' } as const
/** Whether it ever had a mend: the button for it stays. */
const mends = ref(false)
watch(() => props.title !== null, (is) => { if (is) mends.value = true }, { immediate: true })
const mend = (): void => rules.mend({ title: props.title ?? '', from: props.at, to: props.end, text: props.text })
</script>

<template>
  <li :class="severity">
    <v-list-item class="said" tag="button" @click="$emit('go', line, from)">
      <span class="sign">{{ SIGNS[severity] }}</span><span class="mono line">{{ line }}</span><span>{{ message }}</span>
    </v-list-item>
    <v-btn v-if="mends" v-show="title !== null" class="fix" size="small" @click="mend">{{ title }}</v-btn>
    <PageButton page="checker" :word="code" :about="code" />
  </li>
</template>

<style scoped>
li:not([hidden]) { display: flex; align-items: flex-start; }
.fix { margin: 2px 0; }
.said { flex: 1; text-align: left; color: var(--ink); background: none; }
.said :deep(.v-list-item__content) { display: flex; gap: 8px; }
.sign { width: 12px; flex: none; }
.line { min-width: 20px; text-align: right; color: var(--muted); flex: none; }
.error .sign { color: var(--error); }
.warning .sign { color: var(--warning); }
</style>
