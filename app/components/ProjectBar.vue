<script setup lang="ts">
import { useProjectStore } from '~/draft/project'

/** The bar of a view of a project: back to all projects, the title, the views; then what the view says of itself, and at the right what it does. */
defineProps<{ view: 'robot' | 'arena' | 'runs' | 'trials' | 'hardware' }>()
const project = useProjectStore()
</script>

<template>
  <v-toolbar class="bar" :class="view">
    <NuxtLink to="/" class="home" title="All projects"><span aria-hidden="true">‹</span><span class="visually-hidden">All projects</span></NuxtLink>
    <b class="title">{{ project.data?.title }}</b>
    <ViewTabs :project="project.data!.id" :view="view" />
    <slot name="says" />
    <span class="gap" />
    <slot />
    <ThemeButton />
  </v-toolbar>
</template>

<style scoped>
.title { overflow: hidden; text-overflow: ellipsis; }
.home { color: inherit; text-decoration: none; font-size: 22px; padding: 0 8px 3px 4px; }
.gap { flex: 1; }
@media (max-width: 1300px) {
  .bar :deep(.tabs a) { padding-inline: 7px; }
  /* The arena has the most to do: its tips and the sheet of keys tell the keys. */
  .bar.arena :deep(.key) { display: none; }
}
</style>
