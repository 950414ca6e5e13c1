<script setup lang="ts">
import type { DeviceFacts } from '~~/core/robot'

/** The head of a device in Sense: its colour, which folds it and by which it is moved, its name, its page, its port. */
defineProps<{ device: DeviceFacts, color: string, folded: boolean, says: string }>()
const emit = defineEmits<{ fold: [], move: [by: 1 | -1], drag: [], press: [] }>()

function keys(event: KeyboardEvent): void {
  const by = event.altKey && event.key === 'ArrowUp' ? -1 : event.altKey && event.key === 'ArrowDown' ? 1 : null
  if (by === null) return
  event.preventDefault()
  event.stopPropagation()
  emit('move', by)
}
</script>

<template>
  <div class="head" @keydown="keys">
    <v-btn size="x-small" variant="text" class="fold" draggable="true" :aria-expanded="!folded" :aria-label="`${folded ? 'Unfold' : 'Fold'} ${device.name}`" title="Fold and unfold; drag it, or Alt ↑ ↓, to move the device" @click="emit('fold')" @dragstart="emit('drag')"><span class="swatch" :class="{ hollow: folded }" :style="{ background: folded ? 'none' : `rgb(var(--v-theme-${color}))`, borderColor: `rgb(var(--v-theme-${color}))` }" /></v-btn>
    <v-btn class="name" variant="text" size="small" :title="says" @click="emit('press')">{{ device.name }}</v-btn>
    <span v-if="folded" class="mono small worth"><slot /></span>
    <PageButton v-else page="devices" :word="device.kind" :about="device.title" />
    <span class="port mono">{{ device.port }}</span>
  </div>
</template>

<style scoped>
.head { display: flex; align-items: center; gap: 4px; }
.fold { padding: 0 3px !important; margin-left: -3px; cursor: grab; }
.swatch { width: 10px; height: 10px; border-radius: 2px; border: 2px solid; display: block; }
.name { font-weight: 700; font-size: 13.5px; flex: 1; min-width: 0; justify-content: flex-start; padding: 0 2px !important; margin: -3px 0; }
.name :deep(.v-btn__content) { overflow: hidden; text-overflow: ellipsis; display: block; }
.worth { white-space: nowrap; }
.port { font-size: 12px; color: var(--muted); border: 1px solid var(--line); border-radius: 3px; padding: 0 4px; }
</style>
