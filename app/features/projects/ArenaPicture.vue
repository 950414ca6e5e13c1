<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, shallowRef, useTemplateRef } from 'vue'
import { layOut, readArena } from '~~/core/arena'
import { useProjectsStore } from './projects'

/** A small plan of an arena as seed 1 lays it out, fetched when it comes into sight. */
const props = defineProps<{ document: string }>()
const projects = useProjectsStore()

const place = useTemplateRef<HTMLElement>('place')
/** undefined until it is there; null when it cannot be had. */
const arena = shallowRef<unknown>(undefined)
const observer = new IntersectionObserver((entries) => {
  if (!entries.some(e => e.isIntersecting)) return
  observer.disconnect()
  void projects.document(props.document).then((kept) => { arena.value = kept })
}, { rootMargin: '300px' })
onMounted(() => { if (place.value !== null) observer.observe(place.value) })
onBeforeUnmount(() => observer.disconnect())

const plan = computed(() => {
  if (arena.value === undefined) return null
  const read = readArena(arena.value)
  if (!read.ok) return null
  return layOut(read.value, 1)
})
</script>

<template>
  <div v-if="arena === undefined" ref="place" class="plan" />
  <svg
    v-else-if="plan !== null" class="plan" :viewBox="`-0.12 -0.12 ${plan.arena.size[0] + 0.24} ${plan.arena.size[1] + 0.24}`"
    :class="plan.arena.surround" preserveAspectRatio="xMidYMid meet" aria-hidden="true"
  >
    <ArenaFigures :layout="plan" robot />
  </svg>
  <div v-else class="plan broken small">The arena cannot be drawn.</div>
</template>

<style scoped>
.plan { display: block; width: 100%; height: 100%; background: rgb(var(--v-theme-ground)); }
.plan.water { background: rgb(var(--v-theme-water)); }
.broken { display: grid; place-items: center; }
</style>
