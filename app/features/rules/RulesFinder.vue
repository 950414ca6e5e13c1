<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { deviceColor } from '~/shown/readings'
import { useBenchStore } from '~/features/bench/bench'
import { useRulesStore, type Offer } from './rules'

/** What could stand here: filters as one types; what is typed can be taken as it is. */
const bench = useBenchStore()
const rules = useRulesStore()
const input = useTemplateRef<HTMLInputElement>('input')
const list = useTemplateRef<{ $el: HTMLElement }>('list')
const typed = ref('')
const chosen = ref(-1)
const told = ref('')
const place = ref<Record<string, string>>({})

/** Room that the list wants below, pixels. */
const ROOM = 300
const WIDTH = 400

watch(() => rules.finding, async (finding) => {
  if (finding === null) return
  typed.value = finding.text
  told.value = ''
  chosen.value = finding.text === '' ? 0 : -1
  await nextTick()
  const anchor = finding.place ?? document.querySelector(`[data-key="${finding.key}"]`)?.getBoundingClientRect()
  if (anchor !== undefined) {
    const left = Math.max(8, Math.min(anchor.left, innerWidth - WIDTH - 8))
    const below = innerHeight - anchor.bottom > ROOM || anchor.top < ROOM
    place.value = { left: `${left}px`, ...(below ? { top: `${anchor.bottom + 3}px` } : { bottom: `${innerHeight - anchor.top + 3}px` }) }
  }
  await nextTick()
  input.value?.focus()
  input.value?.select()
})

/** Until something is typed, all is offered. */
const offers = computed<readonly Offer[]>(() => {
  const { finding } = rules
  if (finding === null) return []
  const words = typed.value.trim().toLowerCase()
  if (typed.value === finding.text || words === '') return finding.offers
  const parts = words.split(/\s+/)
  const has = (o: Offer, p: string): boolean => `${o.text} ${o.says} ${o.group}`.toLowerCase().includes(p)
  return finding.offers.filter(o => parts.every(p => has(o, p)))
})
watch(typed, () => { chosen.value = rules.finding !== null && typed.value === rules.finding.text ? -1 : offers.value.length > 0 && offers.value[0]!.text.startsWith(typed.value) ? 0 : -1; told.value = '' })

function take(text: string): void {
  const { finding } = rules
  if (finding === null) return
  const why = finding.take(text.trim())
  if (why !== null) { told.value = why; return }
  // A choice may have opened the next one.
  if (rules.finding === finding) rules.closeFinder()
}
function choose(offer: Offer): void {
  if (offer.act !== undefined) { rules.closeFinder(); offer.act(); return }
  take(offer.text)
}
function press(event: KeyboardEvent): void {
  const last = offers.value.length - 1
  if (event.key === 'ArrowDown') chosen.value = Math.min(last, chosen.value + 1)
  else if (event.key === 'ArrowUp') chosen.value = Math.max(-1, chosen.value - 1)
  else if (event.key === 'Enter' && !event.ctrlKey) { const offer = offers.value[chosen.value]; if (offer !== undefined) choose(offer); else if (typed.value.trim() !== '') take(typed.value) }
  else if (event.key === 'Escape' || event.key === 'Tab') { rules.closeFinder() }
  else return
  event.preventDefault()
  event.stopPropagation()
  void nextTick(() => list.value?.$el.querySelector('[aria-selected=true]')?.scrollIntoView({ block: 'nearest' }))
}
/** A press elsewhere puts the finder away. */
function leave(event: FocusEvent): void {
  const to = event.relatedTarget as HTMLElement | null
  if (to?.closest('.finder') == null) rules.closeFinder(false)
}
function colorOf(offer: Offer): string | null {
  const facts = bench.opened?.facts
  return facts?.devices.some(d => d.name === offer.group) === true ? `rgb(var(--v-theme-${deviceColor(facts, offer.group)}))` : null
}
</script>

<template>
  <div v-if="rules.finding !== null" class="finder" :style="place" role="dialog" :aria-label="rules.finding.title" @focusout="leave">
    <div class="small ask">
      {{ rules.finding.title }}
      <v-text-field ref="input" v-model="typed" class="mono" spellcheck="false" autocomplete="off" aria-autocomplete="list" aria-controls="offers" :aria-activedescendant="chosen === -1 ? undefined : `offer-${chosen}`" :aria-label="rules.finding.title" @keydown="press" />
    </div>
    <p v-if="told !== ''" class="told" role="alert">{{ told }}</p>
    <v-list id="offers" ref="list" class="offers" role="listbox" :aria-label="rules.finding.title">
      <v-list-item v-for="(o, i) in offers" :id="`offer-${i}`" :key="o.text + o.says" role="option" :active="i === chosen" :aria-selected="i === chosen" tabindex="-1" :data-offer="o.text" @mousedown.prevent @click="choose(o)">
        <span class="swatch" :style="{ background: colorOf(o) ?? 'transparent' }" /><span class="mono what">{{ o.text }}</span><span class="small says" :title="o.says">{{ o.says }}</span>
      </v-list-item>
    </v-list>
    <p v-if="offers.length === 0 && rules.finding.offers.length > 0" class="small none">Nothing of that name. ⏎ takes what is typed, if it can stand here.</p>
  </div>
</template>

<style scoped>
.finder { position: fixed; z-index: 20; width: 400px; background: var(--panel); border: 1px solid var(--line); border-radius: 6px; box-shadow: 0 6px 22px rgba(0, 0, 0, 0.18); padding: 7px 0 4px; }
.ask { padding: 0 9px; }
.offers { margin-top: 3px; max-height: 236px; overflow: auto; }
.offers .v-list-item { padding: 2px 9px; }
.offers :deep(.v-list-item__content) { display: flex; align-items: baseline; gap: 7px; }
.v-list-item--active { background: var(--dial); }
.swatch { width: 9px; height: 9px; border-radius: 2px; flex: none; align-self: center; }
.what { font-size: 13px; white-space: pre-line; color: var(--ink); flex: none; max-width: 250px; overflow: hidden; text-overflow: ellipsis; }
.says { flex: 1; text-align: right; min-width: 60px; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.told { color: var(--error); padding: 4px 9px 0; font-weight: 600; }
.none { padding: 4px 9px; }
</style>
