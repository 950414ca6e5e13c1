<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core'
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { readRobot } from '~~/core/robot'
import { stuckSaid } from '~~/core/runs'
import { inLengthUnit, shownLength } from '~/shown/lengths'
import { screenAt } from '~/shown/screen'
import ActHands from './ActHands.vue'
import { handsOn } from './hands-shown'
import type { Picture } from './picture'
import { Plan } from './plan'
import { FRAMES, type Frame } from './plan-view'
import { robotLooks } from './robot-looks'
import { usePointer } from './usePointer'
import { useColors } from '~/composables/useColors'
import { useKept } from '~/composables/useKept'
import { useKeys } from '~/composables/useKeys'
import { useLive } from '~/composables/useLive'
import { useBenchStore } from '~/features/bench/bench'
import { useHandsStore } from '~/features/bench/hands'
import { useProjectStore } from '~/draft/project'

/** The arena, live, and how far the task's goals are. */
type View = 'above' | 'perspective'

const bench = useBenchStore()
const hands = useHandsStore()
const project = useProjectStore()
const colors = useColors()
const place = useTemplateRef<HTMLElement>('place')
const view = useKept<View>('view', 'above')
const failed = shallowRef<string | null>(null)
/** What stands still on the picture. */
const frame = useKept<Frame>('frame', 'arena')
const FRAME_SAYS: Readonly<Record<Frame, string>> = { arena: 'The arena stands still', follow: 'The picture goes with the robot', robot: 'The robot stands still, its nose upwards, and the world turns' }
/** Whether dragging lays a ruler. */
const ruling = ref(false)
/** Whether what hands can do stands above the picture. */
const handling = useKept('act.hands', false)
const measured = shallowRef<ReturnType<Picture['measured']>>(null)
let picture: Picture | null = null
let built: unknown = null
let wanted = 0

const { now } = useLive(60, () => {
  const { opened, row, tape } = bench
  if (picture === null || opened === null || row === null || tape === null) return
  if (built !== opened) build()
  picture.draw(row, bench.shownTick, { rowOf: tick => tape.find(tick), screenOf: display => screenAt(tape, display, bench.shownTick), hands: handsOn(tape, bench.shownTick) })
  if (ruling.value) measured.value = picture.measured()
})
useResizeObserver(place, ([entry]) => {
  if (entry !== undefined) picture?.resize(entry.contentRect.width, entry.contentRect.height)
  now()
})
onMounted(() => show(view.value))
onBeforeUnmount(() => picture?.dispose())
watch(colors, () => { built = null; now() })
watch(view, v => show(v))
watch(frame, (f) => { picture?.setFrame(f); now() })
watch(ruling, (on) => {
  if (!on) { picture?.measure(null); measured.value = null }
  now()
})

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
  picture.setFrame(frame.value)
  now()
}

function build(): void {
  const { opened } = bench
  const robot = readRobot(project.data?.robot)
  if (opened === null || !robot.ok || picture === null) return
  picture.build(opened, robotLooks(robot.value))
  built = opened
}

const { grab, drag, letGo, wheel } = usePointer({ place, picture: () => picture, above: () => view.value === 'above', ruling, now })
function zoom(factor: number): void {
  const box = place.value!.getBoundingClientRect()
  picture?.zoom(factor, box.width / 2, box.height / 2)
  now()
}
function pan(dx: number, dy: number): void { picture?.pan(dx, dy); now() }
function turn(around: number, up: number): void { picture?.turnEye(around, up); now() }
function rest(): void { picture?.rest(); now() }
/** Page pixels and radians of one key. */
const STEP = 40
const TURN = 0.1
useKeys('Picture', {
  'g': { says: 'what stands still: arena, follow, robot', act: () => { frame.value = FRAMES[(FRAMES.indexOf(frame.value) + 1) % FRAMES.length]! } },
  'k': { says: 'a ruler, and away', act: () => { ruling.value = !ruling.value } },
  'j': { says: 'what hands can do, and away', act: () => { handling.value = !handling.value } },
  'c': { says: 'clap', act: () => hands.clap() },
  'a': { says: 'all of the arena', act: rest },
  'i': { says: 'nearer', act: () => zoom(1 / 1.25) },
  'o': { says: 'farther', act: () => zoom(1.25) },
  'shift+arrowleft': { says: 'move the picture', act: () => pan(STEP, 0) },
  'shift+arrowright': { says: 'move the picture', act: () => pan(-STEP, 0) },
  'shift+arrowup': { says: 'move the picture', act: () => pan(0, STEP) },
  'shift+arrowdown': { says: 'move the picture', act: () => pan(0, -STEP) },
  'q': { says: 'turn the picture', act: () => turn(-TURN, 0) },
  'e': { says: 'turn the picture', act: () => turn(TURN, 0) },
  't': { says: 'the eye up, down', act: () => turn(0, TURN) },
  'b': { says: 'the eye up, down', act: () => turn(0, -TURN) },
})
const says = computed(() => {
  const m = measured.value
  if (m === null) return view.value === 'above' ? 'drag from one thing to another' : 'lengths are told from above (1)'
  const names = m.from === '' && m.to === '' ? '' : `${m.from || 'there'} to ${m.to || 'there'}: `
  return `${names}${shownLength(m.middles)}${Math.abs(m.middles - m.edges) > 1e-6 ? `, between their edges ${shownLength(m.edges)}` : ''}`
})

