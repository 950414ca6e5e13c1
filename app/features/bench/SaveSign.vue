<script setup lang="ts">
import { useProjectStore } from '~/draft/project'

/** How the project stands with saving. */
const project = useProjectStore()
</script>

<template>
  <span class="save" :class="project.state" role="status" :title="project.words">{{ project.words }}</span>
</template>
