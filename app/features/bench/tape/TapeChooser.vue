<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Source } from './sources'

/** Chooses what is traced on the tape. */
const props = defineProps<{ sources: readonly Source[], chosen: readonly string[] }>()
const emit = defineEmits<{ choose: [ids: readonly string[] | null] }>()
const open = ref(false)
const GROUPS = [{ group: 'senses', title: 'Senses' }, { group: 'told', title: 'What motors are told, channel by channel (SI units; power as a share)' }, { group: 'names', title: 'What the program names' }, { group: 'rules', title: 'Which rules want control' }] as const
const groups = computed(() => !open.value ? [] : GROUPS.map(g => ({ ...g, sources: props.sources.filter(s => s.group === g.group) })).filter(g => g.sources.length > 0))

/** In the order of the list, whatever was chosen first. */
function toggle(id: string): void {
  const wanted = new Set(props.chosen)
  if (!wanted.delete(id)) wanted.add(id)
  emit('choose', props.sources.filter(s => wanted.has(s.id)).map(s => s.id))
}
</script>

<template>
  <v-menu v-model="open" :close-on-content-click="false" location="top start">
    <template #activator="{ props: opener }"><v-btn v-bind="opener" size="small">traces ▾</v-btn></template>
    <v-list class="sources" aria-label="What is traced">
      <template v-for="g in groups" :key="g.group">
        <li class="small group" role="presentation">{{ g.title }}</li>
        <v-list-item v-for="s in g.sources" :key="s.id" role="menuitemcheckbox" :aria-checked="chosen.includes(s.id)" :data-source="s.id" @click="toggle(s.id)">
          <span aria-hidden="true">{{ chosen.includes(s.id) ? '☑' : '☐' }}</span> <span class="swatch" :style="{ background: `rgb(var(--v-theme-${s.color}))` }" /> {{ s.title }}
        </v-list-item>
      </template>
      <v-list-item role="menuitem" @click="emit('choose', null)">as usual: what the program compares</v-list-item>
    </v-list>
  </v-menu>
</template>

<style scoped>
.sources { width: 300px; max-height: 60vh; overflow: auto; }
.group { list-style: none; padding: 6px 12px 2px; }
.swatch { display: inline-block; width: 9px; height: 9px; border-radius: 2px; margin: 0 3px; }
</style>
