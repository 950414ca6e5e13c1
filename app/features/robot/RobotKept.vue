<script setup lang="ts">
import { computed, onMounted, useTemplateRef, watch } from 'vue'
import { dotsOf } from '~~/core/robot'
import { useColors } from '~/composables/useColors'
import { usePickedFile } from '~/composables/useFiles'
import { useKeptFiles, type DraftClip, type DraftPicture } from './kept'
import { useRobotStore } from './robot'

/** What the robot keeps for its programs: clips for the horn, pictures for a display. */
const store = useRobotStore()
const emit = defineEmits<{ told: [words: string] }>()
const colors = useColors()
const { takeClip, takePicture } = useKeptFiles()
const openClip = usePickedFile('.wav', async file => emit('told', await takeClip(file)))
const openPicture = usePickedFile('image/png,image/jpeg,image/webp,image/gif', async file => emit('told', await takePicture(file)))

const clips = computed(() => (store.draft['clips'] ?? []) as DraftClip[])
const pictures = computed(() => (store.draft['pictures'] ?? []) as DraftPicture[])
const has = (kind: string): boolean => (store.draft.devices ?? []).some(d => d.kind === kind)
const length = (clip: DraftClip): string => {
  const known = store.robot?.clips.find(c => c.name === clip.name)
  return known === undefined ? '' : `${known.length.toFixed(1)} s`
}
function rename(what: 'clips' | 'pictures', at: number, event: Event): void {
  const { value } = event.target as HTMLInputElement
  store.change('', (d) => { (d[what] as { name?: string }[])[at]!.name = value })
}
function remove(what: 'clips' | 'pictures', at: number): void { store.change('', (d) => { (d[what] as unknown[]).splice(at, 1) }) }

const canvases = useTemplateRef<HTMLCanvasElement[]>('canvases')
function draw(): void {
  pictures.value.forEach(({ size, dots }, i) => {
    const ctx = canvases.value?.[i]?.getContext('2d')
    const lit = size === undefined || dots === undefined ? null : dotsOf({ size, dots })
    if (ctx == null || lit === null || size === undefined) return
    ctx.canvas.width = size[0]
    ctx.canvas.height = size[1]
    ctx.fillStyle = colors.value('bar')
    ctx.fillRect(0, 0, size[0], size[1])
    ctx.fillStyle = colors.value('on-bar')
    lit.forEach((dot, at) => { if (dot === 1) ctx.fillRect(at % size[0], Math.floor(at / size[0]), 1, 1) })
  })
}
onMounted(draw)
watch([pictures, colors], draw, { flush: 'post' })
</script>

<template>
  <section v-if="has('horn') || has('display') || clips.length + pictures.length > 0" class="kept" aria-label="Clips and pictures">
    <h2>Clips and pictures</h2>
    <div v-for="(c, i) in clips" :key="`clip ${i}`" class="line" :data-clip="c.name">
      <v-text-field :model-value="c.name" class="mono" aria-label="Name of the clip" @change="rename('clips', i, $event)" />
      <span class="small">{{ length(c) }}</span>
      <v-btn size="x-small" variant="text" :aria-label="`Remove ${c.name}`" @click="remove('clips', i)">✕</v-btn>
    </div>
    <div v-for="(p, i) in pictures" :key="`picture ${i}`" class="line" :data-picture="p.name">
      <v-text-field :model-value="p.name" class="mono" aria-label="Name of the picture" @change="rename('pictures', i, $event)" />
      <canvas ref="canvases" class="dots" role="img" :aria-label="`The picture ${p.name}`" />
      <v-btn size="x-small" variant="text" :aria-label="`Remove ${p.name}`" @click="remove('pictures', i)">✕</v-btn>
    </div>
    <div class="line">
      <v-btn v-if="has('horn')" size="small" title="A WAV file, up to 10 s: play NAME" @click="openClip()">Add a clip</v-btn>
      <v-btn v-if="has('display')" size="small" title="A PNG, reduced to the display's dots: show picture NAME" @click="openPicture()">Add a picture</v-btn>
    </div>
  </section>
</template>

<style scoped>
.kept { padding: 8px 12px; border-top: 1px solid var(--line); }
.kept h2 { font-size: 13.5px; margin: 0 0 6px; }
.line { display: grid; grid-template-columns: 1fr auto auto; gap: 8px; align-items: center; padding: 2px 0; }
.line:last-child { display: flex; padding-top: 6px; }
.dots { height: 32px; image-rendering: pixelated; border: 1px solid var(--line); border-radius: 2px; }
</style>
