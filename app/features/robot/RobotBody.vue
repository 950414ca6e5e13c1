<script setup lang="ts">
import { computed, ref } from 'vue'
import { PORT_KINDS, type SettingSpec } from '~~/core/devices'
import { BARE_ROVER, bodySettings } from '~~/core/robot'
import { setWritten, writeQuantity } from './quantities'
import { useRobotStore } from './robot'

/** The robot itself by numbers: name, chassis, wheels, and the ports of its controller. */
const store = useRobotStore()
const settings = computed(() => bodySettings(writeQuantity))
type Part = Record<string, unknown>
interface DraftDrive { ports?: string[], castors?: { forward?: string, right?: string }[] }

const drive = computed(() => store.draft['drive'] as (Part & DraftDrive) | undefined)
const ports = computed(() => Object.entries(store.draft.controller?.ports ?? {}).map(([name, takes]) => ({ name, takes: (Array.isArray(takes) ? takes : [takes]).map(String) })))
const newPort = ref('')

const wrong = (path: string): string => store.problems.filter(p => p.path === path || p.path.startsWith(`${path}.`) || p.path.startsWith(`${path}[`)).map(p => p.message).join('; ')
const shown = (value: unknown): string => value === undefined ? '' : String(value)
const typed = (event: Event): string => (event.target as HTMLInputElement).value

function set(part: 'chassis' | 'drive', name: string, value: string, as: SettingSpec['kind']): void {
  store.change(`${part} ${name}`, d => setWritten((d[part] ??= {}) as Part, name, value, as))
}
function setWheelPort(i: number, port: string): void {
  store.change('', (d) => { (d['drive'] as DraftDrive).ports![i] = port })
}
function setCastor(i: number, name: 'forward' | 'right', value: string): void {
  store.change(`castor ${i} ${name}`, d => setWritten((d['drive'] as DraftDrive).castors![i]!, name, value, 'quantity'))
}
function changeCastors(act: (castors: NonNullable<DraftDrive['castors']>) => void): void {
  store.change('', (d) => { act((d['drive'] as DraftDrive).castors ??= []) })
}
function toggleDrive(): void {
  store.change('', (d) => {
    if (d['drive'] === undefined) d['drive'] = structuredClone((BARE_ROVER as { drive: unknown }).drive)
    else delete d['drive']
  })
}
function togglePort(name: string, kind: string): void {
  store.change('', (d) => {
    const all = d.controller!.ports!
    const now = (Array.isArray(all[name]) ? all[name] : [all[name]]) as string[]
    const next = now.includes(kind) ? now.filter(k => k !== kind) : [...now, kind]
    all[name] = next.length === 1 ? next[0] : next
  })
}
function addPort(): void {
  const name = newPort.value.trim()
  newPort.value = ''
  if (name !== '') store.change('', (d) => { (d.controller!.ports ??= {})[name] ??= 'digital' })
}
function removePort(name: string): void { store.change('', (d) => { Reflect.deleteProperty(d.controller!.ports!, name) }) }
</script>

