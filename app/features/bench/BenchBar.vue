<script setup lang="ts">
/** The bar. Its parts are a component of their own: what stands in Vuetify's bar itself is drawn anew with each change of any of it. */
</script>

<template>
  <v-toolbar class="bar">
    <BenchBarParts />
  </v-toolbar>
</template>

<style scoped>
/* How wide the bar is decides what of it stands in words. */
.bar { container: bar / inline-size; contain: layout paint; will-change: transform; }
@container bar (max-width: 1480px) { .bar :deep(.v-toolbar__content) { gap: 4px; } }
@container bar (max-width: 1110px) { .bar :deep(.v-toolbar__content) { gap: 2px; padding-inline: 6px; } }
</style>
