<script setup lang="ts">
import { computed } from 'vue'
import { isEditable, nudge, replacePiece, type Piece } from '~~/core/editing'
import { deviceColor } from '~/shown/readings'
import { dialOf, offersFor } from './offers'
import { useRulesStore } from './rules'

/** A sentence of pieces: words stand, the rest is edited in place. Each piece is a bare button: a program has hundreds, and they are its text. */
const props = defineProps<{ pieces: readonly Piece[], prefix: string }>()
const rules = useRulesStore()

/** Pixels of dragging for one step of a number. */
const DRAG_STEP = 6

const facts = computed(() => rules.facts)
/** Whether words are apart in the text: a bracket clings to what it holds. */
const apart = (i: number): boolean => i > 0 && props.pieces[i]!.from > props.pieces[i - 1]!.to
const key = (i: number): string => `${props.prefix}.${i}`

function styleOf(piece: Piece): Record<string, string> {
  if (piece.role !== 'reading' || facts.value === null || piece.device === null) return {}
  return facts.value.devices.some(d => d.name === piece.device) ? { borderBottomColor: `rgb(var(--v-theme-${deviceColor(facts.value, piece.device)}))` } : {}
}
function classOf(piece: Piece): string {
  if (piece.role !== 'name') return piece.role
  return rules.dials.has(piece.text) ? 'dial' : facts.value?.colors.includes(piece.text) === true ? 'color' : 'name'
}
const marked = (piece: Piece): boolean => rules.wrong.some(([from, to]) => from < piece.to && piece.from < to)

function open(i: number): void {
  const piece = props.pieces[i]!
  if (facts.value === null) return
  const known = facts.value
  const { title, offers, put } = offersFor(rules.sheet, known, piece)
  const dial = dialOf(rules.sheet, known, piece, props.pieces) === null ? [] : [{ text: 'a dial', says: 'a slider to tune it by · Alt D', group: '', act: () => { rules.apply(dialOf(rules.sheet, known, piece, props.pieces)) } }]
  rules.find({
    key: key(i), title, offers: [...dial, ...offers], text: piece.text,
    take: text => text === piece.text || rules.change(s => put(s, text), key(i)) ? null : `“${text}” cannot stand here`,
  })
}

function move(i: number, steps: number): boolean {
  const piece = props.pieces[i]!
  if (piece.role === 'number') {
    const next = nudge(piece.text, steps)
    return next !== null && rules.apply(replacePiece(rules.sheet, piece.from, piece.to, next), true)
  }
  const at = piece.options.indexOf(piece.text.replaceAll(/\s+/g, ' '))
  if (at === -1 || piece.role === 'device' || piece.role === 'kept') return false
  return rules.apply(replacePiece(rules.sheet, piece.from, piece.to, piece.options[(at + Math.sign(steps) + piece.options.length) % piece.options.length]!), true)
}

function press(event: KeyboardEvent, i: number): void {
  if (event.altKey && event.key.toLowerCase() === 'd' && facts.value !== null) {
    if (rules.apply(dialOf(rules.sheet, facts.value, props.pieces[i]!, props.pieces))) { event.preventDefault(); event.stopPropagation() }
    return
  }
  if (event.altKey || event.ctrlKey || event.metaKey) return
  const steps = event.key === 'ArrowUp' ? 1 : event.key === 'ArrowDown' ? -1 : 0
  if (steps !== 0 && move(i, steps * (event.shiftKey ? 10 : 1))) { event.preventDefault(); event.stopPropagation() }
}

let drag: { readonly i: number, last: number, moved: boolean } | null = null
function grab(event: PointerEvent, i: number): void {
  if (props.pieces[i]!.role !== 'number' || event.button !== 0) return
  drag = { i, last: event.clientX, moved: false };
  (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
}
function pull(event: PointerEvent): void {
  if (drag === null) return
  const steps = Math.trunc((event.clientX - drag.last) / DRAG_STEP)
  if (steps === 0) return
  drag.last += steps * DRAG_STEP
  drag.moved = true
  move(drag.i, steps)
}
function click(i: number): void {
  // What was dragged was not clicked.
  const dragged = drag?.moved === true
  drag = null
  if (!dragged) open(i)
}
</script>

<template>
  <span class="sentence">
    <template v-for="(p, i) in pieces" :key="i">{{ apart(i) ? ' ' : '' }}<button
      v-if="isEditable(p)" type="button" class="piece" :class="[classOf(p), { wrong: marked(p) }]" :style="styleOf(p)" :data-key="key(i)" :data-role="p.role"
      @click="click(i)" @keydown="press($event, i)" @pointerdown="grab($event, i)" @pointermove="pull" @pointercancel="drag = null"
    ><span v-if="classOf(p) === 'color'" class="swatch" :style="{ background: `rgb(var(--v-theme-paint-${p.text}))` }" />{{ p.text }}</button><span v-else class="word" :class="{ unread: p.role === 'unread' }">{{ p.text }}</span></template>
  </span>
</template>

<style scoped>
.sentence { line-height: 1.6; }
/* Square corners: round ones with dashes are dear to draw without a graphics card. */
.piece { padding: 0 3px; color: var(--ink); text-align: left; }
.piece:hover { background: var(--ground); }
.reading { border-bottom: 2px solid var(--muted); padding: 0 1px; }
.number, .choice, .device, .kept, .text, .color, .truth, .comparison, .is, .logic { font-family: var(--mono); font-size: 13px; background: var(--field); border-bottom: 1px dashed var(--muted); }
.comparison, .is, .logic { background: none; font-weight: 700; }
.is, .logic { font-family: inherit; font-size: inherit; font-weight: 600; }
.number { cursor: ew-resize; touch-action: none; white-space: nowrap; }
.dial { font-family: var(--mono); font-size: 13px; background: var(--dial); border-bottom: 2px solid var(--ink); font-weight: 600; }
.name { font-family: var(--mono); font-size: 13px; border-bottom: 1px dashed var(--muted); }
.mode, .routine, .signal { text-decoration: underline; font-weight: 600; }
.swatch { display: inline-block; width: 9px; height: 9px; border: 1px solid var(--muted); margin-right: 4px; }
.unread { font-family: var(--mono); font-size: 13px; color: var(--error); text-decoration: underline wavy; }
.wrong { text-decoration: underline wavy var(--error); text-underline-offset: 4px; }
</style>
