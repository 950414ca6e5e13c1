<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'

/** Shown in place of what could not be had: what it is, why, and what to do. It asks again by itself, or at once by hand. */
const props = withDefaults(defineProps<{ title: string, why: string | null, again?: boolean }>(), { again: true })
const emit = defineEmits<{ again: [] }>()
/** How often one asks again, milliseconds. */
const EVERY = 3000
useIntervalFn(() => { if (props.again) emit('again') }, EVERY)
</script>

<template>
  <section class="none" role="alert">
    <h2>{{ title }}</h2>
    <p v-if="why !== null">{{ why.slice(0, 1).toUpperCase() }}{{ why.slice(1) }}{{ /[.!?]$/.test(why) ? '' : '.' }}</p>
    <template v-if="again">
      <p class="small">What is not saved yet stays in this browser. The server is started by <code>./mindpath start</code>; this page asks again every few seconds.</p>
      <v-btn @click="emit('again')">Ask again now</v-btn>
    </template>
    <slot />
  </section>
</template>

<style scoped>
.none { max-width: 520px; padding: 40px 0; }
h2 { font-size: 17px; margin: 0 0 8px; }
p { margin: 0 0 10px; }
</style>
