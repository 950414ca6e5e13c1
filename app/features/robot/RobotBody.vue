<script setup lang="ts">
import { computed, ref } from 'vue'
import { PORT_KINDS, type SettingSpec } from '~~/core/devices'
import { BARE_ROVER, bodySettings } from '~~/core/robot'
import { setWritten, writeQuantity } from '~/shown/quantities'
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
/** The ports to choose among, and the one that stands there though there is none such. */
const portsWith = (chosen: string): readonly string[] => [...ports.value.some(p => p.name === chosen) ? [] : [chosen], ...ports.value.map(p => p.name)]

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
    <DocumentField name="name" :value="shown(store.draft['name'])" says="As one calls it." :wrong="wrong('name')" data-body="name" @set="v => store.change('name', d => { d['name'] = v })" />
    <DocumentField name="about" :value="shown(store.draft['about'])" says="" :wrong="wrong('about')" data-wide @set="v => store.change('about', d => { d['about'] = v })" />
    <h2>Chassis</h2>
    <DocumentField
      v-for="s in settings.chassis" :key="s.name" :name="s.name" :value="shown((store.draft['chassis'] as Part | undefined)?.[s.name])" :usual="s.usual"
      :says="`${s.says} ${s.allowed}`" :wrong="wrong(`chassis.${s.name}`)" :data-body="`chassis.${s.name}`" @set="set('chassis', s.name, $event, s.kind)"
    />
    <h2>Wheels <v-btn size="small" @click="toggleDrive">{{ drive === undefined ? 'Give it wheels' : 'Take them off' }}</v-btn></h2>
    <template v-if="drive !== undefined">
      <DocumentField
        v-for="s in settings.drive" :key="s.name" :name="s.name" :value="shown(drive[s.name])" :usual="s.usual"
        :says="`${s.says} ${s.allowed}`" :wrong="wrong(`drive.${s.name}`)" :data-body="`drive.${s.name}`" @set="set('drive', s.name, $event, s.kind)"
      />
      <DocumentField
        v-for="(side, i) in ['left', 'right']" :key="side" :name="`${side} port`" :value="drive.ports?.[i] ?? ''" :choices="portsWith(drive.ports?.[i] ?? '')"
        says="needs motor" :wrong="wrong(`drive.ports[${i}]`)" @set="v => setWheelPort(i, v)"
      />
      <div v-for="(c, i) in drive.castors ?? []" :key="i" class="field-line">
        <span>castor {{ i + 1 }} <v-btn v-if="drive.castors!.length > 1" size="x-small" variant="text" :aria-label="`Remove castor ${i + 1}`" @click="changeCastors(all => all.splice(i, 1))">✕</v-btn></span>
        <v-text-field :model-value="c.forward ?? ''" class="mono" :aria-label="`Castor ${i + 1}, forward`" @update:model-value="setCastor(i, 'forward', $event)" />
        <v-text-field :model-value="c.right ?? ''" placeholder="0 cm right" class="mono" :aria-label="`Castor ${i + 1}, right`" @update:model-value="setCastor(i, 'right', $event)" />
        <i>{{ wrong(`drive.castors[${i}]`) }}</i>
      </div>
      <div class="field-line"><span /><v-btn v-if="(drive.castors?.length ?? 0) < 4" size="small" @click="changeCastors(all => all.push({ forward: '-5 cm' }))">+ castor</v-btn></div>
    </template>
    <h2>Controller</h2>
    <DocumentField name="tick" :value="shown((store.draft.controller as Part | undefined)?.['tick'])" usual="20 ms" says="How often the program decides. 10 ms to 100 ms" :wrong="wrong('controller.tick')" @set="v => store.change('tick', d => setWritten((d.controller ??= {}) as Part, 'tick', v, 'quantity'))" />
    <v-table class="ports" aria-label="What each port takes">
      <thead><tr><th scope="col">port takes</th><th v-for="k in PORT_KINDS" :key="k" scope="col">{{ k }}</th><td /></tr></thead>
      <tbody>
        <tr v-for="p in ports" :key="p.name">
          <th class="mono" scope="row">{{ p.name }}</th>
          <td v-for="k in PORT_KINDS" :key="k"><v-checkbox-btn :model-value="p.takes.includes(k)" :aria-label="`${p.name} takes ${k}`" @update:model-value="togglePort(p.name, k)" /></td>
          <td><v-btn size="x-small" variant="text" :aria-label="`Remove port ${p.name}`" @click="removePort(p.name)">✕</v-btn></td>
        </tr>
      </tbody>
    </v-table>
    <i class="wrong">{{ wrong('controller.ports') }}</i>
    <v-form class="field-line" @submit.prevent="addPort">
      <label for="new-port">new port</label><v-text-field id="new-port" v-model="newPort" class="mono" maxlength="8" placeholder="P7" /><span><v-btn type="submit" size="small">Add</v-btn></span>
    </v-form>
  </section>
</template>

<style scoped>
h2 { font-size: 13.5px; padding: 8px 12px 4px; }
.ports { margin: 4px 5px; }
.ports :is(th, td) { text-align: center; }
.ports tr > :first-child { text-align: left; }
.ports .v-checkbox-btn { justify-content: center; }
.wrong:empty { display: none; }
.wrong { color: var(--error); font-style: normal; font-size: 12px; font-weight: 600; padding: 0 12px; }
</style>
