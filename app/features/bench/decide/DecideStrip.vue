<script setup lang="ts">
import { useDroppedFile, usePickedFile } from '~/composables/useFiles'
import { ref, useTemplateRef } from 'vue'
import { STEP_FORMS } from '~~/core/devices'
import { merged, nameAt, nameProblem, rename } from '~~/core/editing'
import { formatProgram } from '~~/core/language'
import { fileName, saveAs } from '~/utils/files'
import { useKeys } from '~/composables/useKeys'
import { useBenchStore } from '~/features/bench/bench'
import { useProjectStore } from '~/draft/project'
import { useRulesStore } from '~/features/rules/rules'

/** Below the program: from and to files, and what is done to the whole text. */
const bench = useBenchStore()
const project = useProjectStore()
const rules = useRulesStore()

const revisions = useTemplateRef<{ show(): void }>('revisions')
const told = ref('')
/** The longest program that is taken from a file, bytes: what the language reads. */
const LONGEST = 400_000
async function take(file: File): Promise<void> {
  if (file.size > LONGEST) { told.value = `${file.name} is ${Math.round(file.size / 1000)} kB; a program has at most ${LONGEST / 1000} kB. Nothing was changed.`; return }
  const text = (await file.text()).replaceAll('\r\n', '\n')
  // Bytes that are no text come out as this sign, or as zeros.
  if (/[\0\uFFFD]/.test(text)) { told.value = `${file.name} is no text. Nothing was changed.`; return }
  rules.apply(merged(project.program, text))
  told.value = `This is ${file.name} now; undo brings back what was here.`
}
const openFile = usePickedFile('.mindpath,.txt,text/plain', file => void take(file))
useDroppedFile(file => void take(file))
function saveFile(): void { saveAs(`${fileName(project.data?.title ?? '', 'program')}.mindpath`, project.program, 'text/plain') }
function format(): void { rules.apply(merged(project.program, formatProgram(rules.sheet.tree, STEP_FORMS))) }
/** The first mend of the caret's line, else of the next that has one. */
function mendNext(): void {
  const line = rules.caretLine()
  const fixes = bench.diagnostics.flatMap(({ range, fix }) => fix === null ? [] : [{ line: rules.lineOf(range.from), fix }])
  const found = (rules.face === 'text' ? fixes.find(m => m.line >= line) : undefined) ?? fixes[0]
  if (found !== undefined) rules.mend(found.fix)
}
function renameHere(): void {
  const place = rules.caret()
  const name = place === null ? null : nameAt(rules.sheet, place.offset)
  if (place === null || name === null) { told.value = 'Put the caret on the name of a mode, memory, dial, routine, signal or lane.'; return }
  rules.find({
    key: '', place, title: `another name for the ${name.what} ${name.name}, everywhere`, text: name.name, offers: [],
    take: to => to === name.name || rules.change(s => rename(s, name.what, name.name, to)) ? null : nameProblem(rules.sheet.tree, to) ?? 'this name cannot be',
  })
}
useKeys('Text of the program', {
  'ctrl+alt+f': { says: 'format', act: format },
  'ctrl+alt+r': { says: 'rename what the caret is on', act: renameHere },
  'ctrl+.': { says: 'the next fix', act: mendNext },
})
</script>

<template>
  <div class="strip">
    <v-btn size="small" variant="text" @click="openFile()">Open file</v-btn>
    <v-btn size="small" variant="text" @click="saveFile">Save file</v-btn>
    <v-btn size="small" variant="text" title="What was saved before: looked through and brought back" @click="revisions?.show()">Revisions</v-btn>
    <span class="gap" />
    <KeyButton v-if="bench.diagnostics.some(d => d.fix !== null)" size="small" variant="text" keys="Ctrl ." @click="mendNext">Fix</KeyButton>
    <template v-if="rules.face === 'text'"><KeyButton size="small" variant="text" keys="Ctrl Alt R" @click="renameHere">Rename</KeyButton><KeyButton size="small" variant="text" keys="Ctrl Alt F" @click="format">Format</KeyButton></template>
  </div>
  <RevisionSheet ref="revisions" @bring="text => rules.apply(merged(project.program, text))" />
  <p v-if="told !== ''" class="told" role="status">{{ told }} <v-btn size="x-small" variant="text" aria-label="Put away" @click="told = ''">✕</v-btn></p>
</template>

<style scoped>
.strip { container: strip / inline-size; display: flex; gap: 2px; align-items: center; padding: 2px 8px; border-top: 1px solid var(--line); flex: none; }
.strip .gap { flex: 1; }
/* Where it is narrow, keys stand in the sheet only. */
@container strip (max-width: 620px) { .strip :deep(.key) { display: none; } }
.told { background: var(--field); padding: 3px 12px; flex: none; }
</style>
