<script setup lang="ts">
import { computed } from 'vue'
import { shownName } from '~/composables/keys'
import { keyGroups, keySheet, useKeys, useSingleKeys } from '~/composables/useKeys'

/** All keys of what is on the page, in one sheet. */
const open = keySheet
const single = useSingleKeys()
useKeys('Everywhere', { '?': { says: 'this sheet', act: () => { open.value = !open.value } } })

/** Keys that stand for the same are one line. */
const shown = computed(() => !open.value ? [] : [...keyGroups.values()].map(({ title, says: all }) => {
  const lines = new Map<string, string[]>()
  for (const [key, says] of Object.entries(all)) lines.set(says, [...lines.get(says) ?? [], shownName(key)])
  return { title, lines: [...lines].map(([says, names]) => ({ says, names })) }
}))
</script>

<template>
  <v-dialog v-model="open" width="860" aria-label="Keys">
    <v-card class="sheet">
      <header><h2>Keys</h2><v-checkbox v-model="single" label="letters and signs act by themselves" /><v-btn size="small" aria-label="Put away" @click="open = false">✕</v-btn></header>
      <p class="small">While you type, or a list or menu is open, letters are letters. {{ single ? '' : 'Letters and signs alone do nothing now; keys with Ctrl or F act as ever.' }}</p>
      <div class="groups">
        <section v-for="group in shown" :key="group.title">
          <h3>{{ group.title }}</h3>
          <dl><div v-for="line in group.lines" :key="line.says"><dt><kbd v-for="name in line.names" :key="name">{{ name }}</kbd></dt><dd>{{ line.says }}</dd></div></dl>
        </section>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.sheet { padding: 14px 18px 16px; }
header { display: flex; align-items: center; gap: 18px; }
header .v-checkbox { flex: 1; }
h2 { font-size: 17px; }
h3 { font-size: 13.5px; padding: 10px 0 3px; }
.groups { columns: 2; column-gap: 34px; }
section { break-inside: avoid; }
dl { margin: 0; }
dl div { display: grid; grid-template-columns: 132px 1fr; gap: 10px; padding: 2px 0; }
dt { display: flex; gap: 5px; flex-wrap: wrap; }
dd { margin: 0; }
kbd { font-family: var(--mono); font-size: 12px; border: 1px solid var(--line); border-radius: 3px; padding: 0 5px; background: var(--ground); white-space: nowrap; }
</style>
