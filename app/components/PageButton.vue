<script setup lang="ts">
import { ref, watch } from 'vue'
import { pageOf, type PageName } from '~/shown/pages'

/** Opens the page that explains something, beside it. */
const props = defineProps<{ page: PageName, word: string, about: string }>()
const open = ref(false)
const html = ref('')
watch(open, async (now) => { if (now) html.value = await pageOf(props.page, props.word) })
</script>

<template>
  <v-menu v-model="open" :close-on-content-click="false" location="end top" max-width="460">
    <template #activator="{ props: opener }"><v-btn v-bind="opener" size="x-small" variant="text" class="ask" :aria-label="`About ${about}`">?</v-btn></template>
    <v-card v-if="open" class="page" role="dialog" tabindex="0" :aria-label="`About ${about}`">
      <!-- The text is of our own docs. -->
      <!-- eslint-disable-next-line vue/no-v-html -->
      <div v-html="html" />
    </v-card>
  </v-menu>
</template>

<style scoped>
.ask { color: var(--muted); min-width: 18px; }
.page { padding: 10px 16px 12px; max-height: 60vh; overflow: auto; line-height: 1.42; }
.page :deep(:is(p, ul, pre, table)) { margin: 0 0 8px; }
.page :deep(ul) { padding-left: 18px; }
.page :deep(:is(code, pre)) { font-family: var(--mono); font-size: 12.5px; }
.page :deep(pre) { background: var(--ground); border-radius: 4px; padding: 6px 10px; overflow: auto; }
.page :deep(:is(th, td)) { padding: 1px 12px 1px 0; text-align: left; font-weight: 400; }
.page :deep(th) { color: var(--muted); font-size: 12px; }
</style>
