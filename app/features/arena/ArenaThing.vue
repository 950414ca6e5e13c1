<script setup lang="ts">
import { computed } from 'vue'
import { ITEMS, lightChangeSchema } from '~~/core/arena'
import { COLORS } from '~~/core/colors'
import { setWritten } from '~/shown/quantities'
import { useArenaStore } from './arena'
import { fieldsOf, fits, partOf, reshape } from './fields'
import { EDGES, refKey, type Raw } from './things'

/** What is chosen, by numbers: one thing with all its fields, several with what can be done to them together. */
const store = useArenaStore()

const only = computed(() => store.chosen.length === 1 ? store.chosen[0]! : null)
const item = computed(() => ITEMS.find(i => i.list === only.value?.ref.list) ?? null)
const fields = computed(() => item.value === null ? [] : fieldsOf(item.value.schema, item.value.says))
const wrong = (field: string): string => only.value === null ? '' : store.wrong(`${refKey(only.value.ref)}.${field}`)
const shown = (value: unknown): string => value === undefined ? '' : String(value)

const fitting = computed(() => fields.value.filter(f => only.value !== null && fits(f, only.value.raw)))

function set(name: string, value: string, kind: 'quantity' | 'number' | 'words' | 'list'): void {
  const thing = only.value
  if (thing === null) return
  const before = thing.raw[name]
  store.changeThing(thing.ref, `field ${name}`, (raw) => {
    setWritten(raw, name, value, kind)
    if (name === 'shape') reshape(raw, thing.ref.list === 'patches')
  })
  if ((name === 'name' || name === 'kind' || name === 'exit') && typeof before === 'string' && value !== '') store.renameInTask(before, value)
}
function setPair(holder: 'own' | 'area', name: string, at: 0 | 1, value: string): void {
  const thing = only.value
  if (thing === null) return
  store.changeThing(thing.ref, `field ${holder} ${name} ${at}`, (raw) => {
    const into = holder === 'own' ? raw : raw['area'] as Raw
    const pair = Array.isArray(into[name]) ? [...into[name] as unknown[]] : ['0 cm', '0 cm']
    pair[at] = value
    into[name] = pair
  })
}
/** Lets the seed draw the place from an area, or puts it to a place again. */
function draw(on: boolean): void {
  const thing = only.value
  if (thing === null) return
  store.changeThing(thing.ref, '', (raw) => {
    const at = raw['at'] ?? (raw['area'] as Raw | undefined)?.['at'] ?? raw['from'] ?? ['50 cm', '50 cm']
    if (on) {
      raw['area'] = { at, size: ['60 cm', '60 cm'] }
      delete raw['at']
    } else {
      delete raw['area']
      delete raw['any turn']
      if (raw['from'] === undefined) raw['at'] = at
    }
  })
}
const pairOf = (value: unknown): readonly [string, string] => Array.isArray(value) ? [shown(value[0]), shown(value[1])] : ['', '']
/** Changes what a part of the thing says: `steps` lead to it, names and places in lists. */
function changePart(field: string, what: string, act: (raw: Raw) => void): void {
  const thing = only.value
  if (thing !== null) store.changeThing(thing.ref, what === '' ? '' : `part ${field} ${what}`, act)
}
/** When the light of the whole arena changes. */
const LIGHT = partOf('list', 'changes', 'when it becomes lighter or darker', lightChangeSchema)
function changeLight(what: string, act: (raw: Raw) => void): void {
  store.edit(what === '' ? '' : `light ${what}`, (d) => { act((d['light'] ??= {}) as Raw) })
}
const points = (name: string): number => Array.isArray(only.value?.raw[name]) ? (only.value.raw[name] as unknown[]).length : 0
/** One more point at the end of a line or path, on from its last stretch; or the last taken away. */
function addPoint(name: string, by: 1 | -1): void {
  const thing = only.value
  if (thing !== null) store.addPoint(thing.ref, name, by)
}
/** The four lengths of an area. */
const AREA = [['at', 0, 'area east'], ['at', 1, 'area north'], ['size', 0, 'east–west'], ['size', 1, 'south–north']] as const
/** The group of all that is chosen; '' where they are of several or of none. */
const groupOf = computed(() => { const all = new Set(store.chosen.map(c => shown(c.raw['group']))); return all.size === 1 ? [...all][0]! : '' })
const wrongGroup = computed(() => store.chosen.map(c => store.wrong(`${refKey(c.ref)}.group`)).find(w => w !== '') ?? '')
const EDGE_SAYS: Readonly<Record<(typeof EDGES)[number], string>> = { west: 'west edges', middle: 'middles', east: 'east edges', south: 'south edges', centre: 'centres', north: 'north edges' }
</script>

