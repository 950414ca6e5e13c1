<script setup lang="ts">
import { nudged } from './quantities'

/** One value of the robot document: its name, its field, what it does, and what is wrong with it. */
const { value, usual = null, choices = null } = defineProps<{ name: string, value: string, usual?: string | null, choices?: readonly string[] | null, says: string, wrong: string }>()
const emit = defineEmits<{ set: [value: string] }>()
defineOptions({ inheritAttrs: false })

const typed = (event: Event): void => emit('set', (event.target as HTMLInputElement).value)
/** Up and down move a number by one of its unit, with alt by a tenth. */
function nudge(event: KeyboardEvent): void {
  const by = event.key === 'ArrowUp' ? 1 : event.key === 'ArrowDown' ? -1 : 0
  if (by === 0) return
  const next = nudged(value === '' ? usual ?? '' : value, by, event.altKey)
  if (next === null) return
  event.preventDefault()
  emit('set', next)
}
</script>

<template>
  <label class="field-line"><span>{{ name }}</span>
    <select v-if="choices !== null" :value="value || usual" v-bind="$attrs" @change="typed">
      <option v-for="c in choices" :key="c" :value="c">{{ c }}</option>
    </select>
    <input v-else :value="value" :placeholder="usual ?? ''" class="mono" v-bind="$attrs" @input="typed" @keydown="nudge">
    <small>{{ says }}</small><i>{{ wrong }}</i>
  </label>
</template>
