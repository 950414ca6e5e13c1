<script setup lang="ts">
import { useProjectStore } from './project'

/** What a view of a project shows while it has none: that it is on its way, or why it cannot be opened. */
defineProps<{ what: string }>()
const emit = defineEmits<{ again: [] }>()
const project = useProjectStore()
</script>

<template>
  <main class="gate">
    <NoAnswer v-if="project.missing" :title="project.away ? 'The server does not answer' : 'This project cannot be opened'" :why="project.trouble" :again="project.away" @again="emit('again')">
      <p><NuxtLink to="/">All projects</NuxtLink></p>
    </NoAnswer>
    <template v-else>
      <h1 class="visually-hidden">Mindpath</h1>
      <p role="status">◌ opening {{ what }}</p>
      <div class="ghost" aria-hidden="true"><v-skeleton-loader v-for="i in 3" :key="i" type="heading, paragraph, image" /></div>
    </template>
  </main>
</template>

<style scoped>
.gate { padding: 30px 40px; }
.gate [role=status] { color: var(--muted); }
.ghost { display: grid; grid-template-columns: 1fr 2.4fr 2.6fr; gap: 20px; }
</style>
