<script setup lang="ts">
import { computed, ref } from 'vue'
import { describeSettings, type SettingSpec } from '~~/core/devices'
import { GOAL_KINDS, type GoalKind } from '~~/core/task'
import { inLengthUnit } from '~/shown/lengths'
import { setWritten, writeQuantity } from '~/shown/quantities'
import { useProjectStore } from '~/draft/project'
import { useArenaStore } from './arena'
import { freshGoal, namesFor } from './goals'

/** The task: its goals as sentences over what the arena holds, each with its fields. */
const pointing = defineModel<((name: string) => void) | null>('pointing', { required: true })
const store = useArenaStore()
const project = useProjectStore()
const open = ref<number | null>(null)

const goals = computed(() => (store.task.goals ?? []).map((raw, i) => {
  const kind = GOAL_KINDS.find(k => k.goal === raw['goal'])
  const problems = store.taskProblems.filter(p => p.path === `goals[${i}]` || p.path.startsWith(`goals[${i}].`))
  // While it is wrong it has no sentence; others keep theirs by their place among those that are right.
  const right = store.taskProblems.length === 0 ? store.goals[i]?.sentence : undefined
  const fields = kind === undefined ? [] : describeSettings(kind.schema, () => '', writeQuantity)
  return { raw, i, sentence: inLengthUnit(right ?? `${String(raw['goal'])}: ${problems.map(p => p.message).join('; ') || 'not yet'}`), wrong: problems.length > 0, problems, fields }
}))
const devices = computed(() => ((project.data?.robot as { devices?: { name: string }[] } | null)?.devices ?? []).map(d => d.name))
/** What a field may name in this arena; null where it is no name. */
function choices(field: SettingSpec, now: unknown): readonly string[] | null {
  if (field.choices !== null) return field.choices
  if (store.arena === null) return null
  const names = namesFor(field.name, store.arena, devices.value)
  return names === null ? null : typeof now === 'string' && !names.includes(now) ? [now, ...names] : names
}
const pointable = (field: SettingSpec): boolean => ['of', 'to', 'kind', 'area', 'line'].includes(field.name)
const shown = (value: unknown): string => value === undefined ? '' : String(value)
function set(i: number, field: SettingSpec, value: string): void {
  store.editTask(`goal ${i} ${field.name}`, d => setWritten(d.goals![i]!, field.name, value, field.kind))
}
function point(i: number, field: SettingSpec): void {
  pointing.value = name => set(i, field, name)
}
function add(kind: GoalKind): void {
  if (store.arena === null) return
  const fresh = freshGoal(kind, store.arena, devices.value)
  store.editTask('', (d) => {
    if (d['mindpath'] === undefined) Object.assign(d, { mindpath: 'task', version: 1, name: String(store.draft['name'] ?? 'task'), title: project.data?.title ?? 'Task' })
    ;(d.goals ??= []).push(fresh)
  })
  open.value = (store.task.goals?.length ?? 1) - 1
}
function remove(i: number): void {
  store.editTask('', (d) => { d.goals!.splice(i, 1) })
  open.value = null
}
function wrongAt(path: string): string { return store.taskProblems.filter(p => p.path === path).map(p => p.message).join('; ') }
function wrongField(i: number, name: string): string { return wrongAt(`goals[${i}].${name}`) }
const general = (i: number): string => wrongAt(`goals[${i}]`)
</script>

<template>
  <section class="task" aria-label="Task">
    <h2>Task <span v-if="store.task.goals === undefined" class="small">none is set</span></h2>
    <template v-if="store.task.goals !== undefined">
      <DocumentField name="title" data-wide :value="shown(store.task['title'])" says="" :wrong="wrongAt('title')" data-field="title" @set="v => store.editTask('title', (d) => { d['title'] = v })" />
      <DocumentField name="limit" :value="shown(store.task['limit'])" usual="120 s" says="after this the run ends" :wrong="wrongAt('limit')" data-field="limit" @set="v => store.editTask('limit', (d) => { if (v.trim() === '') delete d['limit']; else d['limit'] = v })" />
    </template>
    <ol class="goals">
      <li v-for="g in goals" :key="g.i" :data-goal="g.raw['goal']">
        <div class="line">
          <v-btn variant="text" size="small" class="sentence" :class="{ wrong: g.wrong }" :aria-expanded="open === g.i" @click="open = open === g.i ? null : g.i"><span class="mono number">{{ g.i + 1 }}</span>{{ g.wrong ? '✕ ' : '' }}{{ g.sentence }}</v-btn>
          <v-btn size="x-small" variant="text" :aria-label="`Remove goal ${g.i + 1}`" @click="remove(g.i)">✕</v-btn>
        </div>
        <div v-if="open === g.i" class="fields">
          <div v-for="f in g.fields" :key="f.name" class="with-point">
            <DocumentField :name="f.name" :value="shown(g.raw[f.name])" :usual="f.usual" :choices="choices(f, g.raw[f.name])" :says="f.kind === 'quantity' ? f.allowed : ''" :wrong="wrongField(g.i, f.name)" :data-field="f.name" @set="v => set(g.i, f, v)" />
            <v-btn v-if="pointable(f)" size="x-small" variant="text" class="point" :aria-label="`Point at ${f.name} on the plan`" title="Point at it on the plan" @click="point(g.i, f)">point</v-btn>
          </div>
          <i class="general">{{ general(g.i) }}</i>
        </div>
      </li>
    </ol>
    <v-menu>
      <template #activator="{ props: opener }"><v-btn v-bind="opener" size="small" class="add" :disabled="store.arena === null">Add a goal</v-btn></template>
      <v-list aria-label="Goals to add">
        <v-list-item v-for="k in GOAL_KINDS" :key="k.goal" :title="k.goal" :subtitle="k.summary" :data-add="k.goal" @click="add(k)" />
      </v-list>
    </v-menu>
  </section>
</template>

<style scoped>
.task { border-top: 1px solid var(--line); padding-bottom: 10px; }
h2 { font-size: 13.5px; padding: 8px 12px 2px; }
.goals { list-style: none; margin: 0; padding: 2px 0 6px; }
.line { display: flex; align-items: flex-start; padding-right: 6px; }
.sentence { flex: 1; height: auto; min-height: 26px; text-align: left; justify-content: flex-start; white-space: normal; }
.sentence :deep(.v-btn__content) { white-space: normal; display: block; text-align: left; }
.sentence.wrong { color: var(--error); }
.number { color: var(--good); font-weight: 700; padding-right: 8px; }
.with-point { position: relative; }
.point { position: absolute; right: 8px; top: 4px; }
.general { color: var(--error); font-style: normal; font-weight: 600; font-size: 12px; padding: 0 12px; display: block; }
.add { margin: 0 12px; }
</style>
