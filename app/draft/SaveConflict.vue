<script setup lang="ts">
import { computed } from 'vue'
import { sidesOf } from './differences'
import { robotName } from '~/features/robot/shelf'
import { useProjectStore } from './project'

/** Two texts of one program, when another tab or window saved first: both are shown, and one is asked for. */
const project = useProjectStore()

const sides = computed(() => {
  const { before, after } = sidesOf(project.theirs?.program ?? '', project.program)
  return [
    { title: 'What I wrote here', lines: after, take: () => project.keepMine(), key: 'mine' },
    { title: 'What the other saved', lines: before, take: () => project.takeTheirs(), key: 'theirs' },
  ]
})
const robotDiffers = computed(() => project.theirs !== null && JSON.stringify(project.theirs.robot) !== JSON.stringify(project.data?.robot))
</script>

<template>
  <section v-if="project.state === 'conflict'" class="conflict" role="alert" aria-label="Two texts">
    <p>
      <b>This project was changed in another tab or window.</b> Nothing is lost: both are kept as revisions. Which goes on?
      <template v-if="robotDiffers"> The robots differ too: {{ robotName(project.data?.robot) }} here, {{ robotName(project.theirs?.robot) }} there.</template>
    </p>
    <div class="sides">
      <div v-for="side in sides" :key="side.key" class="side" :data-side="side.key">
        <v-btn variant="flat" color="primary" size="small" @click="side.take()">{{ side.title }}</v-btn>
        <DiffText class="text" :lines="side.lines" :label="side.title" />
      </div>
    </div>
  </section>
</template>

<style scoped>
.conflict { background: var(--signal-tint); padding: 7px 14px 10px; border-bottom: 1px solid var(--signal); }
.sides { display: grid; grid-template-columns: 1fr 1fr; gap: 14px; margin-top: 6px; }
.text { max-height: 30vh; }
</style>
