<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import type { Line } from '~~/core/devices'
import { DIVIDER, connectionOf, hex, needsDivider, pinsFor, withPoint, type Fitted } from '~~/core/hardware'
import { unitsOfKind } from '~~/core/units'
import { nudgedByKey } from '~/shown/quantities'
import { useWireStore } from '~/wire/wire'
import { useHardwareStore } from './hardware'

/** How what is on one port is connected, and what is in the way of that. */
const { fitted } = defineProps<{ fitted: Fitted }>()
const store = useHardwareStore()
const wire = useWireStore()

const wired = computed(() => store.wiring.ports[fitted.port])
const connection = computed(() => connectionOf(fitted, store.wiring))
const wrong = computed(() => store.problems.filter(p => p.port === fitted.port && p.severity === 'error'))
const wrongAt = (path: string): boolean => wrong.value.some(p => p.path.startsWith(`wiring.ports.${fitted.port}.${path}`))

/** Who has each pin, but for this device. */
const taken = computed(() => new Map(store.fitted.flatMap(f => f.port === fitted.port ? [] : Object.entries(store.wiring.ports[f.port]?.pins ?? {}).map(([line, pin]) => [pin, `${f.name}, ${line}`] as const))))
const choices = ({ needs }: Line) => pinsFor(store.board, needs).map(({ name }) => {
  const by = taken.value.get(name)
  return { value: name, title: by === undefined ? name : `${name} (${by})` }
})

const set = (what: object): void => store.connect(fitted.port, { ...wired.value!, ...what })
const setPin = (line: string, pin: string): void => set({ pins: { ...wired.value!.pins, [line]: pin } })
const setDivider = (on: boolean): void => set({ divider: on ? DIVIDER : undefined })
const measured = computed(() => fitted.reads !== null && connection.value?.lines.some(l => l.needs === 'analogue') === true)
const curve = computed(() => wired.value?.curve ?? [])
const setPoint = (i: number, what: Partial<(typeof curve.value)[number]>): void => set({ curve: curve.value.map((p, k) => k === i ? { ...p, ...what } : p) })
function nudgeVolts(i: number, event: KeyboardEvent): void {
  const next = nudgedByKey(String(curve.value[i]!.volts), event)
  if (next !== null) setPoint(i, { volts: Number(next) })
}
function nudgeReads(i: number, event: KeyboardEvent): void {
  const next = nudgedByKey(curve.value[i]!.reads, event)
  if (next !== null) setPoint(i, { reads: next })
}
const reading = (count: number): string => `${count} ${unitsOfKind(fitted.reads!)[0]?.name ?? ''}`.trim()
/** Two points to begin with, from nothing to all that the board can tell; then one behind the last. */
function morePoints(): void {
  const last = curve.value.at(-1)
  set({ curve: last === undefined ? [{ volts: 0, reads: reading(0) }, { volts: store.board.volts, reads: reading(100) }] : [...curve.value, { volts: Number((last.volts + 0.1).toFixed(2)), reads: last.reads }] })
}
/** What the part gives at this moment, over the wire; null where that is not known. */
const volts = computed(() => measured.value && wire.connected ? wire.link?.volts[fitted.port] ?? null : null)
/** The first point that was taken: one alone is no curve. */
const alone = ref<(typeof curve.value)[number] | null>(null)
const hasPoints = computed(() => curve.value.length > 0 || alone.value !== null)
const port = useTemplateRef<HTMLElement>('port')
/** Takes the voltage of this moment as a point: what it reads there is to be said. */
async function takePoint(): Promise<void> {
  const before = curve.value.length === 0 && alone.value !== null ? [alone.value] : curve.value
  const point = { volts: Number(volts.value!.toFixed(2)), reads: before.at(-1)?.reads ?? reading(0) }
  const all = withPoint(before, point)
  alone.value = all.length === 1 ? point : null
  if (all.length > 1) set({ curve: all })
  await nextTick()
  port.value?.querySelector<HTMLInputElement>(`[data-volts="${point.volts}"] [data-reads] input`)?.select()
}
/** Of what an encoder's motor moves between two ends. What is no number stays as it was written: what is wrong with it is told then. */
const counted = computed(() => fitted.ends && connection.value?.lines.some(l => l.name === 'encoder a') === true)
function setCounts(written: string): void {
  set({ counts: written.trim() === '' ? undefined : Number.isFinite(Number(written)) ? Number(written) : written })
}
const divides = computed(() => connection.value !== undefined && needsDivider(store.board, connection.value))
</script>