<template>
  <section v-if="only !== null && item !== null" class="thing" aria-label="The chosen thing">
    <h2>{{ item.one }}</h2>
    <p class="small about">{{ item.summary }}</p>
    <template v-for="f in fitting" :key="f.form === 'value' ? f.spec.name : f.name">
      <DocumentField
        v-if="f.form === 'value'" :name="f.spec.name" :value="shown(only.raw[f.spec.name])" :usual="f.spec.usual" :choices="f.spec.choices" :data-field="f.spec.name"
        :says="f.spec.says" :wrong="wrong(f.spec.name)" @set="v => set(f.spec.name, v, f.spec.kind)"
      />
      <template v-else-if="f.form === 'pair'">
        <DocumentField
          v-for="(part, i) in f.parts" v-show="!(f.name === 'at' && only.raw['area'] !== undefined)" :key="part" :name="`${f.name}, ${part}`" :value="pairOf(only.raw[f.name])[i]!" :data-field="`${f.name} ${part}`"
          :says="i === 0 ? f.says : ''" :wrong="i === 0 ? wrong(f.name) : ''" @set="v => setPair('own', f.name, i as 0 | 1, v)"
        />
      </template>
      <template v-else-if="f.form === 'area'">
        <div v-if="only.ref.list !== 'scatter'" class="field-line" data-wide>
          <v-checkbox :model-value="only.raw['area'] !== undefined" label="the seed draws its place" data-field="drawn" @update:model-value="draw($event === true)" />
        </div>
        <template v-if="only.raw['area'] !== undefined">
          <DocumentField
            v-for="[name, i, label] in AREA" :key="label" :name="label"
            :value="pairOf((only.raw['area'] as Raw)[name])[i]" :says="label === 'area east' ? f.says : ''" :wrong="i === 0 ? wrong(`area.${name}`) : ''" @set="v => setPair('area', name, i, v)"
          />
        </template>
      </template>
      <div v-else-if="f.form === 'truth'" v-show="f.name !== 'any turn' || only.raw['area'] !== undefined" class="field-line" data-wide>
        <v-checkbox :model-value="(only.raw[f.name] ?? f.usual) === true" :label="f.name" :title="f.says" :data-field="f.name" @update:model-value="store.changeThing(only.ref, '', raw => { raw[f.name] = $event === true })" />
      </div>
      <div v-else-if="f.form === 'points'" class="field-line" data-wide>
        <span>{{ f.name }}</span>
        <span>{{ points(f.name) }} <v-btn size="small" @click="addPoint(f.name, 1)">One more</v-btn> <v-btn size="small" :disabled="points(f.name) <= 2" @click="addPoint(f.name, -1)">One less</v-btn></span>
        <i>{{ wrong(f.name) }}</i>
      </div>
      <ArenaPart v-else :field="f" :raw="only.raw" :wrong="wrong" @change="(what, act) => changePart(f.name, what, act)" />
    </template>
  </section>
  <section v-else-if="only !== null" class="thing" aria-label="The chosen thing">
    <h2>Start</h2>
    <p class="small about">Where the robot stands when a run begins.</p>
    <template v-if="only.raw['at'] !== undefined">
      <DocumentField v-for="(part, i) in ['east', 'north']" :key="part" :name="part" :value="pairOf(only.raw['at'])[i]!" says="" :wrong="i === 0 ? store.wrong('start.at') : ''" :data-field="part" @set="v => setPair('own', 'at', i as 0 | 1, v)" />
    </template>
    <template v-if="only.raw['area'] !== undefined">
      <DocumentField
        v-for="[name, i, label] in AREA" :key="label" :name="label"
        :value="pairOf((only.raw['area'] as Raw)[name])[i]" says="" :wrong="i === 0 ? store.wrong(`start.area.${name}`) : ''" @set="v => setPair('area', name, i, v)"
      />
    </template>
    <DocumentField v-if="only.raw['before'] === undefined" name="heading" :value="shown(only.raw['heading'])" usual="0 deg" says="0 is east, right positive; any: the seed says" :wrong="store.wrong('start.heading')" data-field="heading" @set="v => set('heading', v, 'words')" />
    <div class="field-line" data-wide>
      <v-checkbox :model-value="only.raw['area'] !== undefined" label="the seed draws it from an area" @update:model-value="draw($event === true)" />
    </div>
  </section>
  <section v-else-if="store.chosen.length > 1" class="thing" aria-label="What is chosen">
    <h2>{{ store.chosen.length }} things</h2>
    <DocumentField name="group" :value="groupOf" says="Things of one group are chosen together; Alt chooses one of them." :wrong="wrongGroup" data-field="group" @set="store.groupChosen" />
    <div class="together">
      <v-btn v-for="e in EDGES" :key="e" size="small" :data-align="e" @click="store.alignChosen(e)">Align {{ EDGE_SAYS[e] }}</v-btn>
      <v-btn size="small" :disabled="store.chosen.length < 3" @click="store.distributeChosen()">Even distances</v-btn>
    </div>
  </section>
  <section v-else class="thing" aria-label="The arena">
    <h2>Arena</h2>
    <DocumentField name="name" :value="shown(store.draft['name'])" says="" :wrong="store.wrong('name')" data-field="name" @set="v => store.edit('name', (d) => { d['name'] = v })" />
    <DocumentField v-for="(part, i) in ['east–west', 'south–north']" :key="part" :name="part" :value="pairOf(store.draft['size'])[i]!" :says="i === 0 ? '30 cm to 50 m' : ''" :wrong="i === 0 ? store.wrong('size') : ''" :data-field="part" @set="v => store.setSize(i as 0 | 1, v)" />
    <DocumentField name="around it" :value="shown(store.draft['surround'])" usual="ground" :choices="['water', 'ground']" says="" :wrong="store.wrong('surround')" @set="v => store.edit('surround', (d) => { d['surround'] = v })" />
    <DocumentField name="friction" :value="shown((store.draft['floor'] as Raw | undefined)?.['friction'])" usual="0.9" says="of the floor, 0.01 to 3" :wrong="store.wrong('floor.friction')" @set="v => store.setFloor('friction', v)" />
    <DocumentField name="floor" :value="shown((store.draft['floor'] as Raw | undefined)?.['color'])" usual="grey" :choices="COLORS" says="its paint" :wrong="store.wrong('floor.color')" @set="v => store.setFloor('color', v)" />
    <DocumentField name="light" :value="shown((store.draft['light'] as Raw | undefined)?.['level'])" usual="60 %" says="how light it is all about" :wrong="store.wrong('light')" @set="v => store.setLight(v)" />
    <ArenaPart :field="LIGHT" :raw="(store.draft['light'] as Raw | undefined) ?? {}" :wrong="path => store.wrong(`light.${path}`)" @change="changeLight" />
    <p class="small about">Choose a thing on the plan or in the list. Drag to move, the ring to turn; hold Shift to choose more, Ctrl to snap to nothing.</p>
  </section>
</template>

<style scoped>
h2 { font-size: 13.5px; padding: 8px 12px 2px; }
h2::first-letter { text-transform: uppercase; }
.about { padding: 0 12px 4px; }
:deep(.v-checkbox .v-label) { font-size: 13.5px; }
.field-line > .v-checkbox { grid-column: 1 / -1; }
.together { display: flex; flex-wrap: wrap; gap: 4px; padding: 4px 12px; }
</style>
