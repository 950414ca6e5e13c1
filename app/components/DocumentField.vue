<script setup lang="ts">
import { useId } from 'vue'
import { nudgedByKey } from '~/shown/quantities'

/** One value of a document: its name, its field, what it does, and what is wrong with it. */
const { value, usual = null, choices = null } = defineProps<{ name: string, value: string, usual?: string | null, choices?: readonly string[] | null, says: string, wrong: string }>()
const emit = defineEmits<{ set: [value: string] }>()
defineOptions({ inheritAttrs: false })
const id = useId()

function nudge(event: KeyboardEvent): void {
  const next = nudgedByKey(value === '' ? usual ?? '' : value, event)
  if (next !== null) emit('set', next)
}
</script>

<template>
  <div class="field-line" v-bind="$attrs">
    <label :for="id">{{ name }}</label>
    <v-select v-if="choices !== null" :id="id" :model-value="value || usual" :items="choices" :error="wrong !== ''" :aria-describedby="`${id}-wrong`" @update:model-value="emit('set', $event)" />
    <v-text-field v-else :id="id" :model-value="value" :placeholder="usual ?? ''" class="mono" :error="wrong !== ''" :aria-describedby="`${id}-wrong`" @update:model-value="emit('set', $event)" @keydown="nudge" />
    <small>{{ says }}</small><i :id="`${id}-wrong`">{{ wrong }}</i>
  </div>
</template>
