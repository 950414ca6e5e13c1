<script setup lang="ts">
import { computed, onMounted, ref, useTemplateRef, watch } from 'vue'
import { screenWords } from '~~/core/devices'
import type { DeviceFacts, RobotFacts } from '~~/core/robot'
import { deviceColor } from '~/shown/readings'
import { Glass, screenAt } from '~/shown/screen'
import { useColors } from '~/composables/useColors'
import { useLive } from '~/composables/useLive'
import { useBenchStore } from '~/features/bench/bench'

/** A display: what stands on it, dot for dot. */
const props = defineProps<{ device: DeviceFacts, facts: RobotFacts, folded: boolean }>()
const emit = defineEmits<{ fold: [], move: [by: 1 | -1], drag: [] }>()
const bench = useBenchStore()
const colors = useColors()
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const color = computed(() => deviceColor(props.facts, props.device.name))
const kept = ref('')
let glass: Glass | null = null

function make(): void {
  glass = canvas.value === null ? null : new Glass(props.device, props.facts.pictures, canvas.value)
  now()
}
const { now } = useLive(10, () => {
  if (bench.tape === null) return
  kept.value = screenAt(bench.tape, props.device.name, bench.shownTick)
  glass?.show(kept.value, colors.value('bar'), colors.value('on-bar'))
})
onMounted(make)
watch(() => props.facts, make)
watch(colors, now)
const words = computed(() => screenWords(kept.value))
</script>

<template>
  <li class="row" :data-device="device.name" title="What stands on it">
    <SenseHead class="above" :device="device" :color="color" :folded="folded" says="What stands on it" @fold="emit('fold')" @move="emit('move', $event)" @drag="emit('drag')">{{ words }}</SenseHead>
    <canvas v-show="!folded" ref="canvas" class="glass" role="img" :aria-label="words === '' ? `Nothing stands on ${device.name}` : `${device.name} shows: ${words}`" :data-shows="words" />
  </li>
</template>

<style scoped>
.row { padding: 8px 10px 7px; border-bottom: 1px solid var(--line); }
.above { margin-bottom: 5px; }
.glass { width: 100%; display: block; border: 1px solid var(--line); border-radius: 3px; }
</style>
