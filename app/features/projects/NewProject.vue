<script setup lang="ts">
import { computed, nextTick, onMounted, ref, shallowRef, useTemplateRef } from 'vue'
import type { OfferedDocument, Offers } from '~/utils/api'
import { useProjectsStore } from './projects'

/** What a new project begins with: robot, arena and task of those that there are. What was used last is chosen; Enter takes it. */
const projects = useProjectsStore()
const emit = defineEmits<{ close: [] }>()
const offers = shallowRef<Offers | null>(null)
const title = ref('')
const robot = ref('')
const arena = ref('')
/** '' for no task. */
const task = ref('')
const making = ref(false)
const create = useTemplateRef<{ $el: HTMLElement }>('create')

const named = (list: readonly OfferedDocument[], id: string): OfferedDocument | undefined => list.find(d => d.document === id)
const words = (name: string): string => name.replaceAll('_', ' ')
/** Tasks that are set in the arena that is chosen. */
const tasks = computed(() => offers.value?.tasks.filter(t => t.arena === arena.value) ?? [])
const says = computed(() => named(tasks.value, task.value)?.about ?? 'Nothing is asked: the robot is yours to play with.')

onMounted(async () => {
  offers.value = await projects.offers()
  if (offers.value === null) { emit('close'); return }
  robot.value = offers.value.robots[0]?.document ?? ''
  arena.value = offers.value.arenas[0]?.document ?? ''
  task.value = ''
  await nextTick()
  create.value?.$el.focus()
})
function choose(id: string): void {
  arena.value = id
  if (!tasks.value.some(t => t.document === task.value)) task.value = ''
}
async function make(): Promise<void> {
  if (making.value) return
  making.value = true
  const id = await projects.create(title.value.trim() === '' ? 'New project' : title.value.trim(), robot.value === '' || arena.value === '' ? undefined : { robot: robot.value, arena: arena.value, task: task.value === '' ? null : task.value })
  making.value = false
  if (id !== null) await navigateTo(`/projects/${id}`)
}
</script>

<template>
  <section class="new" aria-label="A new project" @keydown.esc.stop="emit('close')">
    <template v-if="offers !== null && offers.robots.length > 0 && offers.arenas.length > 0">
      <div class="row">
        <h2>Robot</h2>
        <v-btn-toggle v-model="robot" mandatory class="choices" aria-label="Robot">
          <v-btn v-for="r in offers.robots" :key="r.document" :value="r.document" class="choice" :title="r.about" :data-robot="r.name">
            <RobotPicture class="small-picture" :document="r.document" /><span class="name">{{ words(r.name) }}</span>
          </v-btn>
        </v-btn-toggle>
      </div>
      <div class="row">
        <h2>Arena</h2>
        <v-btn-toggle :model-value="arena" mandatory class="choices" aria-label="Arena" @update:model-value="choose($event)">
          <v-btn v-for="a in offers.arenas" :key="a.document" :value="a.document" class="choice" :title="a.about" :data-arena="a.name">
            <ArenaPicture class="small-picture" :document="a.document" /><span class="name">{{ words(a.name) }}</span>
          </v-btn>
        </v-btn-toggle>
      </div>
      <div class="row task">
        <h2>Task</h2>
        <v-btn-toggle v-model="task" mandatory aria-label="Task">
          <v-btn value="">no task</v-btn>
          <v-btn v-for="t in tasks" :key="t.document" :value="t.document" :data-task="t.name">{{ t.name }}</v-btn>
        </v-btn-toggle>
        <span class="small says">{{ says }}</span>
      </div>
      <div class="row end">
        <v-text-field v-model="title" class="title" maxlength="80" placeholder="New project" aria-label="Its name" @keydown.enter="make" />
        <v-btn @click="emit('close')">Not now</v-btn>
        <KeyButton ref="create" color="primary" variant="flat" keys="Enter" :loading="making" data-create @click="make">Create</KeyButton>
      </div>
    </template>
    <p v-else-if="offers === null" role="status">◌ looking what there is</p>
    <template v-else>
      <p>There is no {{ offers.robots.length === 0 ? 'robot' : 'arena' }} to begin with. A plain rover before a fender is.</p>
      <div class="row end"><span /><v-btn @click="emit('close')">Not now</v-btn><v-btn ref="create" color="primary" variant="flat" :loading="making" data-create @click="make">Take it</v-btn></div>
    </template>
  </section>
</template>

<style scoped>
.new { background: var(--panel); border: 1px solid var(--line); border-radius: 6px; padding: 12px 14px; margin-bottom: 18px; display: flex; flex-direction: column; gap: 10px; }
.row { display: grid; grid-template-columns: 62px minmax(0, 1fr); gap: 10px; align-items: start; }
.row h2 { font-size: 13.5px; margin: 4px 0 0; }
.new .choices { display: flex; overflow-x: auto; gap: 8px; padding: 2px; justify-content: flex-start; }
.new .choices .choice { flex: none; width: 118px; height: 112px; padding: 4px; border: 1px solid var(--line); }
.new .choices .choice.v-btn--active { border-color: var(--signal); box-shadow: inset 0 0 0 1px var(--signal); }
.choice :deep(.v-btn__content) { display: block; width: 100%; }
.small-picture { width: 100%; height: 80px; border-radius: 3px; pointer-events: none; }
.name { display: block; padding-top: 5px; font-size: 12.5px; overflow: hidden; text-overflow: ellipsis; }
.task { grid-template-columns: 62px auto minmax(0, 1fr); align-items: center; }
.task h2 { margin: 0; }
.end { grid-template-columns: 1fr auto auto; align-items: center; }
.title { max-width: 320px; margin-left: 72px; }
</style>
