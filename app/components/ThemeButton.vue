<script setup lang="ts">
import { useAppTheme } from '~/composables/useAppTheme'

/** Light or dark. */
const { dark, toggle } = useAppTheme()
</script>

<template>
  <v-btn color="bar" :aria-label="dark ? 'Light theme' : 'Dark theme'" @click="toggle">{{ dark ? '☀' : '☾' }}</v-btn>
</template>