<template>
  <section ref="port" class="port" :aria-label="`${fitted.name}, port ${fitted.port}`">
    <h3>{{ fitted.name }} <span class="small">{{ fitted.title === fitted.name ? '' : `${fitted.title}, ` }}port {{ fitted.port }}</span></h3>
    <p v-if="fitted.connections.length === 0" class="small none">No board here can have it.</p>
    <template v-else>
      <div class="line">
        <span class="label" aria-hidden="true">by</span>
        <v-select :model-value="wired?.by ?? null" :items="fitted.connections.map(c => c.name)" placeholder="not connected" :error="wrongAt('by') || wired === undefined" :aria-label="`How ${fitted.name} is connected`" @update:model-value="store.connectBy(fitted, $event!)" />
      </div>
      <p v-if="connection !== undefined" class="small says">{{ connection.says }}</p>
      <template v-if="connection?.addresses !== undefined">
        <div class="line">
          <span class="label" aria-hidden="true">bus</span>
          <v-select class="mono" :model-value="wired?.bus ?? null" :items="store.board.buses.map(b => b.name)" :error="wrongAt('bus')" :aria-label="`Bus of ${fitted.name}`" @update:model-value="set({ bus: $event })" />
          <v-select class="mono" :model-value="wired?.address ?? null" :items="connection.addresses.map(a => ({ value: a, title: hex(a) }))" :error="wrongAt('address')" :aria-label="`Address of ${fitted.name}`" @update:model-value="set({ address: $event })" />
        </div>
      </template>
      <div v-for="line in connection?.lines ?? []" :key="line.name" class="line">
        <span class="label" aria-hidden="true">{{ line.name }}</span>
        <v-select class="mono" :model-value="wired?.pins[line.name] ?? null" :items="choices(line)" placeholder="no pin" :error="wrongAt(`pins.${line.name}`)" :aria-label="`Pin of ${line.name} of ${fitted.name}`" @update:model-value="setPin(line.name, $event!)" />
      </div>
      <div v-for="(point, i) in wired?.curve ?? []" :key="i" class="line point" :data-volts="point.volts">
        <span class="label" aria-hidden="true">{{ i === 0 ? 'curve' : '' }}</span>
        <v-text-field class="mono" :model-value="`${point.volts} V`" :error="wrongAt(`curve[${i}]`)" :aria-label="`Volts of point ${i + 1} of ${fitted.name}`" @change="setPoint(i, { volts: Number.parseFloat(($event.target as HTMLInputElement).value) })" @keydown="nudgeVolts(i, $event)" />
        <v-text-field class="mono" data-reads :model-value="point.reads" :error="wrongAt(`curve[${i}]`)" :aria-label="`What ${fitted.name} reads at point ${i + 1}`" @change="setPoint(i, { reads: ($event.target as HTMLInputElement).value })" @keydown="nudgeReads(i, $event)" />
        <v-btn size="x-small" variant="text" :aria-label="`Without point ${i + 1} of ${fitted.name}`" @click="set({ curve: (wired?.curve ?? []).length > 2 ? wired?.curve?.filter((_, k) => k !== i) : undefined })">✕</v-btn>
      </div>
      <div v-if="alone !== null && curve.length === 0" class="line point" :data-volts="alone.volts">
        <span class="label" aria-hidden="true">curve</span>
        <v-text-field class="mono" :model-value="`${alone.volts} V`" readonly :aria-label="`Volts of the first point of ${fitted.name}`" />
        <v-text-field class="mono" data-reads :model-value="alone.reads" :aria-label="`What ${fitted.name} reads at the first point`" @change="alone = { ...alone!, reads: ($event.target as HTMLInputElement).value }" />
        <v-btn size="x-small" variant="text" :aria-label="`Without the first point of ${fitted.name}`" @click="alone = null">✕</v-btn>
      </div>
      <div v-if="measured" class="line">
        <span class="label" aria-hidden="true">{{ hasPoints ? '' : 'curve' }}</span>
        <div class="more">
          <v-btn v-if="curve.length > 0 || !hasPoints" size="small" title="What a voltage means, by points of the datasheet or captured ones: volts, and what it reads there" @click="morePoints">{{ hasPoints ? 'One more point' : 'Give its curve' }}</v-btn>
          <v-btn v-if="volts !== null" class="mono" size="small" title="The voltage of this moment as a point: say what it reads there" @click="takePoint">Take {{ volts.toFixed(2) }} V</v-btn>
          <span v-if="hasPoints && curve.length === 0" class="small">one more, elsewhere, and it is a curve</span>
        </div>
      </div>
      <div v-if="counted" class="line">
        <span class="label" aria-hidden="true">counts</span>
        <v-text-field class="mono" :model-value="wired?.counts ?? ''" placeholder="from end to end" inputmode="numeric" title="How many edges its encoder counts from one end to the other: turn it by hand and count" :error="wrongAt('counts')" :aria-label="`Edges that the encoder of ${fitted.name} counts from end to end`" @change="setCounts(($event.target as HTMLInputElement).value)" />
      </div>
      <div v-if="divides" class="line">
        <span />
        <v-checkbox :model-value="wired?.divider !== undefined" :label="`a divider, ${DIVIDER[0]} kΩ and ${DIVIDER[1]} kΩ`" @update:model-value="setDivider($event === true)" />
      </div>
      <p v-for="(p, i) in wrong" :key="i" class="wrong">✕ {{ p.message }}</p>
    </template>
  </section>
</template>

<style scoped>
.port { padding: 8px 12px 9px; border-bottom: 1px solid var(--line); }
h3 { font-size: 13.5px; margin: 0 0 4px; }
h3 .small { font-weight: 400; }
.line { display: grid; grid-template-columns: 84px 1fr; gap: 8px; align-items: center; min-height: 30px; }
.line:has(.v-select + .v-select) { grid-template-columns: 84px 1fr 92px; }
.line.point { grid-template-columns: 84px 84px 1fr 28px; }
.more { display: flex; flex-wrap: wrap; gap: 4px 8px; align-items: center; padding: 4px 0; }
.label, :deep(.v-checkbox .v-label) { font-size: 13px; }
.label { color: var(--muted); }
.says { margin: 0 0 3px 92px; line-height: 1.3; }
.none { margin: 0; }
.wrong { color: var(--error); font-size: 12.5px; font-weight: 600; margin: 3px 0 0; line-height: 1.3; overflow-wrap: anywhere; }
</style>
