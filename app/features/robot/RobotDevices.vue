<script setup lang="ts">
import { computed, ref } from 'vue'
import { DEVICE_KINDS } from '~~/core/devices'
import { useRobotStore } from './robot'

/** What is on the robot, port by port, and what is wrong with it. */
const props = defineProps<{ colors: ReadonlyMap<string, string> }>()
const store = useRobotStore()
const adding = ref('')

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

function add(): void {
  if (adding.value === '') return
  store.add(adding.value)
  adding.value = ''
}
</script>

<template>
  <section class="devices" aria-label="Devices">
    <h2>Devices</h2>
    <ul>
      <li>
        <button type="button" :aria-pressed="store.selected === null" data-device="" @click="store.selected = null">
          <span class="swatch bare" /><b>the robot itself</b><span v-if="bodyWrong > 0" class="wrong end">✕ {{ bodyWrong }}</span>
        </button>
      </li>
      <li v-for="d in rows" :key="d.name">
        <button type="button" :aria-pressed="d.name === store.selected" :data-device="d.name" @click="store.selected = d.name">
          <span class="swatch" :style="{ background: d.color }" /><b>{{ d.name }}</b><span class="port mono">{{ d.port || '–' }}</span>
          <span v-if="d.wrong > 0" class="wrong" :title="`${d.wrong} wrong`">✕ {{ d.wrong }}</span>
        </button>
      </li>
    </ul>
    <div class="add">
      <select v-model="adding" aria-label="Add a device" @change="add">
        <option value="">+ add a device …</option>
        <option v-for="k in DEVICE_KINDS" :key="k.kind" :value="k.kind">{{ k.title }} ({{ k.port ?? 'no port' }})</option>
      </select>
      <button type="button" :disabled="store.device === null" @click="store.duplicate()">Duplicate<span class="key">D</span></button>
      <button type="button" :disabled="store.device === null" @click="store.remove()">Remove<span class="key">Del</span></button>
    </div>
    <h2>Ports</h2>
    <table>
      <tr v-for="p in ports" :key="p.name" :class="{ two: p.users.length > 1 }">
        <th class="mono">{{ p.name }}</th>
        <td>{{ p.users.length === 0 ? 'free' : p.users.join(' and ') }}<span v-if="p.users.length > 1" class="wrong"> ✕ two on one</span></td>
        <td class="small">{{ p.takes }}</td>
      </tr>
    </table>
    <ul v-if="nowhere.length > 0" class="problems" role="status">
      <li v-for="p in nowhere" :key="p.path + p.message">✕ {{ p.path }}: {{ p.message }}</li>
    </ul>
  </section>
</template>

<style scoped>
h2 { font-size: 13.5px; padding: 8px 12px 4px; }
ul { list-style: none; margin: 0; padding: 0; }
li > button { display: flex; align-items: center; gap: 7px; width: 100%; padding: 5px 12px; text-align: left; color: var(--ink); }
li > button[aria-pressed=true] { background: var(--field); box-shadow: inset 3px 0 var(--ink); }
.bare { border: 1.5px solid var(--ink); }
.end { margin-left: auto; }
.swatch { width: 10px; height: 10px; border-radius: 2px; flex: none; }
b { overflow: hidden; text-overflow: ellipsis; font-weight: 600; }
.port { margin-left: auto; font-size: 12px; color: var(--muted); border: 1px solid var(--line); border-radius: 3px; padding: 0 4px; }
.wrong { color: var(--error); font-weight: 600; font-size: 12px; white-space: nowrap; }
.add { display: flex; flex-wrap: wrap; gap: 6px; padding: 8px 12px; border-bottom: 1px solid var(--line); }
.add select { width: 100%; border: 1px solid var(--line); border-radius: 4px; padding: 4px 6px; background: var(--panel); color: var(--ink); font: inherit; }
.add button { border: 1px solid var(--line); border-radius: 4px; padding: 3px 8px; font-weight: 600; flex: 1; color: var(--ink); white-space: nowrap; }
.add button:disabled { opacity: 0.5; }
table { width: 100%; border-collapse: collapse; padding: 0; }
th, td { text-align: left; padding: 2px 0 2px 12px; font-weight: 400; vertical-align: top; }
td.small { padding-right: 8px; }
.two { background: var(--signal-tint); }
.problems { padding: 8px 12px; color: var(--error); }
</style>
