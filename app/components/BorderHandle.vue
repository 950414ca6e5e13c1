<script setup lang="ts">
/** A border between two parts of a page: dragged, or moved by arrow keys where it has the focus. */
const props = defineProps<{ label: string, level?: boolean, least: number, most: number, /** The part whose size it is lies below or to the right. */ after?: boolean }>()
/** Size of the part, page pixels. */
const size = defineModel<number>({ required: true })
/** Page pixels of one key. */
const STEP = 16

const set = (value: number): void => { size.value = Math.round(Math.min(props.most, Math.max(props.least, value))) }
const sign = (): number => props.after === true ? -1 : 1
function drag(event: PointerEvent): void {
  const border = event.currentTarget as HTMLElement
  border.setPointerCapture(event.pointerId)
  const place = (e: PointerEvent): number => props.level === true ? e.clientY : e.clientX
  const [begin, before] = [place(event), size.value]
  const move = (e: PointerEvent): void => { set(before + sign() * (place(e) - begin)) }
  border.addEventListener('pointermove', move)
  border.addEventListener('lostpointercapture', () => border.removeEventListener('pointermove', move), { once: true })
}
function press(event: KeyboardEvent): void {
  const by = { ArrowLeft: -1, ArrowUp: -1, ArrowRight: 1, ArrowDown: 1 }[event.key]
  if (by === undefined) return
  event.preventDefault()
  event.stopPropagation()
  set(size.value + by * sign() * STEP)
}
</script>

<template>
  <div
    class="border" :class="level ? 'level' : 'upright'" role="separator" tabindex="0" :aria-orientation="level ? 'horizontal' : 'vertical'" :aria-label="label"
    :aria-valuenow="size" :aria-valuemin="least" :aria-valuemax="most" @pointerdown="drag" @keydown="press"
  />
</template>

<style scoped>
.border { background: var(--panel); touch-action: none; }
.upright { cursor: col-resize; border-left: 1px solid var(--line); }
.level { cursor: row-resize; }
.border:hover, .border:focus-visible { background: var(--field); }
</style>
