<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, shallowRef, useTemplateRef, watch } from 'vue'
import { readRobot } from '~~/core/robot'
import { inLengthUnit } from '~/shown/lengths'
import type { Picture } from './picture'
import { Plan } from './plan'
import { robotLooks } from './robot-looks'
import { useColors } from '~/composables/useColors'
import { useKept } from '~/composables/useKept'
import { useLive } from '~/composables/useLive'
import { useBenchStore } from '~/features/bench/bench'
import { useProjectStore } from '~/draft/project'

/** The arena, live, and how far the task's goals are. */
type View = 'above' | 'perspective'

const bench = useBenchStore()
const project = useProjectStore()
const colors = useColors()
const place = useTemplateRef<HTMLElement>('place')
const view = useKept<View>('view', 'above')
const failed = shallowRef<string | null>(null)
let picture: Picture | null = null
let observer: ResizeObserver | null = null
let built: unknown = null
let wanted = 0

const { now } = useLive(60, () => {
  const { opened, row, tape } = bench
  if (picture === null || opened === null || row === null || tape === null) return
  if (built !== opened) build()
  picture.draw(row, bench.shownTick, tick => tape.find(tick))
})

onMounted(() => {
  observer = new ResizeObserver(([entry]) => {
    if (entry !== undefined) picture?.resize(entry.contentRect.width, entry.contentRect.height)
    now()
  })
  observer.observe(place.value!)
  void show(view.value)
})
onBeforeUnmount(() => {
  observer?.disconnect()
  picture?.dispose()
})
watch(colors, () => { built = null; now() })
watch(view, v => show(v))

/** Makes the picture for a view. A canvas keeps its kind, so each view has one of its own. */
async function show(v: View): Promise<void> {
  const mine = ++wanted
  const canvas = document.createElement('canvas')
  canvas.setAttribute('role', 'img')
  canvas.setAttribute('aria-label', v === 'above' ? 'The arena from above' : 'The arena in three dimensions')
  const color = (name: string): string => colors.value(name)
  let next: Picture
  try {
    // Three dimensions are loaded when somebody wants to see them.
    next = v === 'above' ? new Plan(canvas, color) : new (await import('./stage')).Stage(canvas, color)
    failed.value = null
  } catch {
    failed.value = 'This browser cannot draw in three dimensions (WebGL is off). The view from above works without.'
    return
  }
  if (mine !== wanted || place.value === null) { next.dispose(); return }
  picture?.dispose()
  picture = next
  built = null
  place.value.replaceChildren(canvas)
  picture.resize(place.value.clientWidth, place.value.clientHeight)
  now()
}

function build(): void {
  const { opened } = bench
  const robot = readRobot(project.data?.robot)
  if (opened === null || !robot.ok || picture === null) return
  picture.build(opened, robotLooks(robot.value))
  built = opened
}

/** What a hand has hold of: dragging puts it elsewhere, with shift it turns towards the pointer. */
let grabbed: string | null = null
function grab(event: PointerEvent): void {
  const box = place.value!.getBoundingClientRect()
  grabbed = event.button === 0 ? picture?.pick(event.clientX - box.left, event.clientY - box.top)?.what ?? null : null
  if (grabbed !== null) (event.currentTarget as Element).setPointerCapture(event.pointerId)
}
function letGo(): void { grabbed = null }

function drag(event: PointerEvent): void {
  if (event.buttons !== 1) return
  if (grabbed !== null) {
    const box = place.value!.getBoundingClientRect()
    const at = picture?.pick(event.clientX - box.left, event.clientY - box.top)
    const { row, opened } = bench
    if (at == null || row === null || opened === null) return
    if (event.shiftKey && grabbed === 'robot') {
      const { body } = opened.layout
      const heading = -Math.atan2(at.y - row[body + 1]!, at.x - row[body]!)
      bench.poke({ poke: 'put', what: grabbed, x: row[body]!, y: row[body + 1]!, heading })
    } else bench.poke({ poke: 'put', what: grabbed, x: at.x, y: at.y, heading: null })
    return
  }
  picture?.turnEye(-event.movementX * 0.006, event.movementY * 0.005)
  now()
}
function wheel(event: WheelEvent): void {
  picture?.zoom(event.deltaY > 0 ? 1.08 : 1 / 1.08)
  now()
}

