<script setup lang="ts">
import { useGuideStore } from '~/features/guide/guide'
import { keySheet } from '~/composables/useKeys'

/** What explains: the guide beside the Bench, and the keys. */
const guide = useGuideStore()
</script>

<template>
  <v-menu>
    <template #activator="{ props: opener }"><v-btn v-bind="opener" color="bar" class="help" aria-label="Guide and keys">?</v-btn></template>
    <v-list>
      <v-list-item data-guide @click="guide.open = !guide.open">{{ guide.open ? 'Put the guide away' : 'Guide beside the Bench' }}</v-list-item>
      <v-list-item @click="keySheet = true">All keys <kbd class="key">?</kbd></v-list-item>
    </v-list>
  </v-menu>
</template>
