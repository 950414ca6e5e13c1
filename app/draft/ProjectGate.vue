<script setup lang="ts">
import { useProjectStore } from './project'

/** What a view of a project shows while it has none: that it is on its way, or why it cannot be opened. */
defineProps<{ what: string }>()
const project = useProjectStore()
</script>

<template>
  <main class="gate">
    <template v-if="project.missing">
      <h1>This project cannot be opened</h1>
      <p>{{ project.trouble }}</p>
      <NuxtLink to="/">All projects</NuxtLink>
    </template>
    <p v-else role="status">◌ opening {{ what }}</p>
  </main>
</template>

<style scoped>
.gate { padding: 60px; }
.gate [role=status] { color: var(--muted); }
</style>