const SIGN = { open: '○', held: '●', met: '●', failed: '✕' } as const
const SAYS = { open: 'not yet', held: 'holds so far', met: 'met', failed: 'failed' } as const
const goals = computed(() => (bench.opened?.goals ?? []).map((sentence, i) => {
  const state = bench.goals[i]
  const status = state?.status ?? 'open'
  return { sentence, status, sign: SIGN[status], says: SAYS[status], progress: state?.progress ?? '', at: state?.at ?? null }
}))
const title = computed(() => (project.data?.task as { title?: string } | null)?.title ?? '')
const outcome = computed(() => {
  if (bench.end === null) return ''
  const { ended, reason, time } = bench.end
  const what = ended === 'finished' ? `finished: ${reason}` : ended === 'time' ? 'time is up' : `stopped: ${reason}`
  return `${what}, after ${time.toFixed(1)} s`
})
defineExpose({ setView: (v: View) => { view.value = v } })
</script>

<template>
  <section class="act" aria-label="Act">
    <header class="head">
      <h2>Act</h2>
      <v-btn-toggle v-model="view" class="views" role="group" aria-label="View">
        <KeyButton value="above" :aria-pressed="view === 'above'" keys="1">Above</KeyButton>
        <KeyButton value="perspective" :aria-pressed="view === 'perspective'" keys="2">3D</KeyButton>
      </v-btn-toggle>
    </header>
    <div class="stage" @pointerdown="grab" @pointerup="letGo" @pointercancel="letGo" @pointermove="drag" @wheel.prevent="wheel">
      <div ref="place" class="place" />
      <p v-if="failed !== null" class="flat-only">{{ failed }}</p>
      <div v-if="bench.failure !== null" class="card problems" role="alert"><b>✕ {{ bench.failure }}</b></div>
      <div v-if="bench.problems.length > 0" class="card problems" role="alert">
        <b>This cannot be built:</b>
        <div v-for="p in bench.problems" :key="`${p.document}${p.path}`">{{ p.document }}, <span class="mono">{{ p.path }}</span>: found {{ p.value }}; {{ p.message }}</div>
      </div>
      <div v-if="!bench.byHand && (goals.length > 0 || outcome !== '')" class="card goals" aria-label="Goals">
        <div v-if="outcome !== ''" class="outcome" :title="`tape ${bench.hash ?? ''}`" :data-hash="bench.hash">{{ outcome }}</div>
        <div v-for="goal in goals" :key="goal.sentence" class="goal" :class="goal.status" :data-status="goal.status">
          <span class="sign" :title="goal.says">{{ goal.sign }}</span>
          <span>{{ inLengthUnit(goal.sentence) }}</span>
          <span class="mono progress">{{ inLengthUnit(goal.progress) }}</span>
        </div>
        <div v-if="bench.opened !== null" class="small">{{ title === '' ? '' : `${title} · ` }}limit {{ bench.opened.limit }} s</div>
      </div>
    </div>
  </section>
</template>

<style scoped>
.act { display: flex; flex-direction: column; min-height: 0; background: var(--panel); }
.head { display: flex; align-items: center; justify-content: space-between; padding: 0 12px; height: 33px; border-bottom: 1px solid var(--line); flex: none; }
.head h2 { font-size: 13.5px; margin: 0; }
.stage { position: relative; flex: 1; min-height: 0; overflow: hidden; background: var(--ground); }
.place { position: absolute; inset: 0; contain: strict; will-change: transform; }
.place :deep(canvas) { position: absolute; inset: 0; width: 100%; height: 100%; display: block; touch-action: none; }
.card { position: absolute; left: 10px; background: color-mix(in srgb, var(--panel) 94%, transparent); border: 1px solid var(--line); border-radius: 5px; padding: 7px 11px; max-width: calc(100% - 20px); }
.goals { bottom: 10px; }
.problems { top: 10px; border-color: var(--error); }
.outcome { font-weight: 700; margin-bottom: 3px; }
.goal { display: flex; gap: 8px; }
.goal .sign { width: 14px; flex: none; }
.goal.met .sign, .goal.held .sign { color: var(--good); }
.goal.failed { color: var(--error); font-weight: 600; }
.progress { margin-left: auto; padding-left: 12px; white-space: nowrap; }
.flat-only { position: absolute; inset: 20px; color: var(--muted); }
</style>
