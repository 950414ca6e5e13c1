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
    <ul>
      <li v-for="b in BARE_ROBOTS" :key="b.label"><button type="button" class="name" :data-take="b.label" @click="take(b.robot)">{{ b.label }}</button></li>
      <li v-for="k in shelf.robots.kept" :key="k.id">
        <button type="button" class="name" :data-take="robotName(k.robot)" @click="take(k.robot)"><b>{{ robotName(k.robot) }}</b><span v-if="JSON.stringify(k.robot) === here" class="small"> ● here</span></button>
        <button type="button" class="act" :aria-label="`Duplicate ${robotName(k.robot)}`" title="Duplicate" @click="shelf.keep(renamedCopy(k.robot, names))">copy</button>
        <button type="button" class="act" :aria-label="`Delete ${robotName(k.robot)}`" title="Delete; no project loses its copy" @click="shelf.remove(k.id)">✕</button>
      </li>
      <li v-for="u in others" :key="u.document"><button type="button" class="name" @click="takeUsed(u.document)">{{ u.name }}<span class="small"> in {{ u.project }}</span></button></li>
    </ul>
    <p v-if="shelf.deleted !== null" class="told" role="status">{{ shelf.deleted.name }} is deleted. <button type="button" @click="shelf.undo()">Undo</button></p>
    <p v-if="shelf.trouble !== null" class="trouble" role="alert">{{ shelf.trouble }}</p>
    <button type="button" class="keep" :disabled="store.robot === null || store.problems.length > 0 || isKept" title="Puts a copy of this robot among the robots" @click="keep">Keep this robot</button>
  </section>
</template>

<style scoped>
.shelf { border-top: 1px solid var(--line); padding-bottom: 14px; }
h2 { font-size: 13.5px; padding: 8px 12px 0; }
p { margin: 0; padding: 0 12px 4px; }
ul { list-style: none; margin: 0; padding: 0; }
li { display: flex; align-items: center; }
.name { flex: 1; text-align: left; padding: 3px 12px; color: var(--ink); min-width: 0; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.name:hover { text-decoration: underline; }
.act { color: var(--muted); padding: 3px 7px; font-size: 12px; }
.act:hover { color: var(--ink); }
.told { background: var(--field); padding: 4px 12px; }
.told button { font-weight: 700; color: var(--signal); }
.trouble { color: var(--error); }
.keep { margin: 6px 12px 0; border: 1px solid var(--line); border-radius: 4px; padding: 3px 8px; font-weight: 600; color: var(--ink); }
.keep:disabled { opacity: 0.5; }
</style>
