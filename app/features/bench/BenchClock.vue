<script setup lang="ts">
import { ref } from 'vue'
import { useLive } from '~/composables/useLive'
import { useBenchStore } from './bench'

/** The time of the instant looked at. */
const bench = useBenchStore()
const clock = ref(0)
useLive(10, () => { clock.value = bench.time })
</script>

<template>
  <span class="mono clock" role="timer" aria-label="Clock">{{ clock.toFixed(2) }} s</span>
</template>
