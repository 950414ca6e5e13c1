<script setup lang="ts">
import { useIntersectionObserver } from '@vueuse/core'
import { prepareRunner } from '~/run/runner'
import { useDroppedFile, usePickedFile } from '~/composables/useFiles'
import { computed, nextTick, onMounted, ref, useTemplateRef } from 'vue'
import { fileName, saveAs } from '~/utils/files'
import { useKept } from '~/composables/useKept'
import { useKeys } from '~/composables/useKeys'
import { GUIDE } from '~/features/guide/steps'
import { useProjectsStore } from './projects'
import type { ListedProject } from '~/utils/api'

/** All projects: open, new, duplicate, rename, delete. */
const projects = useProjectsStore()
/** Cards that are made at once: each costs some ten milliseconds, so that a long list comes piece by piece, as one goes down it. */
const PAGE = 48
const room = ref(PAGE)
const further = useTemplateRef<HTMLElement>('further')
useIntersectionObserver(further, (entries) => { if (entries.some(e => e.isIntersecting)) room.value += PAGE }, { rootMargin: '400px' })
const wanted = ref('')
const order = useKept<'changed' | 'title'>('projects.order', 'changed')
const finder = useTemplateRef<{ focus(): void }>('finder')
/** Whether what a new project begins with is being chosen: that is loaded when first asked for. */
const choosing = ref(false)
const found = computed(() => {
  const words = wanted.value.toLowerCase().split(/\s+/).filter(w => w !== '')
  const all = projects.list.filter((p) => { const about = `${p.title} ${p.robotName} ${p.arenaName.replaceAll('_', ' ')}`.toLowerCase(); return words.every(w => about.includes(w)) })
  return order.value === 'title' ? [...all].sort((a, b) => a.title.localeCompare(b.title, undefined, { numeric: true })) : all
})
const shown = computed(() => found.value.slice(0, room.value))
const more = computed(() => found.value.length - shown.value.length)
const renaming = ref<string | null>(null)
const name = ref('')

onMounted(() => projects.load())

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
const DATES = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeStyle: 'short' })
const when = (iso: string): string => DATES.format(new Date(iso))
function about(project: ListedProject): string {
  return project.broken ? '✕ one of its documents is damaged: it cannot be opened' : `${project.robotName} · ${project.arenaName.replaceAll('_', ' ')}`
}

/** The guide is offered until somebody took it or put it away. */
const offered = useKept('guide.offered', true)
const guideOpen = useKept('guide.open', false)
async function beginGuide(): Promise<void> {
  offered.value = false
  guideOpen.value = true
  const first = projects.list.find(p => p.title === GUIDE[0]!.demo) ?? projects.list[0]!
  await navigateTo(`/projects/${first.id}`)
}

/** A whole project to a zip, and from one. */
async function hand(id: string): Promise<void> {
  const packed = await projects.packed(id)
  if (packed !== null) saveAs(`${fileName(packed.title, 'project')}.zip`, packed.bytes, 'application/zip')
}
async function take(file: File): Promise<void> {
  const id = await projects.receive(file)
  if (id !== null) await navigateTo(`/projects/${id}`)
}
const openFile = usePickedFile('.zip', file => void take(file))
useDroppedFile(file => void take(file))

useKeys('Projects', {
  'o': { says: 'open a project from a file', act: openFile },
  'n': { says: 'a new project', act: () => { choosing.value = !choosing.value } },
  '/': { says: 'find', act: () => finder.value?.focus() },
  'ctrl+z': { says: 'take back what was deleted', act: () => void projects.undo() },
})
/** The Bench's code, as soon as somebody goes to a project: it is there when the click comes. */
function loadBench(): void {
  const [first] = projects.list
  if (first === undefined) return
  prepareRunner()
  void preloadRouteComponents(`/projects/${first.id}`)
}
</script>

