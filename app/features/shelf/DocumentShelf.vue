<script setup lang="ts">
import { computed, onMounted } from 'vue'
import { renamedCopy, shownName, useShelf } from './shelf'
import type { Shelved } from '~/utils/api'

/** Robots, arenas or tasks to take into this project, each as a copy; kept, duplicated and deleted here. */
const { kind, here, bare, sound } = defineProps<{
  kind: Shelved
  /** The document of this project, as it is being written. */
  here: object
  /** What one may begin with. */
  bare: readonly { readonly label: string, readonly value: object }[]
  /** Whether that of this project can be kept. */
  sound: boolean
}>()
const emit = defineEmits<{ take: [value: unknown] }>()
const store = useShelf(kind)
onMounted(() => store.load())

const written = computed(() => JSON.stringify(here))
const names = computed(() => new Set(store.shelf.kept.map(k => shownName(k.value))))
/** Those of other projects that are not among the kept ones. */
const others = computed(() => store.shelf.used.filter(u => !store.shelf.kept.some(k => k.document === u.document)))
const isKept = computed(() => store.shelf.kept.some(k => JSON.stringify(k.value) === written.value))

function take(value: unknown): void { emit('take', JSON.parse(JSON.stringify(value))) }
async function takeUsed(document: string): Promise<void> {
  const value = await store.fetch(document)
  if (value !== null) take(value)
}
function keep(): void { void store.keep(renamedCopy(here, names.value)) }
</script>

<template>
  <section class="shelf" :aria-label="`Kept ${kind}s`" :data-shelf="kind">
    <h2>{{ kind[0]!.toUpperCase() }}{{ kind.slice(1) }}s</h2>
    <p class="small">Taking one puts a copy here; undo brings this one back.</p>
    <v-list :aria-label="`${kind}s to take`">
      <v-list-item v-for="b in bare" :key="b.label" :title="b.label" :data-take="b.label" @click="take(b.value)" />
      <v-list-item v-for="k in store.shelf.kept" :key="k.id" :data-take="shownName(k.value)" @click="take(k.value)">
        <b>{{ shownName(k.value) }}</b><span v-if="JSON.stringify(k.value) === written" class="small"> ● here</span>
        <template #append>
          <v-btn size="x-small" variant="text" :aria-label="`copy ${shownName(k.value)}`" @click.stop="store.keep(renamedCopy(k.value, names))">copy</v-btn>
          <v-btn size="x-small" variant="text" :aria-label="`Delete ${shownName(k.value)}`" title="Delete; no project loses its copy" @click.stop="store.remove(k.id)">✕</v-btn>
        </template>
      </v-list-item>
      <v-list-item v-for="u in others" :key="u.document" @click="takeUsed(u.document)">{{ u.name }}<span class="small"> in {{ u.project }}</span></v-list-item>
    </v-list>
    <p v-if="store.deleted !== null" class="told" role="status">{{ store.deleted.name }} is deleted. <v-btn size="small" @click="store.undo()">Undo</v-btn></p>
    <p v-if="store.trouble !== null" class="trouble" role="alert">{{ store.trouble }}</p>
    <v-btn size="small" class="keep" :disabled="!sound || isKept" :title="`Puts a copy of this ${kind} among the ${kind}s`" @click="keep">Keep this {{ kind }}</v-btn>
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
