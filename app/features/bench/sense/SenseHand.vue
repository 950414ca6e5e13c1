<script setup lang="ts">
import { computed } from 'vue'
import type { DeviceFacts } from '~~/core/robot'
import { NEAREST } from '~/features/bench/act/hands-shown'
import { useHandsStore } from '~/features/bench/hands'
import { shownLength } from '~/shown/lengths'

/** A hand before a sensor, near or far, or over it. */
const { device } = defineProps<{ device: DeviceFacts }>()
const hands = useHandsStore()

/** How far a hand is held before what says no range of its own, metres. */
const USUAL = 0.5
const farthest = computed(() => {
  const { range, reach, span } = device.parameters as { readonly range?: number, readonly reach?: number, readonly span?: number }
  return range ?? reach ?? span ?? USUAL
})
/** The slider has more room for what is near: it goes with the root of the distance. */
const STEPS = 100
const distance = computed(() => hands.before.get(device.name) ?? null)
const shareOf = (metres: number): number => STEPS * Math.sqrt(Math.max(0, metres - NEAREST) / (farthest.value - NEAREST))
const place = computed({
  get: () => shareOf(distance.value ?? farthest.value / 3),
  set: (share: number) => hands.hold(device.name, Math.round((NEAREST + (share / STEPS) ** 2 * (farthest.value - NEAREST)) * 1000) / 1000),
})
const isCovered = computed(() => hands.covered.has(device.name))
</script>

<template>
  <div class="hand">
    <v-slider v-model="place" :min="0" :max="STEPS" :step="1" :disabled="!hands.inReach || isCovered" :aria-label="`Hand before ${device.name}`" :aria-valuetext="distance === null ? 'none' : shownLength(distance)" :title="`From ${shownLength(NEAREST)} to ${shownLength(farthest)}`" />
    <span class="mono far">{{ isCovered ? 'on it' : distance === null ? '—' : shownLength(distance) }}</span>
    <v-btn size="x-small" :disabled="!hands.inReach" :aria-pressed="isCovered" :class="{ on: isCovered }" title="Put the hand over it" @click="hands.cover(device.name, !isCovered)">cover</v-btn>
  </div>
</template>

<style scoped>
.hand { display: flex; align-items: center; gap: 5px; height: 26px; }
.hand :deep(.v-slider) { flex: 1; min-width: 40px; margin-inline: 6px 2px; }
.far { font-size: 12px; min-width: 50px; text-align: right; white-space: nowrap; }
.on { background: var(--signal-tint); font-weight: 700; }
</style>
