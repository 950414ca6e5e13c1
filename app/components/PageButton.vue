<script setup lang="ts">
import { ref, useTemplateRef, watch } from 'vue'
import { pageOf, type PageName } from '~/shown/pages'

/** Opens the page that explains something, beside it. */
const props = defineProps<{ page: PageName, word: string, about: string }>()
const open = ref(false)
/** Its menu is made when somebody asks first: there are many of these. */
const asked = ref(false)
const button = useTemplateRef<{ readonly $el: HTMLElement }>('button')
/** From then on the menu itself hears the button. */
function first(): void { if (!asked.value) asked.value = open.value = true }
// It may come to stand for something else.
watch(() => props.word, () => { open.value = false })
const html = ref('')
watch(open, async (now) => { if (now) html.value = await pageOf(props.page, props.word) })
</script>

<template>
  <v-btn ref="button" size="x-small" variant="text" class="ask" :aria-label="`About ${about}`" aria-haspopup="menu" :aria-expanded="open" @click="first">?</v-btn>
  <v-menu v-if="asked" v-model="open" :activator="button?.$el" :close-on-content-click="false" location="end top" max-width="460">
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
