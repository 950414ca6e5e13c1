<script setup lang="ts">
import { computed, ref } from 'vue'
import { LANGUAGE_TITLES } from '~~/core/hardware'
import { useDroppedFile, usePickedFile } from '~/composables/useFiles'
import { useKeys } from '~/composables/useKeys'
import { useRobotStore } from '~/features/robot/robot'
import { useProjectStore } from '~/draft/project'
import { fileName, saveAs } from '~/utils/files'
import { lineText } from '~~/core/export/lines'
import { useExport } from './export'
import { useHardwareStore } from './hardware'

/** The robot of a project on a real board: what goes to which pin, what is in the way of that, and a plan to build from. */
const robots = useRobotStore()
const store = useHardwareStore()
const told = ref('')
const wrong = computed(() => robots.problems.length > 0 ? `${robots.problems.length} wrong with the robot: the last good one is shown` : '')
const errors = computed(() => store.problems.filter(p => p.severity === 'error'))
const unread = computed(() => [...robots.problems.filter(p => p.path.startsWith('wiring')), ...store.brought?.ok === false ? store.brought.problems : []])
const notes = computed(() => store.problems.filter(p => p.severity === 'note'))
const size = (bytes: number): string => bytes >= 1_048_576 ? `${Math.round(bytes / 1_048_576)} MB` : `${Math.round(bytes / 1024)} kB`

const project = useProjectStore()
const { made, trouble } = useExport(() => store.board.language === 'firmata' || project.data === null || robots.robot === null
  ? null : { text: project.program, robot: project.data.robot, board: store.board.name, wiring: store.wiring })

/** A board of one's own, from its document. */
async function takeBoard(file: File): Promise<void> {
  try {
    const wrong = store.bring(JSON.parse(await file.text()))
    told.value = wrong === null ? '' : `${file.name} is no board that can be used: ${wrong}. Nothing was changed.`
  } catch {
    told.value = `${file.name} is no board document: it is not JSON. Nothing was changed.`
  }
}
const openBoard = usePickedFile('.json', file => void takeBoard(file))
useDroppedFile(file => void takeBoard(file))

useKeys('Hardware', {
  b: { says: 'a board of your own, from its document', act: openBoard },
  k: { says: 'keep the wiring with the robot', act: () => { if (!store.own) store.keep() } },
  m: { says: 'the program for the board', act: saveSource },
})
function saveSource(): void {
  if (made.value?.zip != null) saveAs(`${fileName(project.data?.title ?? '', 'program')}-${store.board.name}.zip`, made.value.zip, 'application/zip')
}

const savePlan = (): void => saveAs(`${robots.robot?.name ?? 'robot'}-${store.board.name}.svg`, store.plan, 'image/svg+xml')
const print = (): void => globalThis.print()
</script>