<template>
  <div class="page">
    <v-toolbar>
      <b>Mindpath</b>
      <span class="says">a robot’s mind is a path from what it senses, through one decision at a time, to what it does</span>
      <ThemeButton />
    </v-toolbar>
    <main class="main">
      <div class="top">
        <h1>Projects</h1>
        <div v-if="projects.deleted !== null" class="undo" role="status">
          “{{ projects.deleted.title }}” is deleted. <KeyButton keys="Ctrl Z" @click="projects.undo()">Undo</KeyButton>
        </div>
        <p v-if="projects.trouble !== null" class="trouble" role="alert">{{ projects.trouble }}</p>
        <template v-if="projects.list.length > 1">
          <v-text-field ref="finder" v-model="wanted" class="find" placeholder="find  /" aria-label="Find projects" type="search" @keydown.esc="wanted = ''" />
          <v-btn-toggle v-model="order" aria-label="Order"><v-btn value="changed">changed last</v-btn><v-btn value="title">by name</v-btn></v-btn-toggle>
        </template>
        <KeyButton keys="O" says="A project from a zip; it can be dropped on the page too" @click="openFile()">Open a file</KeyButton>
        <KeyButton color="primary" variant="flat" keys="N" @click="choosing = !choosing">New project</KeyButton>
      </div>
      <LazyNewProject v-if="choosing" @close="choosing = false" />
      <section v-if="offered && projects.list.length > 0" class="offer" aria-label="The guide">
        <span><b>New here?</b> A guide beside the Bench leads through the work in eight steps: read the senses, write, tune, ask why. It ticks off what you did and is never in the way.</span>
        <v-btn color="primary" variant="flat" data-guide @click="beginGuide">Begin the guide</v-btn><v-btn @click="offered = false">Not now</v-btn>
      </section>
      <ul class="list" @pointerover.once="loadBench" @focusin.once="loadBench">
        <v-card v-for="project in shown" :key="project.id" tag="li" class="card" :data-project="project.title">
          <NuxtLink :to="`/projects/${project.id}`" class="picture" :aria-label="`Open ${project.title}`">
            <ArenaPicture :document="project.arena" />
          </NuxtLink>
          <div class="about">
            <v-text-field
              v-if="renaming === project.id" v-model="name" maxlength="80" aria-label="New title"
              @keydown.enter="endRename(true)" @keydown.esc="endRename(false)" @blur="endRename(true)"
            />
            <NuxtLink v-else :to="`/projects/${project.id}`" class="title">{{ project.title }}</NuxtLink>
            <div class="small">{{ about(project) }}</div>
            <div class="small">changed {{ when(project.changedAt) }}</div>
            <div class="does">
              <v-btn size="small" variant="text" :aria-label="`Rename ${project.title}`" @click="beginRename(project.id, project.title)">Rename</v-btn>
              <v-btn size="small" variant="text" :aria-label="`Duplicate ${project.title}`" @click="projects.duplicate(project.id)">Duplicate</v-btn>
              <v-btn size="small" variant="text" :aria-label="`Save ${project.title} to a file`" title="The whole project as a zip: program, robot, arena, task" @click="hand(project.id)">Save</v-btn>
              <v-btn size="small" variant="text" :aria-label="`Delete ${project.title}`" @click="projects.remove(project.id)">Delete</v-btn>
            </div>
          </div>
        </v-card>
      </ul>
      <p v-if="more > 0" ref="further" class="none"><v-btn @click="room += PAGE">Show {{ Math.min(PAGE, more) }} more of {{ more }}</v-btn></p>
      <p v-if="projects.loaded && projects.list.length > 0 && shown.length === 0" class="none" role="status">No project of that name, robot or arena. <v-btn @click="wanted = ''">Show all</v-btn></p>
      <NoAnswer v-if="projects.unlisted !== null" :title="projects.away ? 'The server does not answer' : 'The projects cannot be shown'" :why="projects.unlisted" :again="projects.away" @again="projects.load()" />
      <section v-if="projects.loaded && projects.unlisted === null && projects.list.length === 0" class="none">
        <h2>No project yet</h2>
        <p>A project is a robot, an arena, a task and the program that you write. A new one begins with an empty program; a file that somebody gave you can be dropped on this page.</p>
      </section>
      <ul v-if="!projects.loaded" class="list" aria-label="Projects are loading"><v-card v-for="i in 6" :key="i" tag="li" class="card waiting"><v-skeleton-loader type="image, list-item-two-line" /></v-card></ul>
    </main>
  </div>
</template>

<style scoped>
.page { min-height: 100vh; background: var(--paper); }
.says { flex: 1; font-size: 12.5px; opacity: 0.8; overflow: hidden; text-overflow: ellipsis; }
.main { max-width: 1160px; margin: 0 auto; padding: 22px 20px 60px; }
.top { display: flex; align-items: center; gap: 14px; margin-bottom: 16px; }
.top h1 { font-size: 22px; margin: 0; flex: 1; }
.find { max-width: 200px; }
.undo { background: var(--field); border-radius: 5px; padding: 4px 12px; }
.offer { display: flex; align-items: center; gap: 10px; background: var(--field); border-radius: 6px; padding: 9px 14px; margin-bottom: 16px; }
.offer span { flex: 1; }
.trouble { color: var(--error); margin: 0; }
.list { list-style: none; padding: 0; margin: 0; display: grid; grid-template-columns: repeat(auto-fill, minmax(270px, 1fr)); gap: 16px; }
.waiting { height: 274px; overflow: hidden; }
.picture { display: block; height: 168px; border-bottom: 1px solid var(--line); }
.about { padding: 10px 13px 7px; }
.title { font-weight: 700; font-size: 15px; color: var(--ink); text-decoration: none; }
.title:hover { text-decoration: underline; }
.does { display: flex; gap: 4px; margin: 6px 0 0 -7px; }
.none { color: var(--muted); padding-top: 14px; }
</style>
