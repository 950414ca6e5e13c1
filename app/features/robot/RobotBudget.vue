<script setup lang="ts">
import { computed, ref } from 'vue'
import { shownLength } from '~/shown/lengths'
import { roundTripSays } from '~/wire/says'
import { useWireStore } from '~/wire/wire'
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
const wire = useWireStore()
/** What the way to the board and back adds, seconds: to the reading on its way here and the command on its way there. */
const away = (device: string): number => wire.link?.real.includes(device) === true ? (wire.link.roundTrip?.median ?? 0) / 1000 : 0
const ms = (s: number): string => `${Math.round(s * 1000)} ms`
</script>

<template>
  <section class="budget" aria-label="Look budget">
    <h2>Look budget</h2>
    <div class="looks">
      <span id="looks-label">devices are asked</span>
      <v-btn-toggle :model-value="looks" role="group" aria-labelledby="looks-label" @update:model-value="setLooks($event)">
        <v-btn v-for="how in ['at once', 'in turn']" :key="how" :value="how" :aria-pressed="looks === how">{{ how }}</v-btn>
      </v-btn-toggle>
    </div>
    <div v-if="cruise !== null" class="speed">
      <span>at</span>
      <v-slider min="0.01" :max="top" step="0.01" :model-value="speed" name="Speed of the robot" :value-format="({ value }: { value: number }) => shownLength(value, '/s')" @update:model-value="chosen = $event" />
      <span class="mono">{{ shownLength(speed, '/s') }}</span>
    </div>
    <v-table aria-label="Look budget">
      <thead><tr><th scope="col">device</th><th scope="col">looks every</th><th scope="col">knows after</th><th v-if="cruise !== null" scope="col">goes on</th></tr></thead>
      <tbody>
        <tr v-for="l in store.budget" :key="l.device">
          <th scope="row">{{ away(l.device) > 0 ? '⌁ ' : '' }}{{ l.device }}</th><td class="mono">{{ ms(l.round) }}</td><td class="mono">{{ ms(l.worst + away(l.device)) }}</td><td v-if="cruise !== null" class="mono">{{ shownLength((l.worst + away(l.device)) * speed) }}</td>
        </tr>
      </tbody>
    </v-table>
    <p v-if="wire.link?.roundTrip != null" class="small over">⌁ over the wire: {{ roundTripSays(wire.link) }} to the board and back are counted in.</p>
    <p v-for="f in store.floorSeen" :key="`floor ${f.device}`" class="warn">△ {{ f.device }} sees the floor from {{ shownLength(f.distance) }} on: nothing farther is told by it</p>
    <p v-for="s in store.selfSeen" :key="s.device" class="warn">△ {{ s.device }} sees {{ s.part }} {{ shownLength(s.distance) }} away{{ s.joint === null ? '' : `, with ${s.joint.name} moved` }}</p>
  </section>
</template>

<style scoped>
.budget { border-top: 1px solid var(--line); padding-bottom: 10px; }
h2 { font-size: 13.5px; padding: 8px 12px 4px; }
.looks { display: flex; gap: 8px; align-items: center; padding: 0 12px 5px; }
.speed { display: grid; grid-template-columns: 20px 1fr 74px; gap: 8px; align-items: center; padding: 0 12px 4px; }
.speed .mono { text-align: right; }
:is(th, td) { text-align: right !important; }
tr > :first-child { text-align: left !important; padding-left: 12px !important; }
.over { padding: 4px 12px 0; margin: 0; }
.warn { color: var(--warning); padding: 4px 12px 0; font-weight: 600; }
</style>
