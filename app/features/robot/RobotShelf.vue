<script setup lang="ts">
import { computed, onMounted } from 'vue'
import { useRobotStore } from './robot'
import { BARE_ROBOTS, renamedCopy, robotName, useShelfStore } from './shelf'

/** Robots to take into this project, each as a copy; kept, duplicated and deleted here. */
const store = useRobotStore()
const shelf = useShelfStore()
onMounted(() => shelf.load())

const here = computed(() => JSON.stringify(store.draft))
const names = computed(() => new Set(shelf.robots.kept.map(k => robotName(k.robot))))
/** Those of other projects that are not among the kept ones. */
const others = computed(() => shelf.robots.used.filter(u => !shelf.robots.kept.some(k => k.document === u.document)))
const isKept = computed(() => shelf.robots.kept.some(k => JSON.stringify(k.robot) === here.value))

function take(robot: unknown): void { store.replace(JSON.parse(JSON.stringify(robot))) }
async function takeUsed(document: string): Promise<void> {
  const robot = await shelf.fetch(document)
  if (robot !== null) take(robot)
}
function keep(): void { void shelf.keep(renamedCopy(store.draft, names.value)) }
</script>

<template>
  <section class="shelf" aria-label="Robots">
    <h2>Robots</h2>
    <p class="small">Taking one puts a copy here; undo brings this one back.</p>
    <v-list aria-label="Robots to take">
      <v-list-item v-for="b in BARE_ROBOTS" :key="b.label" :title="b.label" :data-take="b.label" @click="take(b.robot)" />
      <v-list-item v-for="k in shelf.robots.kept" :key="k.id" :data-take="robotName(k.robot)" @click="take(k.robot)">
        <b>{{ robotName(k.robot) }}</b><span v-if="JSON.stringify(k.robot) === here" class="small"> ● here</span>
        <template #append>
          <v-btn size="x-small" variant="text" :aria-label="`copy ${robotName(k.robot)}`" @click.stop="shelf.keep(renamedCopy(k.robot, names))">copy</v-btn>
          <v-btn size="x-small" variant="text" :aria-label="`Delete ${robotName(k.robot)}`" title="Delete; no project loses its copy" @click.stop="shelf.remove(k.id)">✕</v-btn>
        </template>
      </v-list-item>
      <v-list-item v-for="u in others" :key="u.document" @click="takeUsed(u.document)">{{ u.name }}<span class="small"> in {{ u.project }}</span></v-list-item>
    </v-list>
    <p v-if="shelf.deleted !== null" class="told" role="status">{{ shelf.deleted.name }} is deleted. <v-btn size="small" @click="shelf.undo()">Undo</v-btn></p>
    <p v-if="shelf.trouble !== null" class="trouble" role="alert">{{ shelf.trouble }}</p>
    <v-btn size="small" class="keep" :disabled="store.robot === null || store.problems.length > 0 || isKept" title="Puts a copy of this robot among the robots" @click="keep">Keep this robot</v-btn>
  </section>
</template>

<style scoped>
.shelf { border-top: 1px solid var(--line); padding-bottom: 14px; }
h2 { font-size: 13.5px; padding: 8px 12px 0; }
p { margin: 0; padding: 0 12px 4px; }
.told { background: var(--field); padding: 4px 12px; }
.trouble { color: var(--error); }
.keep { margin: 6px 12px 0; }
</style>