<template>
  <DocumentFrame v-model:told="told" view="hardware" :wrong="wrong" :depth="robots.depth" @load="robots.load()" @undo="robots.undo()" @redo="robots.redo()">
    <template #files>
      <KeyButton says="A drawing to build from, SVG" @click="savePlan">Save the plan</KeyButton>
      <KeyButton says="The plan alone, on paper" @click="print">Print</KeyButton>
    </template>
    <template #left>
      <HardwarePart title="Board">
        <v-list class="boards" role="listbox" aria-label="Boards" :selected="[store.board.name]" mandatory @update:selected="store.choose(($event as string[])[0]!)">
          <v-list-item v-for="b in store.boards" :key="b.name" :value="b.name" :title="b.name" :subtitle="`${b.language === 'firmata' ? 'driven over a wire' : b.chip}${store.brought?.ok === true && store.brought.value.name === b.name ? ', of your own' : ''}`" />
        </v-list>
        <p class="small about">{{ store.board.about }}</p>
        <p v-if="store.board.flash > 0" class="small about mono">{{ store.board.volts }} V, {{ store.board.clock / 1e6 }} MHz, {{ size(store.board.flash) }} flash, {{ size(store.board.memory) }} memory</p>
        <div class="do">
          <KeyButton keys="B" says="A board of your own, from its document (docs/hardware.md says what stands in one); it can be dropped here too" @click="openBoard()">Open a board</KeyButton>
          <KeyButton v-if="store.brought !== null" says="The robot’s document is without it then; undo takes it back" @click="store.putAway()">Put {{ store.brought.ok ? store.brought.value.name : 'it' }} away</KeyButton>
        </div>
      </HardwarePart>
      <template v-if="store.board.language === 'firmata'">
        <WirePanel />
        <PosePanel />
      </template>
      <HardwarePart v-else class="carried" title="The program on it" label="The program on the board" aria-live="polite">
        <p v-if="trouble !== null" class="about bad">✕ it could not be made: {{ trouble }}</p>
        <p v-else-if="made === null" class="about">Being made…</p>
        <p v-else-if="made.says !== null" class="about bad">✕ {{ errors.length + unread.length > 0 ? 'not before what is in the way of the wiring is gone' : made.says }}</p>
        <template v-else>
          <p class="about">In {{ LANGUAGE_TITLES[store.board.language] }}: a function for each rule, with what it needs, how it is wired and how to put it there.</p>
          <div class="do"><KeyButton keys="M" says="One zip: program, runtime, drivers, plan, how to flash" @click="saveSource">Save it</KeyButton></div>
          <ul class="said">
            <li v-for="n in made.needs" :key="n.says" :class="{ note: !n.enough }"><span aria-hidden="true">{{ n.enough ? '●' : '△' }}</span><span>{{ n.says }}</span></li>
            <li v-for="d in made.differs" :key="d.device + d.says" class="note"><span aria-hidden="true">△</span><span><b>{{ d.device }}</b> ({{ lineText(d.lines) }}): {{ d.says }}</span></li>
          </ul>
        </template>
      </HardwarePart>
      <HardwarePart title="Wiring" label="How it is wired" aria-live="polite">
        <p v-if="store.own" class="about">As the robot says.</p>
        <p v-else class="about">As would do: {{ robots.robot?.wiring == null ? 'the robot does not say yet' : `the robot says how it is wired to ${robots.robot.wiring.board}` }}.</p>
        <div class="do">
          <KeyButton v-if="!store.own" class="keep" keys="K" says="Write it into the robot; undo takes it back" @click="store.keep()">Keep it</KeyButton>
          <KeyButton v-else says="Pins chosen anew, in place of these; undo takes it back" @click="store.suggest()">Choose anew</KeyButton>
        </div>
        <p class="count" :class="{ bad: errors.length + unread.length > 0 }">{{ errors.length + unread.length > 0 ? `✕ ${errors.length + unread.length} in the way` : '● nothing in the way' }}{{ notes.length > 0 ? `, △ ${notes.length} to know` : '' }}</p>
        <ul class="said">
          <!-- What stands in the robot's document and cannot be read: the last that could be is drawn. -->
          <li v-for="(p, i) in unread" :key="`u${i}`" class="error"><span aria-hidden="true">✕</span><span><code>{{ p.path }}</code> {{ p.value }}: {{ p.message }}</span></li>
          <li v-for="(p, i) in [...errors, ...notes]" :key="i" :class="p.severity"><span aria-hidden="true">{{ p.severity === 'error' ? '✕' : '△' }}</span><span><b v-if="p.port !== null">{{ store.fitted.find(f => f.port === p.port)?.name ?? p.port }}:</b> {{ p.message }}</span></li>
        </ul>
      </HardwarePart>
    </template>
    <!-- Our own drawing, made of names that the documents' readers let through. -->
    <!-- eslint-disable-next-line vue/no-v-html -->
    <div class="plan" role="img" :aria-label="`Plan of the wiring of ${robots.robot?.name} to ${store.board.name}; the list beside it says the same`" v-html="store.plan" />
    <template #right>
      <WiredPort v-for="f in store.fitted" :key="f.port" :fitted="f" />
    </template>
  </DocumentFrame>
</template>

<style scoped>
.boards { margin: 0 -12px; background: none; }
.boards :deep(.v-list-item--active) { background: var(--field); box-shadow: inset 3px 0 var(--signal); font-weight: 600; }
.boards :deep(.v-list-item-subtitle) { font-size: 12px; opacity: 1; color: var(--muted); }
.keep { background: var(--signal); color: var(--on-signal); border-color: var(--signal); }
.count { margin: 6px 0 0; font-size: 13px; font-weight: 600; }
.bad { color: var(--error); }
.said { list-style: none; padding: 0; margin: 4px 0 0; display: flex; flex-direction: column; gap: 6px; font-size: 12.5px; line-height: 1.35; }
.said li { display: grid; grid-template-columns: 16px 1fr; overflow-wrap: anywhere; }
.said .error > span:first-child { color: var(--error); font-weight: 700; }
.plan { flex: 1; min-height: 0; overflow: auto; padding: 14px; display: grid; place-items: center; background: var(--field); }
.plan :deep(svg) { max-width: 100%; height: auto; border-radius: 6px; border: 1px solid var(--line); }
@media print {
  .plan { position: fixed; inset: 0; z-index: 9999; background: #fff; padding: 0; }
  .plan :deep(svg) { border: 0; max-height: 100vh; }
}
</style>
