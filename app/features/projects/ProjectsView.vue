<script setup lang="ts">
import { nextTick, onMounted, ref } from 'vue'
import { useAppTheme } from '~/composables/useAppTheme'
import { useKeys } from '~/composables/useKeys'
import { useProjectsStore } from './projects'
import type { ListedProject } from '~/utils/api'

/** All projects: open, new, duplicate, rename, delete. */
const projects = useProjectsStore()
const { dark, toggle } = useAppTheme()
const renaming = ref<string | null>(null)
const name = ref('')

onMounted(() => projects.load())

async function create(): Promise<void> {
  const id = await projects.create()
  if (id !== null) await navigateTo(`/projects/${id}`)
}
async function beginRename(id: string, title: string): Promise<void> {
  renaming.value = id
  name.value = title
  await nextTick()
  document.querySelector<HTMLInputElement>('.card input')?.select()
}
async function endRename(keep: boolean): Promise<void> {
  const id = renaming.value
  renaming.value = null
  if (keep && id !== null && name.value.trim() !== '') await projects.rename(id, name.value.trim())
}
function when(iso: string): string {
  return new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeStyle: 'short' }).format(new Date(iso))
}
function about(project: ListedProject): string {
  return project.broken ? '✕ one of its documents is damaged: it cannot be opened' : `${project.robotName} · ${project.arenaName.replaceAll('_', ' ')}`
}

useKeys({
  n: () => void create(),
  'ctrl+z': () => void projects.undo(),
})
</script>

<template>
  <div class="page">
    <header class="bar">
      <b>Mindpath</b>
      <span class="says">a robot’s mind is a path from what it senses, through one decision at a time, to what it does</span>
      <button type="button" class="quiet" :aria-label="dark ? 'Light theme' : 'Dark theme'" @click="toggle">{{ dark ? '☀' : '☾' }}</button>
    </header>
    <main class="main">
      <div class="top">
        <h1>Projects</h1>
        <div v-if="projects.deleted !== null" class="undo" role="status">
          “{{ projects.deleted.title }}” is deleted. <button type="button" @click="projects.undo()">Undo<span class="key">Ctrl Z</span></button>
        </div>
        <p v-if="projects.trouble !== null" class="trouble" role="alert">{{ projects.trouble }}</p>
        <v-btn color="primary" variant="flat" @click="create">New project<span class="key">N</span></v-btn>
      </div>
      <ul class="list">
        <li v-for="project in projects.list" :key="project.id" class="card" :data-project="project.title">
          <NuxtLink :to="`/projects/${project.id}`" class="picture" :aria-label="`Open ${project.title}`">
            <ArenaPicture :document="project.arena" />
          </NuxtLink>
          <div class="about">
            <input
              v-if="renaming === project.id" v-model="name" maxlength="80" aria-label="New title"
              @keydown.enter="endRename(true)" @keydown.esc="endRename(false)" @blur="endRename(true)"
            >
            <NuxtLink v-else :to="`/projects/${project.id}`" class="title">{{ project.title }}</NuxtLink>
            <div class="small">{{ about(project) }}</div>
            <div class="small">changed {{ when(project.changedAt) }}</div>
            <div class="does">
              <button type="button" @click="beginRename(project.id, project.title)">Rename</button>
              <button type="button" @click="projects.duplicate(project.id)">Duplicate</button>
              <button type="button" @click="projects.remove(project.id)">Delete</button>
            </div>
          </div>
        </li>
      </ul>
      <p v-if="projects.loaded && projects.trouble === null && projects.list.length === 0" class="none">No project yet. A new one begins with an empty program, a rover and a quay.</p>
    </main>
  </div>
</template>

<style scoped>
.page { min-height: 100vh; background: var(--paper); }
.bar { display: flex; align-items: center; gap: 16px; height: var(--bar-height); padding: 0 20px; background: var(--bar); color: var(--on-bar); }
.says { flex: 1; font-size: 12.5px; opacity: 0.8; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.quiet { padding: 4px 10px; }
.main { max-width: 1160px; margin: 0 auto; padding: 22px 20px 60px; }
.top { display: flex; align-items: center; gap: 18px; margin-bottom: 16px; }
.top h1 { font-size: 22px; margin: 0; flex: 1; }
.undo { background: var(--field); border-radius: 5px; padding: 6px 12px; }
.undo button { font-weight: 700; color: var(--signal); }
.trouble { color: var(--error); margin: 0; }
.list { list-style: none; padding: 0; margin: 0; display: grid; grid-template-columns: repeat(auto-fill, minmax(270px, 1fr)); gap: 16px; }
.card { background: var(--panel); border: 1px solid var(--line); border-radius: 6px; overflow: hidden; }
.card:hover, .card:focus-within { border-color: var(--muted); }
.picture { display: block; height: 168px; border-bottom: 1px solid var(--line); }
.about { padding: 10px 13px 9px; }
.title { font-weight: 700; font-size: 15px; color: var(--ink); text-decoration: none; }
.title:hover { text-decoration: underline; }
.about input { font-weight: 700; font-size: 15px; border: 1px solid var(--line); border-radius: 3px; padding: 1px 5px; width: 100%; }
.does { display: flex; gap: 14px; margin-top: 8px; }
.does button { color: var(--muted); font-weight: 600; }
.does button:hover { color: var(--ink); text-decoration: underline; }
.none { color: var(--muted); }
</style>
