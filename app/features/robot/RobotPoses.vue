<script setup lang="ts">
import { computed, onBeforeUnmount, ref } from 'vue'
import { writeQuantity } from '~/shown/quantities'
import { useRobotStore } from './robot'

/** Joints posed by hand; poses kept as gestures, and played. */
const store = useRobotStore()
const playing = ref<string | null>(null)
let frame = 0

const joints = computed(() => store.frames.map((f, i) => {
  const [from, to] = store.rangeOf(f.name)
  const turning = f.link.motion === 'turning'
  return { name: f.name, from, to, at: store.values[i]!, kind: turning ? 'angle' : 'length' }
}))
const gestures = computed(() => store.draft.gestures ?? [])

function pose(name: string, at: number): void { store.pose = { ...store.pose, [name]: at } }
const posed = (): Record<string, string> => Object.fromEntries(joints.value.map(j => [j.name, writeQuantity(j.kind, Math.round(j.at * 1e4) / 1e4)]))

function addGesture(): void {
  const names = new Set(gestures.value.map(g => g.name))
  let name = 'gesture'
  for (let n = 2; names.has(name); n++) name = `gesture_${n}`
  store.change('', (d) => { (d.gestures ??= []).push({ name, poses: [{ after: '0 s', joints: posed() }] }) })
}
function keep(at: number): void {
  store.change('', (d) => {
    const { poses } = d.gestures![at]!
    const last = Number.parseFloat(poses[poses.length - 1]?.after ?? '0')
    poses.push({ after: `${Math.round((last + 0.6) * 100) / 100} s`, joints: posed() })
  })
}

/** Goes through the kept poses on the drawing, in their own time. */
function play(name: string): void {
  cancelAnimationFrame(frame)
  const gesture = store.robot?.gestures.get(name)
  if (gesture === undefined) return
  playing.value = name
  const from = { ...Object.fromEntries(joints.value.map(j => [j.name, j.at])) }
  const begin = performance.now()
  const step = (now: number): void => {
    const t = (now - begin) / 1000
    const place: Record<string, number> = { ...from }
    let since = 0
    for (const p of gesture.poses) {
      const share = p.after <= since ? 1 : Math.min(1, Math.max(0, (t - since) / (p.after - since)))
      if (t >= since) for (const [joint, to] of Object.entries(p.joints)) place[joint] = (place[joint] ?? 0) + (to - (place[joint] ?? 0)) * share
      since = p.after
    }
    store.pose = place
    if (t < since) frame = requestAnimationFrame(step)
    else playing.value = null
  }
  frame = requestAnimationFrame(step)
}
onBeforeUnmount(() => cancelAnimationFrame(frame))
</script>

<template>
  <section v-if="joints.length > 0" class="poses" aria-label="Poses and gestures">
    <h2>Pose</h2>
    <div v-for="j in joints" :key="j.name" class="joint" :data-joint="j.name">
      <span>{{ j.name }}</span>
      <v-slider :min="j.from" :max="j.to" :step="(j.to - j.from) / 200" :model-value="j.at" :name="j.name" :value-format="({ value }: { value: number }) => writeQuantity(j.kind, value)" @update:model-value="pose(j.name, $event)" />
      <span class="mono">{{ writeQuantity(j.kind, Math.round(j.at * 1000) / 1000) }}</span>
    </div>
    <div v-for="(g, i) in gestures" :key="i" class="gesture">
      <v-text-field :model-value="g.name" class="mono" aria-label="Name of the gesture" @change="store.change('', d => { d.gestures![i]!.name = ($event.target as HTMLInputElement).value })" />
      <span class="small">{{ g.poses.length }} poses, {{ g.poses.at(-1)?.after }}</span>
      <v-btn size="small" :disabled="playing !== null" @click="play(g.name)">{{ playing === g.name ? '▶ plays' : 'Play' }}</v-btn>
      <v-btn size="small" @click="keep(i)">+ pose</v-btn>
      <v-btn size="x-small" variant="text" :aria-label="`Remove ${g.name}`" @click="store.change('', d => { d.gestures!.splice(i, 1) })">✕</v-btn>
    </div>
    <v-btn size="small" class="new" @click="addGesture">Keep this pose as a gesture</v-btn>
  </section>
</template>

<style scoped>
.poses { border-top: 1px solid var(--line); padding-bottom: 8px; }
h2 { font-size: 13.5px; padding: 8px 12px 4px; }
.joint { display: grid; grid-template-columns: 70px 1fr 84px; gap: 8px; align-items: center; padding: 2px 12px; }
.joint .mono { text-align: right; font-size: 13px; }
.gesture { display: flex; gap: 6px; align-items: center; padding: 3px 12px; }
.gesture .v-input { flex: 0 0 96px; }
.gesture .small { flex: 1; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.new { margin: 6px 12px; }
</style>
