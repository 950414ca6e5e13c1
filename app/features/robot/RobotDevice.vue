<script setup lang="ts">
import { computed } from 'vue'
import { DEVICE_KINDS, settingsOf, type SettingSpec } from '~~/core/devices'
import { setWritten, writeQuantity } from '~/shown/quantities'
import { useRobotStore } from './robot'

/** One device by numbers: name, port, where it sits, and everything that can be set on it. */
const store = useRobotStore()
const kind = computed(() => DEVICE_KINDS.find(k => k.kind === store.device?.kind) ?? null)
const settings = computed(() => kind.value === null ? [] : settingsOf(kind.value, writeQuantity))
const ports = computed(() => Object.keys(store.draft.controller?.ports ?? {}))
const carriers = computed(() => (store.draft.devices ?? []).filter(d => d.name !== store.selected && DEVICE_KINDS.find(k => k.kind === d.kind)?.link !== undefined).map(d => d.name))

/** What carries it where no joint does. */
const CHASSIS = 'the chassis'

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
function setSetting(name: string, value: string, as: SettingSpec['kind']): void {
  store.changeDevice(`setting ${name}`, d => setWritten(d.settings ??= {}, name, value, as))
}
const shown = (value: unknown): string => value === undefined ? '' : Array.isArray(value) ? value.join(', ') : String(value)
</script>

<template>
  <section v-if="store.device !== null" class="device" aria-label="The chosen device">
    <h2>{{ kind?.title ?? store.device.kind }}</h2>
    <div class="field-line" data-field="name">
      <label for="device-name">name</label>
      <v-text-field id="device-name" :model-value="store.device.name" class="mono" :error="wrong('name') !== ''" @change="rename(($event.target as HTMLInputElement).value)" />
      <small /><i>{{ wrong('name') }}</i>
    </div>
    <DocumentField
      v-if="kind?.port !== null" name="port" data-field="port" :value="store.device.port ?? ''" :choices="ports.includes(store.device.port ?? '') ? ports : [store.device.port ?? '', ...ports]"
      :says="`needs ${kind?.port}`" :wrong="wrong('port')" @set="v => store.changeDevice('port', d => { d.port = v })"
    />
    <DocumentField
      name="on" data-field="on" :value="shown(store.device.mount?.['on'] ?? CHASSIS)" :choices="[CHASSIS, ...carriers]" says="what carries it" :wrong="wrong('mount.on')"
      @set="v => setMount('on', v === CHASSIS ? '' : v)"
    />
    <DocumentField
      v-for="m in MOUNT" :key="m.name" :name="m.name" :value="shown(store.device.mount?.[m.name])" :usual="m.usual" :data-mount="m.name"
      :says="store.device.mount?.['on'] === undefined ? m.says : m.joint" :wrong="wrong(`mount.${m.name}`)" @set="setMount(m.name, $event)"
    />
    <h2 v-if="settings.length > 0">Settings</h2>
    <DocumentField
      v-for="s in settings" :key="s.name" :name="s.name" :value="shown(store.device.settings?.[s.name])" :usual="s.usual" :choices="s.choices" :data-setting="s.name"
      :says="`${s.says} ${s.allowed}`" :wrong="wrong(`settings.${s.name}`)" @set="setSetting(s.name, $event, s.kind)"
    />
    <i class="field-line">{{ wrong('settings') }}</i>
  </section>
</template>

<style scoped>
h2 { font-size: 13.5px; padding: 8px 12px 4px; }
h2::first-letter { text-transform: uppercase; }
</style>
