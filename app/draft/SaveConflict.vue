<script setup lang="ts">
import { diffLines } from 'diff'
import { computed } from 'vue'
import { robotName } from '~/features/robot/shelf'
import { useProjectStore } from './project'

/** Two texts of one program, when another tab or window saved first: both are shown, and one is asked for. */
const project = useProjectStore()

/** Both texts line by line, what is only in one marked. */
const sides = computed(() => {
  const mine: { text: string, own: boolean }[] = []
  const other: { text: string, own: boolean }[] = []
  const lines = (value: string): string[] => value.replace(/\n$/, '').split('\n')
  for (const part of diffLines(project.theirs?.program ?? '', project.program)) {
    for (const text of lines(part.value)) {
      if (!part.removed) mine.push({ text, own: part.added })
      if (!part.added) other.push({ text, own: part.removed })
    }
  }
  return [
    { title: 'What I wrote here', lines: mine, take: () => project.keepMine(), key: 'mine' },
    { title: 'What the other saved', lines: other, take: () => project.takeTheirs(), key: 'theirs' },
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
        <pre tabindex="0" :aria-label="side.title"><span v-for="(line, i) in side.lines" :key="i" :class="{ own: line.own }">{{ line.own ? '▸' : ' ' }} {{ line.text }}</span></pre>
      </div>
    </div>
  </section>
</template>

<style scoped>
.conflict { background: var(--signal-tint); padding: 7px 14px 10px; border-bottom: 1px solid var(--signal); }
.sides { display: grid; grid-template-columns: 1fr 1fr; gap: 14px; margin-top: 6px; }
pre { font-family: var(--mono); font-size: 12.5px; line-height: 1.4; background: var(--panel); border: 1px solid var(--line); border-radius: 4px; margin: 6px 0 0; padding: 6px 10px; max-height: 30vh; overflow: auto; }
pre span { display: block; min-height: 1.4em; }
.own { font-weight: 700; background: var(--field); }
</style>
