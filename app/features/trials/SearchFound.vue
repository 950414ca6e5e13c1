<script setup lang="ts">
import { ref, watch } from 'vue'
import { useProjectStore } from '~/draft/project'
import type { SearchSaid } from './answers'
import { useTrialsStore } from './trials'

/** What a search came to, and what can be done with it; while it is under way, where it is. */
const { search, opening } = defineProps<{ search: SearchSaid, opening: number | null }>()
const emit = defineEmits<{ look: [number: number, at: number] }>()
const trials = useTrialsStore()
const project = useProjectStore()

/** What was done with it last, in words; '' for nothing. */
const done = ref('')
watch(() => trials.chosen, () => { done.value = '' })
async function keepArena(): Promise<void> {
  const name = await trials.keepArena()
  if (name !== null) done.value = `Kept among the arenas as ${name}.`
}
function addCase(): void {
  trials.addCase()
  done.value = 'Known to be hard: it is in the plan at the left, and tried with every later one.'
}
</script>

<template>
  <div>
    <SpokenLines :lines="search.said" />
    <p v-if="search.said.length === 0" class="small" role="status">◌ {{ search.told.at(-1) ?? 'it looks around' }}</p>
    <div v-if="search.values !== null" class="do"><v-btn @click="trials.useValues(search.values)">{{ search.better ? 'use these values' : 'use them all the same' }}</v-btn></div>
    <div v-if="search.fails !== null" class="do">
      <v-btn :disabled="opening !== null" @click="emit('look', search.fails.number, search.fails.at)">{{ opening === search.fails.number ? '◌ running it…' : 'look at it' }}</v-btn>
      <v-btn title="A copy of the arena in which it fails, among the kept ones" @click="keepArena()">keep as an arena</v-btn>
      <v-btn title="Every later plan tries it too, and tells of it by itself" @click="addCase()">try it with every plan</v-btn>
    </div>
    <p v-if="search.fails !== null && search.fails.besides !== ''" class="small">No arena can say how the robot is made: kept as one, it lacks {{ search.fails.besides }}.</p>
    <p v-if="done !== ''" class="small" role="status">{{ done }}</p>
    <p v-if="trials.used !== null" class="small" role="status">{{ trials.used }} <NuxtLink :to="`/projects/${project.data?.id}`">to the Bench</NuxtLink></p>
    <article v-for="one in search.judged" :key="one.name" class="one">
      <h2>{{ one.name }}</h2>
      <ShareBar :share="one.share" :said="one.said" />
      <p>{{ one.said }}</p>
    </article>
    <ol v-if="search.said.length > 0 && search.told.length > 0" class="small told" aria-label="How it was found"><li v-for="(line, i) in search.told" :key="i">{{ line }}</li></ol>
  </div>
</template>

<style scoped>
.do { display: flex; flex-wrap: wrap; gap: 8px; }
.one { background: var(--panel); border: 1px solid var(--line); border-radius: 4px; padding: 8px 12px 10px; }
.one p { margin: 6px 0 0; line-height: 1.4; }
h2 { font-size: 14px; margin: 0 0 6px; }
.told { margin: 4px 0 0; padding-left: 22px; line-height: 1.6; }
</style>