const SIGN = { open: '○', held: '●', met: '●', failed: '✕' } as const
const SAYS = { open: 'not yet', held: 'holds so far', met: 'met', failed: 'failed' } as const
const goals = computed(() => (bench.opened?.goals ?? []).map((sentence, i) => {
  const state = bench.goals[i]
  const status = state?.status ?? 'open'
  return { sentence, status, sign: SIGN[status], says: SAYS[status], progress: state?.progress ?? '', at: state?.at ?? null }
}))
/** The best time on this seed, or how this run compares with it. */
const raced = computed(() => {
  const { toBeat, took } = bench
  if (took === null) return toBeat === null ? '' : `best on this seed ${toBeat.toFixed(1)} s`
  if (toBeat === null) return `${took.toFixed(1)} s: the first time on this seed`
  const by = Math.abs(took - toBeat).toFixed(1)
  return took < toBeat ? `${took.toFixed(1)} s: best on this seed, by ${by} s` : `best on this seed ${toBeat.toFixed(1)} s, ${by} s less`
})
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
      <v-btn-toggle v-model="frame" class="frames" role="group" aria-label="What stands still">
        <KeyButton v-for="f in FRAMES" :key="f" :value="f" :aria-pressed="frame === f" :says="`${FRAME_SAYS[f]}. G for the next`">{{ f }}</KeyButton>
      </v-btn-toggle>
      <KeyButton variant="text" size="small" class="ruler" :class="{ on: ruling }" :aria-pressed="ruling" keys="K" says="Lay a ruler from one thing to another" @click="ruling = !ruling">ruler</KeyButton>
      <KeyButton variant="text" size="small" class="ruler" :class="{ on: handling }" :aria-pressed="handling" keys="J" says="What hands can do while it runs" @click="handling = !handling">hands</KeyButton>
      <v-btn-toggle v-model="view" class="views" role="group" aria-label="View">
        <KeyButton value="above" :aria-pressed="view === 'above'" keys="1">Above</KeyButton>
        <KeyButton value="perspective" :aria-pressed="view === 'perspective'" keys="2">3D</KeyButton>
      </v-btn-toggle>
    </header>
    <ActHands v-if="handling" />
    <div class="stage" @pointerdown="grab" @pointerup="letGo" @pointercancel="letGo" @pointermove="drag" @wheel.prevent="wheel" @dblclick="rest" @contextmenu.prevent>
      <div ref="place" class="place" />
      <p v-if="failed !== null" class="flat-only">{{ failed }}</p>
      <div v-if="bench.failure !== null" class="card problems" role="alert"><b>✕ {{ bench.failure }}</b></div>
      <div v-if="bench.problems.length > 0" class="card problems" role="alert">
        <b>This cannot be built:</b>
        <div v-for="p in bench.problems" :key="`${p.document}${p.path}`">{{ p.document }}, <span class="mono">{{ p.path }}</span>: found {{ p.value }}; {{ p.message }}</div>
      </div>
      <p v-if="ruling" class="card measured mono" role="status">{{ says }}</p>
    </div>
    <!-- Below the picture, so that nothing of it is hidden. -->
    <div v-if="!bench.byHand && (goals.length > 0 || outcome !== '')" class="goals" role="group" aria-label="Goals">
      <div v-if="outcome !== ''" class="outcome" role="status" :title="`tape ${bench.hash ?? ''}`" :data-hash="bench.hash">{{ outcome }}</div>
      <div v-for="s in bench.stuck" :key="s.from" class="goal stuck">
        <span class="sign" aria-hidden="true">⟳</span><span>got nowhere for {{ s.time.toFixed(0) }} s: {{ stuckSaid(s) }}</span>
        <v-btn size="x-small" variant="text" class="when mono" title="Look at that instant" @click="bench.look(s.from)">{{ (s.from * bench.opened!.layout.dt).toFixed(1) }} s</v-btn>
      </div>
      <div v-for="goal in goals" :key="goal.sentence" class="goal" :class="goal.status" :data-status="goal.status">
        <span class="sign" :title="goal.says" aria-hidden="true">{{ goal.sign }}</span><span class="visually-hidden">{{ goal.says }}: </span>
        <span>{{ inLengthUnit(goal.sentence) }}</span>
        <span class="mono progress">{{ inLengthUnit(goal.progress) }}</span>
        <v-btn v-if="goal.at !== null && bench.opened !== null" size="x-small" variant="text" class="when mono" :aria-label="`Look at ${goal.at.toFixed(1)} s, when it was ${goal.says}`" title="Look at that instant" @click="bench.look(goal.at / bench.opened.layout.dt)">{{ goal.at.toFixed(1) }} s</v-btn>
      </div>
      <div v-if="bench.opened !== null" class="small limit"><span v-if="bench.opened.inputs.wire != null" class="raced" title="The simulated robot is told what the real one is told, and goes along; contacts and goals are its">⌁ the model goes along · </span><span v-if="raced !== ''" class="raced">{{ raced }} · </span>{{ title === '' ? '' : `${title} · ` }}limit {{ bench.opened.limit }} s</div>
    </div>
  </section>