<template>
  <section class="body" aria-label="The robot itself">
    <h2>The robot itself</h2>
    <RobotField name="name" :value="shown(store.draft['name'])" says="As one calls it." :wrong="wrong('name')" data-body="name" @set="v => store.change('name', d => { d['name'] = v })" />
    <RobotField name="about" :value="shown(store.draft['about'])" says="" :wrong="wrong('about')" data-wide @set="v => store.change('about', d => { d['about'] = v })" />
    <h2>Chassis</h2>
    <RobotField
      v-for="s in settings.chassis" :key="s.name" :name="s.name" :value="shown((store.draft['chassis'] as Part | undefined)?.[s.name])" :usual="s.usual"
      :says="`${s.says} ${s.allowed}`" :wrong="wrong(`chassis.${s.name}`)" :data-body="`chassis.${s.name}`" @set="set('chassis', s.name, $event, s.kind)"
    />
    <h2>Wheels <button type="button" class="small-button" @click="toggleDrive">{{ drive === undefined ? 'Give it wheels' : 'Take them off' }}</button></h2>
    <template v-if="drive !== undefined">
      <RobotField
        v-for="s in settings.drive" :key="s.name" :name="s.name" :value="shown(drive[s.name])" :usual="s.usual"
        :says="`${s.says} ${s.allowed}`" :wrong="wrong(`drive.${s.name}`)" :data-body="`drive.${s.name}`" @set="set('drive', s.name, $event, s.kind)"
      />
      <label v-for="(side, i) in ['left', 'right']" :key="side" class="field-line"><span>{{ side }} port</span>
        <select :value="drive.ports?.[i] ?? ''" class="mono" @change="setWheelPort(i, typed($event))">
          <option v-if="!ports.some(p => p.name === drive?.ports?.[i])" :value="drive.ports?.[i] ?? ''">{{ drive.ports?.[i] ?? 'none' }}</option>
          <option v-for="p in ports" :key="p.name" :value="p.name">{{ p.name }}</option>
        </select><small>needs motor</small><i>{{ wrong(`drive.ports[${i}]`) }}</i>
      </label>
      <div v-for="(c, i) in drive.castors ?? []" :key="i" class="field-line">
        <span>castor {{ i + 1 }} <button v-if="drive.castors!.length > 1" type="button" :aria-label="`Remove castor ${i + 1}`" @click="changeCastors(all => all.splice(i, 1))">✕</button></span>
        <input :value="c.forward ?? ''" class="mono" :aria-label="`Castor ${i + 1}, forward`" @input="setCastor(i, 'forward', typed($event))">
        <input :value="c.right ?? ''" placeholder="0 cm right" class="mono" :aria-label="`Castor ${i + 1}, right`" @input="setCastor(i, 'right', typed($event))">
        <i>{{ wrong(`drive.castors[${i}]`) }}</i>
      </div>
      <div class="field-line"><span /><button v-if="(drive.castors?.length ?? 0) < 4" type="button" class="small-button" @click="changeCastors(all => all.push({ forward: '-5 cm' }))">+ castor</button></div>
    </template>
    <h2>Controller</h2>
    <RobotField name="tick" :value="shown((store.draft.controller as Part | undefined)?.['tick'])" usual="20 ms" says="How often the program decides. 10 ms to 100 ms" :wrong="wrong('controller.tick')" @set="v => store.change('tick', d => setWritten((d.controller ??= {}) as Part, 'tick', v, 'quantity'))" />
    <table class="ports">
      <thead><tr><th>port takes</th><th v-for="k in PORT_KINDS" :key="k">{{ k }}</th><th /></tr></thead>
      <tbody>
        <tr v-for="p in ports" :key="p.name">
          <th class="mono">{{ p.name }}</th>
          <td v-for="k in PORT_KINDS" :key="k"><input type="checkbox" :checked="p.takes.includes(k)" :aria-label="`${p.name} takes ${k}`" @change="togglePort(p.name, k)"></td>
          <td><button type="button" :aria-label="`Remove port ${p.name}`" @click="removePort(p.name)">✕</button></td>
        </tr>
      </tbody>
    </table>
    <i class="wrong">{{ wrong('controller.ports') }}</i>
    <form class="field-line" @submit.prevent="addPort"><span>new port</span><input v-model="newPort" class="mono" maxlength="8" aria-label="Name of a new port" placeholder="P7"><button type="submit" class="small-button">Add</button></form>
  </section>
</template>

<style scoped>
h2 { font-size: 13.5px; padding: 8px 12px 4px; }
.ports input { width: 15px; }
.small-button { border: 1px solid var(--line); border-radius: 4px; padding: 1px 8px; font-weight: 600; font-size: 12px; color: var(--ink); justify-self: start; }
.ports { border-collapse: collapse; margin: 4px 12px; }
.ports th, .ports td { padding: 1px 7px; font-weight: 400; text-align: center; }
.ports thead th { font-size: 12px; color: var(--muted); }
.ports tr > :first-child { text-align: left; padding-left: 0; }
.wrong:empty { display: none; }
.wrong { color: var(--error); font-style: normal; font-size: 12px; font-weight: 600; padding: 0 12px; }
</style>
