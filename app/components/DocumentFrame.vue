<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref } from 'vue'
import { useKeys } from '~/composables/useKeys'
import { lengthUnit, nextLengthUnit } from '~/shown/lengths'
import { useProjectStore } from '~/draft/project'

/** The frame of a view that builds a document of the project: its bar with what is saved and undone, what is told, and the view below. */
const { view, wrong } = defineProps<{
  view: 'robot' | 'arena' | 'hardware'
  /** What is wrong with the document, in a few words; empty while nothing is. */
  wrong: string
  depth: { readonly past: number, readonly future: number }
}>()
/** What is told above the view until it is put away. */
const told = defineModel<string>('told', { required: true })
const emit = defineEmits<{
  /** The project is there: its document can be taken up. */
  load: []
  undo: []
  redo: []
}>()

const route = useRoute()
const project = useProjectStore()
const ready = ref(false)
async function open(): Promise<void> {
  if (!await project.open(String(route.params['id']))) return
  emit('load')
  ready.value = true
}
onMounted(open)
onBeforeUnmount(() => void project.save())

useKeys('Document', {
  'ctrl+z': { says: 'undo', act: () => emit('undo') },
  'ctrl+y': { says: 'redo', act: () => emit('redo') },
  'ctrl+shift+z': { says: 'redo', act: () => emit('redo') },
  'u': { says: 'the unit of lengths', act: nextLengthUnit },
})
</script>

<template>
  <div v-if="ready && !project.missing" class="view">
    <ProjectBar :view="view">
      <template #says><span class="save" role="status" :class="{ wrong: wrong !== '' }">{{ wrong === '' ? project.words : `✕ ${wrong}` }}</span></template>
      <KeyButton :disabled="depth.past === 0" keys="Ctrl Z" @click="emit('undo')">Undo</KeyButton>
      <KeyButton :disabled="depth.future === 0" keys="Ctrl Y" @click="emit('redo')">Redo</KeyButton>
      <slot name="ways" />
      <KeyButton keys="U" says="The unit of lengths" @click="nextLengthUnit">{{ lengthUnit }}</KeyButton>
      <slot name="files" />
    </ProjectBar>
    <SaveConflict />
    <p v-if="told !== ''" class="told" role="alert">{{ told }} <v-btn size="x-small" variant="text" aria-label="Put away" @click="told = ''">✕</v-btn></p>
    <main class="columns">
      <h1 class="visually-hidden">{{ project.data?.title }}: the {{ view }}</h1>
      <div class="left"><slot name="left" /></div>
      <div class="middle"><slot /></div>
      <div class="right"><slot name="right" /></div>
    </main>
  </div>
  <ProjectGate v-else :what="`the ${view}`" @again="open" />
</template>

<style scoped>
.view { display: flex; flex-direction: column; height: 100vh; min-height: 520px; }
.columns { flex: 1; min-height: 0; display: grid; grid-template-columns: 220px minmax(0, 1fr) 372px; grid-template-rows: minmax(0, 1fr); position: relative; }
.save { font-size: 12px; opacity: 0.9; }
.save.wrong { font-weight: 700; opacity: 1; }
.told { background: var(--signal-tint); padding: 6px 14px; border-bottom: 1px solid var(--signal); }
.left { overflow: auto; background: var(--panel); border-right: 1px solid var(--line); }
.middle { display: flex; flex-direction: column; min-height: 0; min-width: 0; }
.right { overflow: auto; background: var(--panel); border-left: 1px solid var(--line); }
/* Narrow, or twice as large: one below the other, and the page scrolls under the bar. */
@media (max-width: 900px) {
  .view { height: auto; min-height: 100vh; }
  .columns { display: block; flex: none; }
  .left, .right { border: 0; overflow: visible; }
  .middle { height: 620px; }
}
</style>
