<script setup lang="ts">
import type { Estimate } from '~~/core/statistics'

/** A share from nothing to all: what it is, and between what it lies for sure. */
const { share, said } = defineProps<{ share: Estimate, said: string }>()
</script>

<template>
  <div class="share" role="img" :aria-label="said"><span class="sure" :style="{ left: `${100 * share.low}%`, width: `${100 * (share.high - share.low)}%` }" /><span class="value" :style="{ left: `${100 * share.value}%` }" /></div>
</template>

<style scoped>
.share { position: relative; height: 12px; background: var(--field); border: 1px solid var(--line); border-radius: 2px; }
.sure { position: absolute; inset-block: 2px; background: var(--line); border-inline: 2px solid var(--muted); min-width: 3px; }
.value { position: absolute; inset-block: -3px; width: 4px; margin-left: -2px; background: var(--ink); }
</style>
