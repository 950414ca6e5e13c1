<script setup lang="ts">
import { computed } from 'vue'
import type { LiveLines } from '~/features/text/live'
import { shortened, textOf, whenOf } from './map-words'
import { useRulesStore } from './rules'

/** A program without modes as a picture: its rules as rungs, the most urgent on top, the one in control lit with its step. */
const props = defineProps<{ live: LiveLines | null }>()
const emit = defineEmits<{ go: [line: number] }>()
const rules = useRulesStore()
/** Steps of a rung that are shown. */
const MOST_STEPS = 4

const inControl = (line: number): boolean => props.live?.control.some(([from, to]) => from <= line && line <= to) === true
const sign = (line: number): string => props.live === null ? '' : inControl(line) || rungs.value.some(r => r.line === line && r.playing) ? '▶' : props.live.outranked.includes(line) ? '◐' : '○'
const rungs = computed(() => rules.outline.cards.filter(c => c.kind !== 'routine').flatMap(card => card.rows.filter(r => r.what !== 'unread').map((row) => {
  const steps = row.steps.filter(s => s.what !== 'unread')
  // Of a long series what is at work is shown, with what stands around it.
  const at = steps.findIndex(s => props.live?.steps.includes(s.line))
  const first = Math.max(0, Math.min(at - 1, steps.length - MOST_STEPS))
  return { playing: at !== -1 && (row.what === 'start' || inControl(row.line)), line: row.line, lane: card.lane || (card.kind === 'lane' ? card.name : ''), urgency: row.urgency, off: row.off, when: whenOf(row), steps: steps.slice(first, first + MOST_STEPS), before: first > 0, after: first + MOST_STEPS < steps.length }
})))
const worth = computed(() => new Map(props.live?.worth ?? []))
</script>

<template>
  <ol class="ladder" aria-label="Rules by urgency">
    <li v-for="r in rungs" :key="r.line" :class="{ now: r.playing || inControl(r.line), off: r.off }" :data-rung="r.line">
      <v-btn variant="text" size="small" class="urgency" :aria-label="`${r.urgency === null ? r.when : `Rule ${r.urgency}`}, line ${r.line}`" @click="emit('go', r.line)">{{ r.urgency ?? '·' }} <span class="sign">{{ sign(r.line) }}</span></v-btn>
      <div class="when">{{ r.lane === '' ? '' : `${r.lane}: ` }}{{ r.when }}<div class="mono small worth">{{ worth.get(r.line) ?? '' }}</div></div>
      <span class="arrow" aria-hidden="true">→</span>
      <ul class="steps">
        <li v-if="r.before" class="small">…</li>
        <li v-for="s in r.steps" :key="s.line" :class="{ lit: r.playing && live?.steps.includes(s.line) }" :style="{ paddingLeft: `${s.depth * 12}px` }">{{ shortened(textOf(s.pieces), 60) }}</li>
        <li v-if="r.after" class="small">…</li>
      </ul>
    </li>
  </ol>
</template>

<style scoped>
.ladder { list-style: none; margin: 0; padding: 8px; width: 100%; max-width: 760px; }
.ladder > li { display: grid; grid-template-columns: 58px minmax(120px, 5fr) 26px minmax(140px, 7fr); align-items: start; gap: 4px; border: 1px solid var(--line); border-left: 4px solid var(--line); background: var(--panel); border-radius: 6px; padding: 6px 8px 6px 2px; margin-bottom: 14px; position: relative; min-height: 46px; }
/* What goes on downwards: who does not want control gives it to the next. */
.ladder > li:not(:last-child)::after { content: ''; position: absolute; left: 26px; bottom: -15px; height: 14px; border-left: 2px solid var(--line); }
.ladder > li.now { border-color: var(--signal); background: var(--signal-tint); }
.now .sign { color: var(--signal); }
.off { opacity: 0.6; text-decoration: line-through; }
.when { overflow-wrap: anywhere; }
.worth { min-height: 16px; }
.arrow { color: var(--muted); text-align: center; }
.steps { list-style: none; margin: 0; padding: 0; }
.lit { font-weight: 700; outline: 1.5px solid var(--signal); outline-offset: 1px; border-radius: 3px; background: var(--panel); }
</style>
