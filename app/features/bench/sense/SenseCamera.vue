<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from 'vue'
import { readRobot, withColor } from '~~/core/robot'
import { fromByte } from '~~/core/vision'
import type { DeviceFacts, RobotFacts } from '~~/core/robot'
import { deviceColor } from '~/shown/readings'
import { useColors } from '~/composables/useColors'
import { useBenchStore } from '~/features/bench/bench'
import { useProjectStore } from '~/draft/project'

/** A camera: its picture with what it recognised, and where the largest of each lies. */
const props = defineProps<{ device: DeviceFacts, facts: RobotFacts, folded: boolean }>()
const emit = defineEmits<{ fold: [], move: [by: 1 | -1], drag: [] }>()
const bench = useBenchStore()
const project = useProjectStore()
const colors = useColors()
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const color = computed(() => deviceColor(props.facts, props.device.name))
const picture = computed(() => bench.pictures.get(props.device.name) ?? null)

watch([picture, colors], () => {
  const shown = picture.value
  const ctx = canvas.value?.getContext('2d')
  if (shown === null || canvas.value === null || ctx == null) return
  if (canvas.value.width !== shown.width) { canvas.value.width = shown.width; canvas.value.height = shown.height }
  ctx.putImageData(new ImageData(shown.pixels, shown.width, shown.height), 0, 0)
  ctx.strokeStyle = colors.value('signal')
  ctx.lineWidth = Math.max(1, shown.width / 160)
  for (const m of shown.marks) ctx.strokeRect(m.x - 0.5, m.y - 0.5, m.width + 1, m.height + 1)
}, { flush: 'post' })

/** A colour pointed at in the picture, waiting for its name. */
const pointed = ref<{ red: number, green: number, blue: number, css: string } | null>(null)
const name = ref('')
function point(event: MouseEvent): void {
  const shown = picture.value
  if (shown === null || canvas.value === null) return
  const box = canvas.value.getBoundingClientRect()
  const at = 4 * (Math.floor((event.clientY - box.top) / box.height * shown.height) * shown.width + Math.floor((event.clientX - box.left) / box.width * shown.width))
  const [red, green, blue] = [0, 1, 2].map(i => shown.pixels[at + i] ?? 0) as [number, number, number]
  pointed.value = { red: fromByte(red), green: fromByte(green), blue: fromByte(blue), css: `rgb(${red} ${green} ${blue})` }
  name.value = ''
}
/** Teaches the colour to the robot and to this camera. */
function teach(): void {
  const to = pointed.value
  if (to === null) return
  const { colors: known } = props.device.parameters as { colors: string[] }
  const robot = withColor(project.data?.robot, props.device.name, known, name.value, [to.red, to.green, to.blue])
  const read = readRobot(robot)
  if (!read.ok) { wrong.value = read.problems[0]!.message; return }
  wrong.value = ''
  pointed.value = null
  project.editDocument('robot', robot)
  bench.back()
}
const wrong = ref('')

/** Of each target that is seen: how many, and where the largest lies. */
const seen = computed(() => {
  const { row, opened } = bench
  if (row === null || opened === null || picture.value === null) return []
  const at = (name: string, of: string): number => {
    const i = props.device.readings.findIndex(r => r.name === name && r.of === of)
    return row[opened.layout.readings + props.device.first + i]!
  }
  const targets = [...new Set(props.device.readings.map(r => r.of).filter(of => of !== null))]
  return targets.filter(of => at('sees', of) === 1).map(of => ({
    of, bearing: `${Math.round(at('bearing', of) * 180 / Math.PI) || 0}°`, size: `${(at('size', of) * 100).toFixed(1)} %`,
  }))
})
</script>

<template>
  <li class="row" :data-device="device.name" title="What the camera saw last">
    <SenseHead class="above" :device="device" :color="color" :folded="folded" says="What the camera saw last" @fold="emit('fold')" @move="emit('move', $event)" @drag="emit('drag')">
      {{ seen[0]?.of ?? '' }}
    </SenseHead>
    <canvas v-show="!folded" ref="canvas" class="picture" role="img" :aria-label="`What ${device.name} sees`" title="Click a colour to teach it" @click="point" />
    <form v-if="pointed !== null && !folded" class="teach" @submit.prevent="teach">
      <span class="swatch" :style="{ background: pointed.css }" /><v-text-field v-model="name" class="mono" placeholder="its name" aria-label="Name of the colour" maxlength="32" /><v-btn type="submit" size="small" :disabled="name === ''">Teach</v-btn>
      <i v-if="wrong !== ''">{{ wrong }}</i>
    </form>
    <div v-show="!folded" class="seen mono">
      <div v-for="s in seen.slice(0, 3)" :key="s.of"><span>{{ s.of }}</span><span>{{ s.bearing }}</span><span>{{ s.size }}</span></div>
      <div v-if="seen.length === 0" class="nothing">sees none of its colours</div>
    </div>
  </li>
</template>

<style scoped>
.row { padding: 8px 10px 7px; border-bottom: 1px solid var(--line); }
.above { margin-bottom: 5px; }
.swatch { width: 10px; height: 10px; border-radius: 2px; flex: none; }
.picture { width: 100%; aspect-ratio: 4 / 3; display: block; border: 1px solid var(--line); border-radius: 3px; background: var(--ground); image-rendering: pixelated; }
.teach { display: flex; flex-wrap: wrap; align-items: center; gap: 5px; padding-top: 5px; }
.teach i { color: var(--error); font-style: normal; font-size: 12px; flex-basis: 100%; }
.seen { font-size: 12px; min-height: 51px; padding-top: 4px; }
.seen div { display: grid; grid-template-columns: 1fr 44px 56px; text-align: right; }
.seen div > :first-child { text-align: left; }
.seen .nothing { display: block; text-align: left; color: var(--muted); font-family: var(--text); }
</style>
