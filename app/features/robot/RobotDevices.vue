<script setup lang="ts">
import { computed } from 'vue'
import { DEVICE_KINDS } from '~~/core/devices'
import { useRobotStore } from './robot'

/** What is on the robot, port by port, and what is wrong with it. */
const props = defineProps<{ colors: ReadonlyMap<string, string> }>()
const store = useRobotStore()

const rows = computed(() => (store.draft.devices ?? []).map((d, i) => ({
  ...d, wrong: store.problems.filter(p => p.path.startsWith(`devices[${i}]`)).length, color: props.colors.get(d.name),
})))
const ports = computed(() => Object.entries(store.draft.controller?.ports ?? {}).map(([name, takes]) => {
  const wheels = (store.draft['drive'] as { ports?: string[] } | undefined)?.ports ?? []
  const users = [...rows.value.filter(d => d.port === name).map(d => d.name), ...wheels.flatMap((p, i) => p === name ? [i === 0 ? 'left wheel' : 'right wheel'] : [])]
  return { name, takes: Array.isArray(takes) ? takes.join(', ') : String(takes), users }
}))
const bodyWrong = computed(() => store.problems.filter(p => /^(name|about|chassis|drive|controller)/.test(p.path)).length)
const nowhere = computed(() => store.problems.filter(p => !p.path.startsWith('devices[')))

const kinds = DEVICE_KINDS.map(k => ({ value: k.kind, title: `${k.title} (${k.port ?? 'no port'})` }))
function add(kind: string | null): void { if (kind !== null) store.add(kind) }
</script>

<template>
  <section class="devices" aria-label="Devices">
    <h2>Devices</h2>
    <v-list aria-label="Devices of the robot">
      <v-list-item :active="store.selected === null" :aria-current="store.selected === null" data-device="" @click="store.selected = null">
        <span class="swatch bare" /><b>the robot itself</b><span v-if="bodyWrong > 0" class="wrong end">✕ {{ bodyWrong }}</span>
      </v-list-item>
      <v-list-item v-for="d in rows" :key="d.name" :active="d.name === store.selected" :aria-current="d.name === store.selected" :data-device="d.name" @click="store.selected = d.name">
        <span class="swatch" :style="{ background: d.color }" /><b>{{ d.name }}</b><span class="port mono">{{ d.port || '–' }}</span>
        <span v-if="d.wrong > 0" class="wrong" :title="`${d.wrong} wrong`">✕ {{ d.wrong }}</span>
      </v-list-item>
    </v-list>
    <div class="add">
      <v-select class="which" :model-value="null" placeholder="+ add a device …" :items="kinds" aria-label="Add a device" @update:model-value="add" />
      <KeyButton size="small" :disabled="store.device === null" keys="D" @click="store.duplicate()">Duplicate</KeyButton>
      <KeyButton size="small" :disabled="store.device === null" keys="Del" @click="store.remove()">Remove</KeyButton>
    </div>
    <h2>Ports</h2>
    <v-table class="ports" aria-label="Ports">
      <tbody>
        <tr v-for="p in ports" :key="p.name" :class="{ two: p.users.length > 1 }">
          <th class="mono" scope="row">{{ p.name }}</th>
          <td>{{ p.users.length === 0 ? 'free' : p.users.join(' and ') }}<span v-if="p.users.length > 1" class="wrong"> ✕ two on one</span></td>
          <td class="small">{{ p.takes }}</td>
        </tr>
      </tbody>
    </v-table>
    <ul v-if="nowhere.length > 0" class="problems" role="status">
      <li v-for="p in nowhere" :key="p.path + p.message">✕ {{ p.path }}: {{ p.message }}</li>
    </ul>
  </section>
</template>

<style scoped>
h2 { font-size: 13.5px; padding: 8px 12px 4px; }
ul { list-style: none; margin: 0; padding: 0; }
.v-list-item :deep(.v-list-item__content) { display: flex; align-items: center; gap: 7px; }
.v-list-item--active { background: var(--field); box-shadow: inset 3px 0 var(--ink); }
.bare { border: 1.5px solid var(--ink); }
.end { margin-left: auto; }
.swatch { width: 10px; height: 10px; border-radius: 2px; flex: none; }
b { overflow: hidden; text-overflow: ellipsis; font-weight: 600; }
.port { margin-left: auto; font-size: 12px; color: var(--muted); border: 1px solid var(--line); border-radius: 3px; padding: 0 4px; }
.wrong { color: var(--error); font-weight: 600; font-size: 12px; white-space: nowrap; }
.add { display: flex; flex-wrap: wrap; gap: 6px; padding: 8px 12px; border-bottom: 1px solid var(--line); }
.which { flex-basis: 100%; }
.add .v-btn { flex: 1; }
.ports th { padding-left: 12px !important; text-align: left; width: 44px; }
.ports :is(th, td) { vertical-align: top; }
.two { background: var(--signal-tint); }
.problems { padding: 8px 12px; color: var(--error); }
</style>
