<script setup lang="ts">
/** A part of the Hardware view's left side, under its title. */
defineProps<{ title: string, label?: string }>()
</script>

<template>
  <section class="part" :aria-label="label ?? title">
    <h2>{{ title }}</h2>
    <slot />
  </section>
</template>

<style scoped>
.part { padding: 8px 12px 10px; border-bottom: 1px solid var(--line); }
h2 { font-size: 13.5px; margin: 0 0 4px; }
:slotted(.about) { margin: 5px 0 0; font-size: 13px; line-height: 1.35; }
:slotted(.do) { display: flex; flex-wrap: wrap; gap: 6px; padding: 7px 0 2px; }
:slotted(.line) { display: flex; gap: 6px; align-items: center; margin-top: 6px; }
/* How it stands, with its sign. */
:slotted(.state) { margin: 6px 0 4px; font-size: 13px; font-weight: 600; line-height: 1.35; overflow-wrap: anywhere; }
:slotted(.bad) { color: var(--error); }
</style>
