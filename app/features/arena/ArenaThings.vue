<script setup lang="ts">
import { computed } from 'vue'
import { ITEMS, type ArenaItem } from '~~/core/arena'
import { useArenaStore } from './arena'
import { refKey, type Ref } from './things'

/** What can be put into the arena, and what stands there. */
const tool = defineModel<ArenaItem | null>('tool', { required: true })
const emit = defineEmits<{ middle: [] }>()
const store = useArenaStore()

const rows = computed(() => store.things.map(t => ({
  ref: t.ref, key: refKey(t.ref), name: String(t.raw['name'] ?? t.raw['kind'] ?? (t.item === null ? 'the start' : `${t.item.one} ${t.ref.index + 1}`)),
  what: `${t.item?.one ?? 'start'}${typeof t.raw['group'] === 'string' ? `, ${t.raw['group']}` : ''}`, wrong: store.wrong(t.ref.list === 'start' ? 'start' : refKey(t.ref)) !== '', chosen: store.isChosen(t.ref),
})))
/** Choosing a tool that is chosen already puts its thing into the middle: by keys alone, too. */
function choose(item: ArenaItem): void {
  if (tool.value === item) emit('middle')
  else tool.value = item
}
function pick(event: MouseEvent | KeyboardEvent, ref: Ref): void {
  store.selected = event.shiftKey ? store.isChosen(ref) ? store.selected.filter(r => refKey(r) !== refKey(ref)) : [...store.selected, ref] : store.withGroup(ref, event.altKey)
}
</script>

<template>
  <section class="things" aria-label="Things">
    <h2>Put in</h2>
    <div class="tools" role="group" aria-label="Put in">
      <v-btn v-for="item in ITEMS" :key="item.list" size="small" variant="text" :class="{ on: tool === item }" :aria-pressed="tool === item" :title="item.summary" :data-tool="item.list" @click="choose(item)">{{ item.one }}</v-btn>
    </div>
    <h2>In the arena <span class="small">{{ rows.length }}</span></h2>
    <v-list aria-label="What stands in the arena">
      <v-list-item v-for="r in rows" :key="r.key" :active="r.chosen" :aria-current="r.chosen || undefined" :data-row="r.key" @click="pick($event, r.ref)">
        <span :class="{ wrong: r.wrong }">{{ r.wrong ? '✕ ' : '' }}<b>{{ r.name }}</b></span><span v-if="r.name !== `the ${r.what}`" class="small what">{{ r.what }}</span>
      </v-list-item>
    </v-list>
  </section>
</template>

<style scoped>
.things { display: flex; flex-direction: column; min-height: 0; }
h2 { font-size: 13.5px; padding: 8px 12px 2px; }
.tools { display: flex; flex-wrap: wrap; gap: 2px; padding: 2px 6px 6px; border-bottom: 1px solid var(--line); }
.tools .on { background: var(--signal-tint); }
.wrong { color: var(--error); }
.what { margin-left: 6px; }
</style>
