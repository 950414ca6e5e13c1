<script setup lang="ts">
import { setWritten } from '~/shown/quantities'
import { fits, reshape, type Field } from './fields'
import type { Raw } from './things'

/** A part of a thing with fields of its own, one or a list of like ones: a lamp's timetable, what a belt is fed. */
const { field, raw, wrong } = defineProps<{
  field: Extract<Field, { form: 'part' | 'list' }>
  /** What the part stands in, as the document has it. */
  raw: Raw
  /** What is wrong at a path within that: `on[0].from`. */
  wrong: (path: string) => string
}>()
/** A change of what the part stands in; changes of the same name in a row are one step of undo. */
const emit = defineEmits<{ change: [what: string, act: (raw: Raw) => void] }>()

type Act = (part: Raw) => void
const all = (from: Raw): Raw[] => (field.form === 'list' ? from[field.name] ?? [] : from[field.name] === undefined ? [] : [from[field.name]]) as Raw[]
/** Changes one of them. */
function within(i: number, what: string, act: Act): void { emit('change', what === '' ? '' : `${i} ${what}`, from => act(all(from)[i]!)) }
function set(i: number, name: string, value: string, kind: 'quantity' | 'number' | 'words' | 'list'): void {
  within(i, name, (part) => {
    setWritten(part, name, value, kind)
    if (name === 'shape') reshape(part, false)
  })
}
function add(): void {
  const fresh = JSON.parse(JSON.stringify(field.fresh)) as Raw
  emit('change', '', (from) => { if (field.form === 'list') from[field.name] = [...all(from), fresh]; else from[field.name] = fresh })
}
function remove(i: number): void {
  emit('change', '', (from) => {
    const left = all(from).filter((_, k) => k !== i)
    if (field.form === 'list' && left.length > 0) from[field.name] = left
    else delete from[field.name]
  })
}
const place = (i: number): string => field.form === 'list' ? `${field.name}[${i}]` : field.name
const shown = (value: unknown): string => value === undefined ? '' : String(value)
</script>

<template>
  <div class="part" role="group" :aria-label="field.name" :data-part="field.name">
    <div v-for="(part, i) in all(raw)" :key="i" class="one">
      <div class="name"><span>{{ field.name }}{{ field.form === 'list' ? ` ${i + 1}` : '' }}</span><v-btn size="x-small" variant="text" :aria-label="`Remove ${field.name} ${i + 1}`" @click="remove(i)">✕</v-btn></div>
      <template v-for="f in field.fields.filter(f => fits(f, part))" :key="f.form === 'value' ? f.spec.name : f.name">
        <DocumentField
          v-if="f.form === 'value'" :name="f.spec.name" :value="shown(part[f.spec.name])" :usual="f.spec.usual" :choices="f.spec.choices" :data-field="`${place(i)}.${f.spec.name}`"
          :says="f.spec.says || (f.spec.choices === null ? f.spec.allowed : '')" :wrong="wrong(`${place(i)}.${f.spec.name}`)" @set="v => set(i, f.spec.name, v, f.spec.kind)"
        />
        <div v-else-if="f.form === 'truth'" class="field-line" data-wide>
          <v-checkbox :model-value="(part[f.name] ?? f.usual) === true" :label="f.name" :title="f.says" @update:model-value="within(i, '', (p) => { p[f.name] = $event === true })" />
        </div>
        <ArenaPart v-else-if="f.form === 'part' || f.form === 'list'" :field="f" :raw="part" :wrong="path => wrong(`${place(i)}.${path}`)" @change="(what, act) => within(i, what, act)" />
      </template>
    </div>
    <div class="name"><span v-if="all(raw).length === 0">{{ field.name }}</span><v-btn v-if="field.form === 'list' || all(raw).length === 0" size="x-small" class="add" :title="field.says" :data-add-part="field.name" @click="add">{{ all(raw).length === 0 ? 'Add' : 'One more' }}</v-btn></div>
  </div>
</template>

<style scoped>
.one { border-left: 3px solid var(--line); margin: 2px 0 4px 12px; }
.name { display: flex; align-items: center; gap: 8px; padding: 2px 12px; font-weight: 600; }
.one > .name { justify-content: space-between; }
</style>
