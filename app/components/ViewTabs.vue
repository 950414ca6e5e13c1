<script setup lang="ts">
/** The views of one project. */
defineProps<{ project: string, view: 'bench' | 'robot' | 'arena' | 'runs' | 'trials' | 'hardware' }>()
</script>

<template>
  <nav class="tabs" aria-label="Views of the project">
    <NuxtLink :to="`/projects/${project}`" :aria-current="view === 'bench' ? 'page' : undefined">Bench</NuxtLink>
    <NuxtLink :to="`/projects/${project}/robot`" :aria-current="view === 'robot' ? 'page' : undefined">Robot</NuxtLink>
    <NuxtLink :to="`/projects/${project}/arena`" :aria-current="view === 'arena' ? 'page' : undefined">Arena</NuxtLink>
    <NuxtLink :to="`/projects/${project}/runs`" :aria-current="view === 'runs' ? 'page' : undefined">Runs</NuxtLink>
    <NuxtLink :to="`/projects/${project}/trials`" :aria-current="view === 'trials' ? 'page' : undefined">Trials</NuxtLink>
    <NuxtLink :to="`/projects/${project}/hardware`" :aria-current="view === 'hardware' ? 'page' : undefined">Hardware</NuxtLink>
  </nav>
</template>

<style scoped>
.tabs { display: flex; gap: 2px; }
.tabs a { color: inherit; text-decoration: none; padding: 5px 10px; border-radius: 5px; font-weight: 600; opacity: 0.85; }
.tabs a[aria-current=page] { background: var(--bar-field); opacity: 1; }
</style>
