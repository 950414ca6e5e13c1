<script setup lang="ts">
import { nextTick, ref, useTemplateRef } from 'vue'
import { editComment, type Comment } from '~~/core/editing'
import { useRulesStore } from './rules'

/** A comment: press to write it anew; without words it goes. A bare button and field: they stand in the middle of the program's text, as high as it. */
const props = defineProps<{ comment: Comment }>()
const rules = useRulesStore()
const input = useTemplateRef<HTMLInputElement>('input')
const writing = ref(false)
const text = ref('')

async function begin(): Promise<void> {
  text.value = props.comment.text
  writing.value = true
  await nextTick()
  input.value?.focus()
}
function end(keep: boolean): void {
  if (!writing.value) return
  writing.value = false
  const { from, to } = props.comment
  if (keep && text.value.trim() !== props.comment.text) rules.change(s => editComment(s, from, to, text.value))
}
</script>

<template>
  <input v-if="writing" ref="input" v-model="text" class="comment" aria-label="Comment" @keydown.enter.prevent="end(true)" @keydown.esc.stop="end(false)" @blur="end(true)">
  <button v-else type="button" class="comment" @click="begin"># {{ comment.text }}</button>
</template>

<style scoped>
.comment { color: rgb(var(--v-theme-syntax-comment)); font-style: italic; font-size: 13px; text-align: left; max-width: 100%; }
button.comment:hover { text-decoration: underline; }
input.comment { border-bottom: 1px dashed var(--muted); width: 100%; }
</style>
