<script setup lang="ts">
import { computed } from 'vue'
import { useKeys } from '~/composables/useKeys'
import { useBenchStore } from '~/features/bench/bench'
import { usePoseStore } from '~/wire/pose'

/** The other way round: the simulated robot poses as the board, for programs that people have already. */
const pose = usePoseStore()
const bench = useBenchStore()
const says = computed(() => pose.why !== null ? `✕ ${pose.why}` : {
  none: '○ nobody can drive it', opening: '… opening',
  listening: `● at 127.0.0.1:${pose.at}; the run begins when a client comes`, driven: `▶ driven by a client at 127.0.0.1:${pose.at}: see the Bench`,
}[pose.stage])
function toggle(): void {
  if (pose.stage === 'none') pose.listen(() => bench.beDriven())
  else pose.close()
}
function setPort(event: Event): void {
  const value = Number((event.target as HTMLInputElement).value)
  if (Number.isInteger(value) && (value === 0 || (value >= 1024 && value <= 65_535))) pose.port = value
}
useKeys('As a board', { l: { says: 'pose as a board, or no longer', act: toggle } })
</script>

<template>
  <HardwarePart title="The other way round" label="As a board">
    <p class="about">The simulated robot poses as this board: a program in any language, with any client for Firmata, drives it through these pins, live on the Bench.</p>
    <div class="line">
      <v-text-field class="mono" type="number" min="0" max="65535" prefix="port" :model-value="pose.port" :disabled="pose.stage !== 'none'" aria-label="Port at which it poses as a board" @change="setPort" />
      <KeyButton keys="L" :says="pose.stage === 'none' ? 'Listens at this port of the machine that serves the page' : 'Listens no longer'" @click="toggle">{{ pose.stage === 'none' ? 'Listen' : 'Close' }}</KeyButton>
    </div>
    <p class="state" :class="{ bad: pose.why !== null }" role="status">{{ says }}</p>
  </HardwarePart>
</template>
