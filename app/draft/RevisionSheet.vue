<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useProjectStore } from './project'
import { useRevisionsStore } from './revisions'
import { DOCUMENT_PARTS, type DocumentPart } from './drafts'
import { sidesOf } from './differences'

/** What was saved of this project before: looked through, compared with what stands here, and brought back. */
const project = useProjectStore()
const revisions = useRevisionsStore()
const emit = defineEmits<{ bring: [program: string] }>()
const open = ref(false)
watch(open, (now) => { if (now) void revisions.load() })
const sides = computed(() => revisions.there === null ? null : sidesOf(revisions.there.program, project.program))
/** Documents that were others then. */
const others = computed(() => DOCUMENT_PARTS.filter(part => revisions.there !== null && JSON.stringify(revisions.there[part]) !== JSON.stringify(project.data?.[part])))
const when = (iso: string): string => new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeStyle: 'medium' }).format(new Date(iso))
function change(at: number): string {
  const before = revisions.list[at + 1]
  const by = before === undefined ? 0 : revisions.list[at]!.length - before.length
  return [by === 0 ? '' : `${by > 0 ? '+' : '−'}${Math.abs(by)} letters`, ...revisions.list[at]!.changed, revisions.list[at]!.ran ? '▶ ran' : ''].filter(w => w !== '').join(', ')
}
function bring(): void {
  if (revisions.there === null) return
  emit('bring', revisions.there.program)
  open.value = false
}
function bringDocument(part: DocumentPart): void {
  if (revisions.there !== null) project.editDocument(part, revisions.there[part])
}
defineExpose({ show: () => { open.value = true } })
</script>

<template>
  <v-dialog v-model="open" width="1080" aria-label="Revisions">
    <v-card class="sheet">
      <header><h2>Revisions</h2><span class="small">All of the last day, then one an hour, after a week one a day; what ran and what is marked ★ stays.</span><v-btn size="small" aria-label="Put away" @click="open = false">✕</v-btn></header>
      <p v-if="revisions.trouble !== null" class="trouble" role="alert">{{ revisions.trouble }}</p>
      <div class="both">
        <v-list class="list" aria-label="Revisions, the newest first">
          <v-list-item v-for="(r, i) in revisions.list" :key="r.number" :active="r.number === revisions.chosen" :aria-current="r.number === revisions.chosen" :data-revision="r.number" @click="revisions.look(r.number)">
            <div>{{ when(r.at) }}</div><div class="small">{{ i === 0 ? 'as it is now. ' : '' }}{{ change(i) }}</div>
            <template #append><v-btn size="x-small" variant="text" :aria-pressed="r.marked" :aria-label="r.marked ? `Take the mark from revision ${r.number}` : `Mark revision ${r.number}: it stays`" @click.stop="revisions.mark(r.number, !r.marked)">{{ r.marked ? '★' : '☆' }}</v-btn></template>
          </v-list-item>
        </v-list>
        <div v-if="sides !== null" class="sides">
          <section><h3>Then</h3><DiffText class="text" :lines="sides.before" label="The program then" /></section>
          <section><h3>Now</h3><DiffText class="text" :lines="sides.after" label="The program now" /></section>
          <footer>
            <v-btn color="primary" variant="flat" :disabled="revisions.there?.program === project.program" @click="bring">Bring this program back</v-btn>
            <v-btn v-for="part in others" :key="part" :data-bring="part" @click="bringDocument(part)">Bring its {{ part }} back too</v-btn>
            <span class="small">Undo takes it back.</span>
          </footer>
        </div>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.sheet { padding: 12px 16px 14px; }
header { display: flex; align-items: baseline; gap: 14px; padding-bottom: 8px; }
header .small { flex: 1; }
h2 { font-size: 17px; }
h3 { font-size: 13px; margin: 0; color: var(--muted); }
.both { display: grid; grid-template-columns: 230px 1fr; gap: 14px; height: 62vh; }
.list { overflow: auto; border: 1px solid var(--line); }
.v-list-item--active { background: var(--field); box-shadow: inset 3px 0 var(--ink); }
.sides { display: grid; grid-template-columns: 1fr 1fr; grid-template-rows: minmax(0, 1fr) auto; gap: 10px 12px; min-width: 0; }
.sides section { display: flex; flex-direction: column; min-width: 0; min-height: 0; }
.text { flex: 1; min-height: 0; }
footer { grid-column: 1 / -1; display: flex; gap: 8px; align-items: center; }
.trouble { color: var(--error); }
</style>
