<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { shownKey, type Action } from './actions'
import { useRulesStore } from './rules'

/** What can be done to a rule or a step, with the key of each. What may not be is grey, for the reason that the edit itself gives. */
const props = defineProps<{ actions: () => readonly Action[], label: string, extra: () => readonly { readonly title: string, readonly key: string, readonly act: () => void }[] }>()
const emit = defineEmits<{ act: [action: Action] }>()
const rules = useRulesStore()
const open = ref(false)
const place = ref({})
const button = useTemplateRef<HTMLElement>('button')
const list = useTemplateRef<HTMLElement>('list')
/** Height of a line of the menu, pixels. */
const LINE = 25

// Worked out when it is opened: a closed menu asks nothing of the program.
const all = computed(() => open.value ? props.actions().map(a => ({ action: a, may: a.edit(rules.sheet) !== null })) : [])
const others = computed(() => open.value ? props.extra() : [])

async function toggle(): Promise<void> {
  open.value = !open.value
  if (!open.value) return
  const box = button.value!.getBoundingClientRect()
  const height = LINE * (all.value.length + others.value.length) + 12
  place.value = { left: `${Math.max(8, Math.min(box.left, innerWidth - 258))}px`, top: `${Math.max(8, Math.min(box.bottom + 2, innerHeight - height))}px` }
  await nextTick()
  list.value?.querySelector<HTMLElement>('button:not(:disabled)')?.focus()
}
function run(act: () => void): void { open.value = false; act() }
function leave(event: FocusEvent): void {
  if (!(event.relatedTarget instanceof Node) || list.value?.contains(event.relatedTarget) !== true) open.value = false
}
function press(event: KeyboardEvent): void {
  const items = [...list.value?.querySelectorAll<HTMLElement>('button:not(:disabled)') ?? []]
  const at = items.indexOf(document.activeElement as HTMLElement)
  if (event.key === 'ArrowDown') items[(at + 1) % items.length]?.focus()
  else if (event.key === 'ArrowUp') items[(at - 1 + items.length) % items.length]?.focus()
  else if (event.key === 'Escape') { open.value = false; button.value?.focus() }
  else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <button ref="button" type="button" class="more" :aria-label="label" :aria-expanded="open" @click="toggle">⋯</button>
  <div v-if="open" ref="list" class="menu" :style="place" role="menu" @focusout="leave" @keydown="press">
    <button v-for="e in others" :key="e.title" type="button" role="menuitem" @click="run(e.act)">{{ e.title }}<span class="key">{{ shownKey(e.key) }}</span></button>
    <button v-for="{ action, may } in all" :key="action.title" type="button" role="menuitem" :disabled="!may" @click="run(() => emit('act', action))">{{ action.title }}<span class="key">{{ shownKey(action.key) }}</span></button>
  </div>
</template>

<style scoped>
.more { color: var(--muted); width: 20px; height: 20px; line-height: 18px; border-radius: 3px; flex: none; opacity: 0; }
:global(.row:hover > .line > .more), :global(.stepline:hover > .more), .more:focus-visible, .more[aria-expanded=true] { opacity: 1; }
.more:hover { background: var(--field); color: var(--ink); }
.menu { position: fixed; z-index: 20; width: 250px; background: var(--panel); border: 1px solid var(--line); border-radius: 6px; box-shadow: 0 6px 22px rgba(0, 0, 0, 0.18); padding: 5px 0; display: flex; flex-direction: column; }
.menu button { display: flex; padding: 3px 12px; text-align: left; color: var(--ink); }
.menu button:hover, .menu button:focus-visible { background: var(--ground); }
.menu button:disabled { opacity: 0.4; }
.menu .key { margin-left: auto; color: var(--muted); }
</style>
