<script setup lang="ts">
import { computed, ref } from 'vue'
import { handOn } from '~~/core/devices'
import type { DeviceFacts } from '~~/core/robot'
import { useBenchStore } from '~/features/bench/bench'
import { useHandsStore } from '~/features/bench/hands'
import SenseHand from './SenseHand.vue'

/** The head of a device in Sense: its colour, which folds it and by which it is moved, its name, what a hand can do to it, its page, its port. */
const props = defineProps<{ device: DeviceFacts, color: string, folded: boolean, says: string }>()
const emit = defineEmits<{ fold: [], move: [by: 1 | -1], drag: [], press: [] }>()

const hands = useHandsStore()
const bench = useBenchStore()
/** Whether what is shown came from a real device. */
const real = computed(() => bench.opened?.inputs.wire?.devices.includes(props.device.name) === true)
const hand = computed(() => handOn(props.device.kind))
/** Whether the hand before it can be moved; one that is there already can. */
const reaching = ref(hands.before.has(props.device.name) || hands.covered.has(props.device.name))
const isPressed = computed(() => hands.pressed.has(props.device.name))
const HAND_SAYS = { eye: 'A hand before it', switch: 'Press it; again lets it go' } as const
/** A switch is pressed or let go; before an eye, the hand is asked for, or goes away. */
function useHand(): void {
  const { name } = props.device
  if (hand.value === 'switch') { hands.press(name, !isPressed.value); return }
  reaching.value = !reaching.value
  if (reaching.value) return
  if (hands.covered.has(name)) hands.cover(name, false)
  if (hands.before.has(name)) hands.hold(name, null)
}

function keys(event: KeyboardEvent): void {
  const by = event.altKey && event.key === 'ArrowUp' ? -1 : event.altKey && event.key === 'ArrowDown' ? 1 : null
  if (by === null) return
  event.preventDefault()
  event.stopPropagation()
  emit('move', by)
}
</script>

<template>
  <div>
    <div class="head" @keydown="keys">
      <v-btn size="x-small" variant="text" class="fold" draggable="true" :aria-expanded="!folded" :aria-label="`${folded ? 'Unfold' : 'Fold'} ${device.name}`" title="Fold and unfold; drag it, or Alt ↑ ↓, to move the device" @click="emit('fold')" @dragstart="emit('drag')"><span class="swatch" :class="{ hollow: folded }" :style="{ background: folded ? 'none' : `rgb(var(--v-theme-${color}))`, borderColor: `rgb(var(--v-theme-${color}))` }" /></v-btn>
      <v-btn class="name" variant="text" size="small" :title="says" @click="emit('press')">{{ device.name }}</v-btn>
      <span v-if="folded" class="mono small worth"><slot /></span>
      <v-btn v-if="hand !== null && !folded" size="x-small" variant="text" class="reach" :class="{ on: reaching || isPressed }" :disabled="!hands.inReach" :aria-pressed="hand === 'switch' ? isPressed : reaching" :aria-label="`${hand === 'switch' ? 'Press' : 'A hand before'} ${device.name}`" :title="HAND_SAYS[hand]" @click="useHand">☟</v-btn>
      <PageButton v-if="!folded" page="devices" :word="device.kind" :about="device.title" />
      <span class="port mono" :class="{ real }" :title="real ? `Port ${device.port}: a real device, at the other end of the wire` : `Port ${device.port}`">{{ real ? '⌁' : '' }}{{ device.port }}</span>
    </div>
    <SenseHand v-if="reaching && hand === 'eye' && !folded" :device="device" />
  </div>
</template>

<style scoped>
.head { display: flex; align-items: center; gap: 4px; }
.fold { padding: 0 3px !important; margin-left: -3px; cursor: grab; }
.swatch { width: 10px; height: 10px; border-radius: 2px; border: 2px solid; display: block; }
.name { font-weight: 700; font-size: 13.5px; flex: 1; min-width: 0; justify-content: flex-start; padding: 0 2px !important; margin: -3px 0; }
.name :deep(.v-btn__content) { overflow: hidden; text-overflow: ellipsis; display: block; }
.reach { padding: 0 4px !important; color: var(--muted); }
.reach.on { background: var(--signal-tint); color: var(--ink); }
.worth { white-space: nowrap; }
.port.real { color: var(--good); border-color: currentColor; font-weight: 700; }
.port { font-size: 12px; color: var(--muted); border: 1px solid var(--line); border-radius: 3px; padding: 0 4px; }
</style>
