<script setup lang="ts">
import { computed, ref } from 'vue'
import { shownLength } from '~/shown/lengths'
import { useRobotStore } from './robot'

/** The look budget: how long a round of looks takes, and how far the robot goes in it. */
const store = useRobotStore()
const chosen = ref<number | null>(null)
const cruise = computed(() => store.robot?.drive?.['cruise speed'] ?? null)
const speed = computed(() => chosen.value ?? cruise.value ?? 0)
const top = computed(() => store.robot?.drive?.['top speed'] ?? 0)
const looks = computed(() => store.draft.controller?.looks ?? 'at once')
function setLooks(value: string): void {
  store.change('', (d) => { d.controller = { ...d.controller, looks: value } })
}
const ms = (s: number): string => `${Math.round(s * 1000)} ms`
</script>

<template>
  <section class="budget" aria-label="Look budget">
    <h2>Look budget</h2>
    <label class="looks"><span>devices are asked</span>
      <select :value="looks" @change="setLooks(($event.target as HTMLSelectElement).value)">
        <option value="at once">at once</option>
        <option value="in turn">in turn</option>
      </select>
    </label>
    <label v-if="cruise !== null" class="speed"><span>at</span>
      <input type="range" min="0.01" :max="top" step="0.01" :value="speed" aria-label="Speed of the robot" @input="chosen = Number(($event.target as HTMLInputElement).value)">
      <span class="mono">{{ shownLength(speed, '/s') }}</span>
    </label>
    <table>
      <thead><tr><th>device</th><th>looks every</th><th>knows after</th><th v-if="cruise !== null">goes on</th></tr></thead>
      <tbody>
        <tr v-for="l in store.budget" :key="l.device">
          <th>{{ l.device }}</th><td class="mono">{{ ms(l.round) }}</td><td class="mono">{{ ms(l.worst) }}</td><td v-if="cruise !== null" class="mono">{{ shownLength(l.worst * speed) }}</td>
        </tr>
      </tbody>
    </table>
    <p v-for="f in store.floorSeen" :key="`floor ${f.device}`" class="warn">△ {{ f.device }} sees the floor from {{ shownLength(f.distance) }} on: nothing farther is told by it</p>
    <p v-for="s in store.selfSeen" :key="s.device" class="warn">△ {{ s.device }} sees {{ s.part }} {{ shownLength(s.distance) }} away{{ s.joint === null ? '' : `, with ${s.joint.name} moved` }}</p>
  </section>
</template>

<style scoped>
.budget { border-top: 1px solid var(--line); padding-bottom: 10px; }
h2 { font-size: 13.5px; padding: 8px 12px 4px; }
.looks { display: flex; gap: 8px; align-items: center; padding: 0 12px 5px; }
.looks select { border: 1px solid var(--line); border-radius: 4px; padding: 1px 6px; background: var(--panel); color: var(--ink); font: inherit; }
.speed { display: grid; grid-template-columns: 20px 1fr 74px; gap: 8px; align-items: center; padding: 0 12px 4px; }
.speed .mono { text-align: right; }
table { width: 100%; border-collapse: collapse; font-size: 13px; }
th, td { text-align: right; padding: 1px 12px 1px 0; font-weight: 400; }
tr > :first-child { text-align: left; padding-left: 12px; }
thead th { font-size: 12px; color: var(--muted); }
.warn { color: var(--warning); padding: 4px 12px 0; font-weight: 600; }
</style>
