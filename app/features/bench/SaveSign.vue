<script setup lang="ts">
import { useProjectStore } from '~/draft/project'

/** How the project stands with saving: a sign, and words where there is room for them. */
const project = useProjectStore()
</script>

<template>
  <span class="save" :class="[project.state, { long: project.trouble !== null }]" role="status" :title="project.words">{{ project.words.slice(0, 1) }}<span class="words">{{ project.words.slice(1) }}</span></span>
</template>
