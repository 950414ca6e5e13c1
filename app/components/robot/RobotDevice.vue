<script setup lang="ts">
import { computed } from 'vue'
import { DEVICE_KINDS, settingsOf } from '~~/core/devices'
import { nudged, writeQuantity } from '~/robot/quantities'
import { useRobotStore } from '~/stores/robot'

/** One device by numbers: name, port, where it sits, and everything that can be set on it. */
const store = useRobotStore()
const kind = computed(() => DEVICE_KINDS.find(k => k.kind === store.device?.kind) ?? null)
const settings = computed(() => kind.value === null ? [] : settingsOf(kind.value, writeQuantity))
const ports = computed(() => Object.keys(store.draft.controller?.ports ?? {}))
const carriers = computed(() => (store.draft.devices ?? []).filter(d => d.name !== store.selected && DEVICE_KINDS.find(k => k.kind === d.kind)?.link !== undefined).map(d => d.name))

const MOUNT = [
  { name: 'forward', says: 'before the middle of the chassis', joint: 'along the link from its axis', usual: '0 cm' },
  { name: 'right', says: 'to the right of the middle', joint: 'to the right of the axis', usual: '0 cm' },
  { name: 'up', says: 'above the floor', joint: 'above the axis', usual: '5 cm' },
  { name: 'facing', says: 'which way it looks, right positive', joint: 'against the link, right positive', usual: '0 deg' },
  { name: 'tilt', says: 'how far it looks up; -90 deg is down', joint: 'against the link, up positive', usual: '0 deg' },
] as const

/** What is wrong at a path of this device. */
function wrong(path: string): string {
  const at = `devices[${store.index}].${path}`
  return store.problems.filter(p => p.path === at || p.path.startsWith(`${at}[`)).map(p => p.message).join('; ')
}
function rename(value: string): void {
  const before = store.selected
  store.change('', (d) => {
    for (const device of d.devices ?? []) {
      if (device.name === before) device.name = value
      if (device.mount?.['on'] === before) device.mount['on'] = value
    }
    for (const gesture of d.gestures ?? []) {
      for (const pose of gesture.poses) {
        const at = before === null ? undefined : pose.joints[before]
        if (at === undefined || before === null) continue
        delete pose.joints[before]
        pose.joints[value] = at
      }
    }
  })
  store.selected = value
}
function setMount(name: string, value: string): void {
  store.changeDevice(`mount ${name}`, (d) => {
    d.mount ??= {}
    if (value.trim() === '') delete d.mount[name]
    else d.mount[name] = value
  })
}
function setSetting(name: string, value: string, as: string): void {
  store.changeDevice(`setting ${name}`, (d) => {
    d.settings ??= {}
    if (value.trim() === '') { delete d.settings[name]; return }
    if (as === 'number') d.settings[name] = Number.isNaN(Number(value)) ? value : Number(value)
    else if (as === 'list') d.settings[name] = value.replaceAll(/[[\]"]/g, '').split(/[\s,]+/).filter(w => w !== '').map(w => /^\d+$/.test(w) ? Number(w) : w)
    else d.settings[name] = value
  })
}
const shown = (value: unknown): string => value === undefined ? '' : Array.isArray(value) ? value.join(', ') : String(value)
/** Up and down move a number by one of its unit, with alt by a tenth. */
function nudge(event: KeyboardEvent, set: (value: string) => void): void {
  const by = event.key === 'ArrowUp' ? 1 : event.key === 'ArrowDown' ? -1 : 0
  if (by === 0) return
  const input = event.target as HTMLInputElement
  const next = nudged(input.value === '' ? input.placeholder : input.value, by, event.altKey)
  if (next === null) return
  event.preventDefault()
  set(next)
}
</script>

<template>
  <section v-if="store.device !== null" class="device" aria-label="The chosen device">
    <h2>{{ kind?.title ?? store.device.kind }}</h2>
    <label class="line"><span>name</span><input :value="store.device.name" class="mono" @change="rename(($event.target as HTMLInputElement).value)"><i>{{ wrong('name') }}</i></label>
    <label class="line"><span>port</span>
      <select :value="store.device.port" class="mono" @change="store.changeDevice('port', d => { d.port = ($event.target as HTMLSelectElement).value })">
        <option v-if="!ports.includes(store.device.port)" :value="store.device.port">{{ store.device.port || 'none' }}</option>
        <option v-for="p in ports" :key="p" :value="p">{{ p }}</option>
      </select><small>needs {{ kind?.port }}</small><i>{{ wrong('port') }}</i>
    </label>
    <label class="line"><span>on</span>
      <select :value="store.device.mount?.['on'] ?? ''" @change="setMount('on', ($event.target as HTMLSelectElement).value)">
        <option value="">the chassis</option>
        <option v-for="c in carriers" :key="c" :value="c">{{ c }}</option>
      </select><small>what carries it</small><i>{{ wrong('mount.on') }}</i>
    </label>
    <label v-for="m in MOUNT" :key="m.name" class="line"><span>{{ m.name }}</span>
      <input :value="shown(store.device.mount?.[m.name])" :placeholder="m.usual" class="mono" :data-mount="m.name" @input="setMount(m.name, ($event.target as HTMLInputElement).value)" @keydown="nudge($event, v => setMount(m.name, v))">
      <small>{{ store.device.mount?.['on'] === undefined ? m.says : m.joint }}</small><i>{{ wrong(`mount.${m.name}`) }}</i>
    </label>
    <h2 v-if="settings.length > 0">Settings</h2>
    <label v-for="s in settings" :key="s.name" class="line"><span>{{ s.name }}</span>
      <select v-if="s.choices !== null" :value="shown(store.device.settings?.[s.name]) || s.usual" @change="setSetting(s.name, ($event.target as HTMLSelectElement).value, s.kind)">
        <option v-for="c in s.choices" :key="c" :value="c">{{ c }}</option>
      </select>
      <input v-else :value="shown(store.device.settings?.[s.name])" :placeholder="s.usual ?? ''" class="mono" :data-setting="s.name" @input="setSetting(s.name, ($event.target as HTMLInputElement).value, s.kind)" @keydown="nudge($event, v => setSetting(s.name, v, s.kind))">
      <small>{{ s.says }} {{ s.allowed }}</small><i>{{ wrong(`settings.${s.name}`) }}</i>
    </label>
    <i class="line">{{ wrong('settings') }}</i>
  </section>
  <p v-else class="none">Choose a device, or add one.</p>
</template>

<style scoped>
h2 { font-size: 13.5px; padding: 8px 12px 4px; }
h2::first-letter { text-transform: uppercase; }
.line { display: grid; grid-template-columns: 86px 104px 1fr; gap: 2px 8px; align-items: baseline; padding: 2px 12px; }
.line span { color: var(--ink); }
.line small { font-size: 12px; color: var(--muted); line-height: 1.25; }
.line i { grid-column: 2 / -1; color: var(--error); font-style: normal; font-size: 12px; font-weight: 600; }
.line i:empty { display: none; }
input, select { border: 1px solid var(--line) !important; border-radius: 4px; padding: 2px 6px; background: var(--panel); color: var(--ink); font-size: 13px; width: 100%; min-width: 0; }
input::placeholder { color: var(--muted); opacity: 0.8; }
.none { padding: 14px; color: var(--muted); }
</style>
