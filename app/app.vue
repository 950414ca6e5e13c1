<script setup lang="ts">
/** The shell: theme, a notice of the server where there is one, the view. */
useAppTheme()
const { notice } = useServerNotice()
</script>

<template>
  <v-app>
    <div v-if="notice !== null" class="notice" role="alert">{{ notice }}</div>
    <NuxtPage />
    <KeySheet />
  </v-app>
</template>

<style scoped>
.notice { background: var(--signal-tint); color: var(--ink); padding: 8px 16px; border-bottom: 1px solid var(--signal); }
</style>