</template>

<style scoped>
.act { container: act / inline-size; display: flex; flex-direction: column; min-height: 0; background: var(--panel); }
.head { display: flex; align-items: center; gap: 6px; padding: 0 12px; height: 33px; border-bottom: 1px solid var(--line); flex: none; }
.head h2 { font-size: 13.5px; margin: 0; }
.stage { position: relative; flex: 1; min-height: 0; overflow: hidden; background: var(--ground); }
.place { position: absolute; inset: 0; contain: strict; will-change: transform; }
.place :deep(canvas) { position: absolute; inset: 0; width: 100%; height: 100%; display: block; touch-action: none; }
.card { position: absolute; left: 10px; background: color-mix(in srgb, var(--panel) 94%, transparent); border: 1px solid var(--line); border-radius: 5px; padding: 7px 11px; max-width: calc(100% - 20px); }
.goals { flex: none; display: flex; flex-wrap: wrap; gap: 1px 20px; padding: 5px 12px 6px; border-top: 1px solid var(--line); max-height: 40%; overflow: auto; }
.limit { margin-left: auto; }
.measured { bottom: 10px; font-weight: 600; }
.ruler { color: var(--muted); }
.ruler.on { background: var(--field); color: var(--ink); }
.frames { margin-left: auto; }
/* Where it is narrow, keys stand in the sheet only. */
@container act (max-width: 430px) {
  .head :deep(.key) { display: none; }
  .head { padding: 0 4px 0 10px; gap: 0; }
}
/* Narrower still: its name is read, and not seen. */
@container act (max-width: 360px) {
  .head { padding-left: 2px; }
  .head h2 { position: absolute; clip-path: inset(50%); width: 1px; height: 1px; overflow: hidden; }
  .head :deep(.v-btn.v-btn) { padding-inline: 5px; font-size: 12.5px; }
  .frames { margin-left: 0; }
}
.problems { top: 10px; border-color: var(--error); }
.outcome { font-weight: 700; flex-basis: 100%; }
.goal { display: flex; gap: 8px; }
.goal .sign { width: 14px; flex: none; }
.goal.met .sign, .goal.held .sign { color: var(--good); }
.goal.failed { color: var(--error); font-weight: 600; }
.progress { padding-left: 4px; white-space: nowrap; min-width: 56px; }
.flat-only { position: absolute; inset: 20px; color: var(--muted); }
</style>
