<script setup lang="ts">
import type { markOf } from './answers'

/** Which line and sign is which. */
defineProps<{ marks: readonly { readonly title: string, readonly mark: ReturnType<typeof markOf> }[] }>()
const SIGNS: Readonly<Record<ReturnType<typeof markOf>['point'], string>> = { circle: '●', rect: '■', triangle: '▲', rectRot: '◆', crossRot: '✕', star: '✶' }
</script>

<template>
  <ul class="legend">
    <li v-for="m in marks" :key="m.title"><svg width="28" height="10" aria-hidden="true"><line x1="0" y1="5" x2="28" y2="5" :stroke="`rgb(var(--v-theme-${m.mark.color}))`" stroke-width="2" :stroke-dasharray="m.mark.dash.join(' ')" /></svg><span :style="{ color: `rgb(var(--v-theme-${m.mark.color}))` }">{{ SIGNS[m.mark.point] }}</span> {{ m.title }}</li>
  </ul>
</template>

<style scoped>
.legend { display: flex; flex-wrap: wrap; gap: 2px 14px; list-style: none; margin: 0; padding: 0; font-size: 12.5px; }
.legend li { display: flex; gap: 5px; align-items: center; }
</style>
