<script setup lang="ts">
import { computed, ref } from 'vue'
import { BARE_ARM, BARE_ROVER, toUrdf } from '~~/core/robot'
import { usePickedFile } from '~/composables/useFiles'
import { saveAs } from '~/utils/files'
import { useKeptFiles } from './kept'
import { placeColor } from '~/shown/readings'
import { useKeys } from '~/composables/useKeys'
import { useRobotStore } from './robot'

/** The robot of a project: what is on it, where it sits, what it is wired to. */
const store = useRobotStore()
const told = ref('')

useKeys('Robot', {
  'd': { says: 'duplicate the device', act: () => store.duplicate() },
  'delete': { says: 'remove the device', act: () => store.remove() },
})

/** The same colour for a device as on the bench. */
const colors = computed(() => new Map((store.draft.devices ?? []).map((d, i) => [d.name, `rgb(var(--v-theme-${placeColor(i)}))`] as const)))
const wrong = computed(() => store.problems.length > 0 ? `${store.problems.length} wrong: the last good robot stays` : '')

const BARE = [{ label: 'a bare rover', value: BARE_ROVER }, { label: 'a bare arm', value: BARE_ARM }]

const exportRobot = (): void => saveAs(`${String(store.draft['name'] ?? 'robot')}.json`, `${JSON.stringify(store.draft, null, 2)}\n`, 'application/json')
const exportUrdf = (): void => { if (store.robot !== null) saveAs(`${store.robot.name}.urdf`, toUrdf(store.robot), 'application/xml') }

const openFile = usePickedFile('.json,.wav,image/png,image/jpeg,image/webp,image/gif', file => void importFile(file))
const { takeClip, takePicture } = useKeptFiles()
async function importFile(file: File): Promise<void> {
  if (/\.wav$/i.test(file.name)) { told.value = await takeClip(file); return }
  if (file.type.startsWith('image/')) { told.value = await takePicture(file); return }
  try {
    const wrong = store.replace(JSON.parse(await file.text()))
    told.value = wrong === null ? '' : `${file.name} is no robot document: ${wrong}. Nothing was changed.`
  } catch {
    told.value = `${file.name} is no robot document: it is not JSON. Nothing was changed.`
  }
}
</script>

<template>
  <DocumentFrame v-model:told="told" view="robot" :wrong="wrong" :depth="store.depth" @load="store.load()" @undo="store.undo()" @redo="store.redo()">
    <template #files>
      <v-btn @click="openFile()">Open a file</v-btn>
      <v-btn @click="exportRobot">Save to a file</v-btn>
      <KeyButton :disabled="store.robot === null" says="The open robot description, XML" @click="exportUrdf">URDF</KeyButton>
    </template>
    <template #left>
      <RobotDevices :colors="colors" />
      <DocumentShelf kind="robot" :here="store.draft" :bare="BARE" :sound="store.robot !== null && store.problems.length === 0" @take="store.replace" />
    </template>
    <RobotDrawing side="above" :colors="colors" />
    <RobotDrawing side="side" :colors="colors" />
    <template #right>
      <RobotDevice v-if="store.device !== null" />
      <RobotBody v-else />
      <RobotPoses />
      <RobotKept @told="words => told = words" />
      <RobotBudget />
    </template>
  </DocumentFrame>
</template>
