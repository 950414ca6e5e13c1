<script setup lang="ts">
import { computed, onMounted } from 'vue'
import { BOARDS } from '~~/core/hardware'
import { useKeys } from '~/composables/useKeys'
import { useProjectStore } from '~/draft/project'
import { useRobotStore } from '~/features/robot/robot'
import { useSessionStore } from '~/run/session'
import { OWN, useWireStore } from '~/wire/wire'
import { wireSays } from '~/wire/says'
import { useHardwareStore } from './hardware'

/** The wire to a board that reads and obeys: which one, which devices are real, how it stands. */
const wire = useWireStore()
const store = useHardwareStore()
const robots = useRobotStore()
const project = useProjectStore()
const session = useSessionStore()
onMounted(() => { void wire.find() })

const wires = computed(() => [
  ...(wire.known?.wires ?? []).map(w => ({ value: w.address, title: w.title === '' ? w.address : `${w.address}, ${w.title}` })),
  ...wire.hasSerial ? [{ value: OWN, title: 'a port of this browser\u2026' }] : [],
])
/** The one that is chosen, where it still is one. */
const address = computed({
  get: () => wires.value.some(w => w.value === wire.address) ? wire.address : wires.value[0]?.value ?? '',
  set: (value: string) => { wire.address = value },
})
const isSerial = computed(() => !address.value.startsWith('tcp:'))
const name = computed(() => robots.robot?.name ?? '')
const isReal = (device: string): boolean => !wire.isSimulated(name.value, device)
const says = computed(() => wireSays(wire.stage, wire.link, wire.why))

function toggle(): void {
  if (wire.stage !== 'none') return wire.disconnect()
  if (project.data === null || address.value === '') return
  wire.address = address.value
  wire.of(name.value, project.data.robot)
  // The devices at its end are the run's worker's.
  session.warm()
  wire.connect()
}
function setBaud(event: Event): void {
  const value = Number((event.target as HTMLInputElement).value)
  if (Number.isInteger(value) && value >= 300 && value <= 4_000_000) wire.baud = value
}
useKeys('Wire', { j: { says: 'connect to the board, or let go', act: toggle } })
</script>

<template>
  <HardwarePart title="Wire">
    <p class="about">The program runs here, on the Bench; the board reads and obeys. Programs go to {{ BOARDS.filter(b => b.language !== 'firmata').map(b => b.name).join(', ') }}.</p>
    <p v-if="wire.unknown !== null" class="about bad">✕ wires are not known: {{ wire.unknown }}</p>
    <p v-else-if="wire.known !== null && wires.length === 0" class="about">△ There is no wire: plug the board in. <span v-if="wire.known.without !== null">{{ wire.known.without }}</span></p>
    <template v-else-if="wire.known !== null">
      <div class="line">
        <v-select v-model="address" class="mono" :items="wires" :disabled="wire.stage !== 'none'" aria-label="Wire to the board" @update:menu="$event && wire.find()" />
        <v-text-field v-if="isSerial" class="mono" type="number" min="300" max="4000000" :model-value="wire.baud" :disabled="wire.stage !== 'none'" suffix="baud" aria-label="Bits a second" @change="setBaud" />
      </div>
      <div class="do">
        <KeyButton :class="{ connect: wire.stage === 'none' }" keys="J" :disabled="store.hindrance !== null" :says="wire.stage === 'none' ? 'Opens the wire; runs have real devices then' : 'Has the robot stand, and closes the wire'" @click="toggle">{{ wire.stage === 'none' ? 'Connect' : 'Let go' }}</KeyButton>
        <KeyButton v-if="wire.connected" keys="Esc" says="The real robot stands at once, whatever has the focus" @click="wire.halt()">Stop</KeyButton>
      </div>
    </template>
    <p class="state" :class="says.state" role="status">{{ says.sign }} {{ store.hindrance === null ? says.words : `not before the wiring can be built: ${store.hindrance}` }}</p>
    <ul class="devices" aria-label="Devices, real or simulated">
      <li v-for="d in store.devices" :key="d.device">
        <v-checkbox :model-value="d.why === null && isReal(d.device)" :disabled="d.why !== null" :label="d.device" :aria-label="`${d.device} is real`" @update:model-value="wire.simulate(name, d.device, $event !== true)" />
        <span class="small" :class="{ why: d.why !== null }">{{ d.why === null ? (isReal(d.device) ? 'real' : 'simulated') : d.why }}</span>
      </li>
    </ul>
    <p class="small note">The robot stands when the run ends or waits, at <kbd class="key">Esc</kbd>, and when this page or the server is closed. Where the cable is pulled out or the computer dies, the board goes on with what it was told last: have a switch at hand.</p>
  </HardwarePart>
</template>

<style scoped>
.line { flex-wrap: wrap; }
.line > * { flex: 1 1 100%; }
.connect { background: var(--signal); color: var(--on-signal); border-color: var(--signal); }
.devices { list-style: none; margin: 4px 0 0; padding: 0; }
.devices li { display: grid; grid-template-columns: minmax(112px, auto) 1fr; gap: 8px; align-items: center; min-height: 27px; padding: 1px 0; line-height: 1.25; }
.devices :deep(.v-label) { font-size: 13px; }
/* A reason has the whole width, under the name. */
.devices .why { grid-column: 1 / -1; padding: 0 0 4px 25px; margin-top: -4px; }
.note { margin: 8px 0 0; line-height: 1.35; }
</style>
