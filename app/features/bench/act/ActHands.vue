<script setup lang="ts">
import { computed, ref } from 'vue'
import { readQuantity, kindOf } from '~~/core/units'
import { ROBOT } from '~~/core/simulation'
import { useHandsStore } from '~/features/bench/hands'
import { nudgedByKey } from '~/shown/quantities'

/** What hands do to the robot, to pieces and to the lamps, while the run goes on. */
const hands = useHandsStore()
const forward = ref('10 cm')
const right = ref('90 deg')

/** A written measure in SI units, and what is wrong with it. */
function measure(text: string, kind: 'length' | 'angle'): { readonly value: number, readonly wrong: string } {
  const read = readQuantity(text, kindOf(kind))
  return read.ok ? { value: read.value, wrong: '' } : { value: 0, wrong: read.reason }
}
const way = computed(() => measure(forward.value, 'length'))
const angle = computed(() => measure(right.value, 'angle'))
const light = computed({ get: () => Math.round(hands.light * 100), set: (share: number) => hands.dim(share / 100) })
</script>

<template>
  <div class="hands" role="group" aria-label="Hands in the run">
    <v-select v-model="hands.chosen" class="what" :items="hands.things" aria-label="What is in hand" />
    <KeyButton size="small" :disabled="!hands.inReach || hands.isAway" says="Knock against it: a piece away from the robot. With Ctrl and the pointer: any way, harder the farther one drags" @click="hands.knock(hands.chosen)">knock</KeyButton>
    <template v-if="hands.chosen === ROBOT">
      <span class="pair">
        <v-text-field v-model="forward" class="mono" aria-label="How far forward" :error="way.wrong !== ''" :title="way.wrong || 'How far forward; below zero is back'" @keydown="forward = nudgedByKey(forward, $event) ?? forward" @keydown.enter.stop="hands.carry(way.value, 0)" />
        <KeyButton size="small" :disabled="!hands.inReach || way.wrong !== ''" says="Carry the robot exactly so far forward; its wheels do not turn" @click="hands.carry(way.value, 0)">carry</KeyButton>
      </span>
      <span class="pair">
        <v-text-field v-model="right" class="mono" aria-label="How far to the right" :error="angle.wrong !== ''" :title="angle.wrong || 'How far to the right; below zero is left'" @keydown="right = nudgedByKey(right, $event) ?? right" @keydown.enter.stop="hands.carry(0, angle.value)" />
        <KeyButton size="small" :disabled="!hands.inReach || angle.wrong !== ''" says="Turn the robot exactly so far to the right" @click="hands.carry(0, angle.value)">turn</KeyButton>
      </span>
    </template>
    <template v-else>
      <KeyButton v-if="hands.isAway" size="small" :disabled="!hands.inReach" says="Put it back to where it was" @click="hands.giveBack(hands.chosen)">put back</KeyButton>
      <KeyButton v-else size="small" :disabled="!hands.inReach" says="Take it out of the arena, also out of the robot’s grip" @click="hands.take(hands.chosen)">take away</KeyButton>
    </template>
    <KeyButton size="small" keys="C" :disabled="!hands.inReach" says="Clap, half a metre before the robot" @click="hands.clap()">clap</KeyButton>
    <span class="pair light">
      <span id="hands-light">light</span>
      <v-slider v-model="light" :min="0" :max="100" :step="5" :disabled="!hands.inReach" aria-labelledby="hands-light" :aria-valuetext="`${light} %`" title="Of what the arena’s lamps and light give" />
      <span class="mono share">{{ light }} %</span>
    </span>
  </div>
</template>

<style scoped>
.hands { display: flex; flex-wrap: wrap; align-items: center; gap: 5px 8px; padding: 5px 12px; border-bottom: 1px solid var(--line); background: var(--field); flex: none; }
.what { flex: 0 1 130px; min-width: 100px; }
.pair { display: flex; align-items: center; gap: 3px; }
.pair :deep(.v-text-field) { width: 76px; flex: none; }
.light { flex: 1 1 130px; min-width: 130px; max-width: 220px; font-size: 12.5px; }
.light :deep(.v-slider) { margin-inline: 8px; }
.share { min-width: 40px; text-align: right; }
</style>
