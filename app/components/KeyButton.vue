<script setup lang="ts">
/** A button that shows its key, and says more to whoever rests on it. */
defineProps<{ keys?: string, says?: string }>()
</script>

<template>
  <v-btn>
    <slot /><kbd v-if="keys !== undefined" class="key" aria-hidden="true">{{ keys }}</kbd>
    <v-tooltip v-if="says !== undefined" activator="parent" :text="says" :aria-label="says" />
  </v-btn>
</template>
