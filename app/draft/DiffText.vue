<script setup lang="ts">
import type { DiffLine } from './differences'

/** One of two texts, the lines that are only in it marked. */
defineProps<{ lines: readonly DiffLine[], label: string }>()
</script>

<template>
  <pre tabindex="0" role="region" :aria-label="label"><span v-for="(line, i) in lines" :key="i" :class="{ own: line.own }">{{ line.own ? '▸' : ' ' }} {{ line.text }}</span></pre>
</template>

<style scoped>
pre { font-family: var(--mono); font-size: 12.5px; line-height: 1.4; background: var(--panel); border: 1px solid var(--line); border-radius: 4px; margin: 6px 0 0; padding: 6px 10px; overflow: auto; }
span { display: block; min-height: 1.4em; }
.own { font-weight: 700; background: var(--field); }
</style>
