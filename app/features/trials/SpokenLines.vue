<script setup lang="ts">
/** What the trials say, a sentence a line. */
const { lines } = defineProps<{ lines: readonly string[] }>()
</script>

<template>
  <p v-for="(line, i) in lines" :key="i" class="line">{{ line }}.</p>
</template>

<style scoped>
.line { margin: 0; padding: 7px 12px; background: var(--panel); border-left: 3px solid var(--ink); line-height: 1.4; }
</style>
