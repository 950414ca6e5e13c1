<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { shownName } from '~/composables/keys'
import type { Action } from './actions'
import { useRulesStore } from './rules'

/**
 * What can be done to a rule or a step, with the key of each. What may not be is grey, for the reason that the edit itself gives.
 * The sign that opens it is a bare button: there is one in every line of a program. The menu is made when it is opened.
 */
const props = defineProps<{ actions: () => readonly Action[], label: string, extra: () => readonly { readonly title: string, readonly key: string, readonly act: () => void }[] }>()
const emit = defineEmits<{ act: [action: Action] }>()
const rules = useRulesStore()
const open = ref(false)
const button = useTemplateRef<HTMLElement>('button')
const list = useTemplateRef<{ focus(where: 'first'): void }>('list')

// Worked out when it is opened: a closed menu asks nothing of the program.
const all = computed(() => open.value ? props.actions().map(a => ({ action: a, may: a.edit(rules.sheet) !== null })) : [])
const others = computed(() => open.value ? props.extra() : [])

async function show(): Promise<void> {
  open.value = true
  await nextTick()
  list.value?.focus('first')
}
function run(act: () => void): void { open.value = false; act() }
function away(): void { open.value = false; button.value?.focus() }
</script>

<template>
  <button ref="button" type="button" class="more" :aria-label="label" aria-haspopup="menu" :aria-expanded="open" @click="show">⋯</button>
  <v-menu v-if="open" :model-value="true" :target="button!" location="bottom start" @update:model-value="open = false" @keydown.esc.stop="away">
    <v-list ref="list" class="menu" role="menu" :aria-label="label">
      <v-list-item v-for="e in others" :key="e.title" role="menuitem" @click="run(e.act)">{{ e.title }}<kbd class="key" aria-hidden="true">{{ shownName(e.key) }}</kbd></v-list-item>
      <v-list-item v-for="{ action, may } in all" :key="action.title" role="menuitem" :disabled="!may" :aria-disabled="!may" @click="run(() => emit('act', action))">{{ action.title }}<kbd class="key" aria-hidden="true">{{ shownName(action.key) }}</kbd></v-list-item>
    </v-list>
  </v-menu>
</template>

<style scoped>
.more { color: var(--muted); width: 20px; height: 20px; line-height: 18px; border-radius: 3px; flex: none; opacity: 0; }
:global(.row:hover > .line > .more), :global(.stepline:hover > .more), .more:focus-visible, .more[aria-expanded=true] { opacity: 1; }
.more:hover { background: var(--field); color: var(--ink); }
.menu { width: 250px; }
.menu :deep(.v-list-item__content) { display: flex; }
</style>
