<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { chosenText, stretchesOf } from './differences'
import { DOCUMENT_PARTS } from './drafts'
import { useProjectStore } from './project'

/** Two texts of one program, when another tab or window saved first: both are shown where they differ, and each place is chosen, or one for all. */
const project = useProjectStore()

/** Nothing where there is no other text: a long one is not compared with every key. */
const stretches = computed(() => project.theirs === null ? [] : stretchesOf(project.program, project.theirs.program))
const places = computed(() => stretches.value.filter(s => 'mine' in s).length)
type Side = 'mine' | 'theirs'
/** The side that is chosen at each place where they differ. */
const sides = ref<Side[]>([])
watch(stretches, () => { sides.value = Array.from({ length: places.value }, () => 'mine') }, { immediate: true })
/** Stretches with the number of the place that each is; what both have is shortened to what lies beside a difference. */
const shown = computed(() => {
  let at = 0
  return stretches.value.map((s, i, all) => 'mine' in s ? { ...s, place: at++, same: [] } : { mine: [], theirs: [], place: null, same: shortened(s.same, i > 0, i < all.length - 1) })
})
/** Lines of what both have that are shown next to a difference. */
const NEAR = 2
function shortened(lines: readonly string[], above: boolean, below: boolean): readonly string[] {
  const from = above ? lines.slice(0, NEAR) : []
  const to = below ? lines.slice(-NEAR) : []
  return from.length + to.length >= lines.length ? lines : [...from, `⋯ ${lines.length - from.length - to.length} lines that both have`, ...to]
}
const others = computed(() => DOCUMENT_PARTS.filter(part => project.theirs !== null && JSON.stringify(project.theirs[part]) !== JSON.stringify(project.data?.[part])))
const mixed = computed(() => sides.value.includes('mine') && sides.value.includes('theirs'))
</script>

<template>
  <section v-if="project.state === 'conflict'" class="conflict" role="alert" aria-label="Two texts">
    <p>
      <b>This project was changed in another tab or window.</b> Nothing is lost: both are kept as revisions. Which goes on?
      <template v-if="others.length > 0"> Its {{ others.join(' and ') }} differ{{ others.length === 1 ? 's' : '' }} too: mine stays unless all of the other is taken.</template>
    </p>
    <div class="does">
      <v-btn variant="flat" color="primary" size="small" data-side="mine" @click="project.keepMine()">What I wrote here</v-btn>
      <v-btn variant="flat" color="primary" size="small" data-side="theirs" @click="project.takeTheirs()">What the other saved</v-btn>
      <v-btn v-if="places > 0" size="small" data-side="chosen" :variant="mixed ? 'flat' : 'outlined'" :color="mixed ? 'primary' : undefined" @click="project.keepMine(chosenText(stretches, sides))">As chosen below</v-btn>
      <span class="small">{{ places === 0 ? 'The programs are the same.' : `They differ in ${places} ${places === 1 ? 'place' : 'places'}.` }}</span>
    </div>
    <div v-if="places > 0" class="texts" tabindex="0" role="region" aria-label="Where the two texts differ">
      <template v-for="(s, i) in shown" :key="i">
        <pre v-if="s.place === null" class="same">{{ s.same.join('\n') }}</pre>
        <div v-else class="place" :data-place="s.place">
          <v-btn-toggle v-model="sides[s.place]" class="which" :aria-label="`Place ${s.place + 1}: whose lines`"><v-btn value="mine">mine</v-btn><v-btn value="theirs">theirs</v-btn></v-btn-toggle>
          <pre :class="{ chosen: sides[s.place] === 'mine' }">{{ s.mine.length === 0 ? '(nothing here)' : s.mine.join('\n') }}</pre>
          <pre :class="{ chosen: sides[s.place] === 'theirs' }">{{ s.theirs.length === 0 ? '(nothing here)' : s.theirs.join('\n') }}</pre>
        </div>
      </template>
    </div>
  </section>
</template>

<style scoped>
.conflict { background: var(--signal-tint); padding: 7px 14px 10px; border-bottom: 1px solid var(--signal); }
.conflict p { margin: 0; }
.does { display: flex; align-items: center; gap: 8px; margin: 6px 0; }
.texts { max-height: 34vh; overflow: auto; background: var(--panel); border: 1px solid var(--line); border-radius: 4px; padding: 6px 10px; }
pre { font-family: var(--mono); font-size: 12.5px; line-height: 1.4; margin: 0; white-space: pre-wrap; min-height: 1.4em; }
.same { color: var(--muted); padding-left: 124px; }
.place { display: grid; grid-template-columns: 116px 1fr 1fr; gap: 8px; align-items: start; padding: 3px 0; }
.place pre { padding: 0 6px; border-left: 3px solid var(--line); color: var(--muted); text-decoration: line-through; text-decoration-color: var(--line); }
.place pre.chosen { border-color: var(--signal); background: var(--field); color: var(--ink); font-weight: 700; text-decoration: none; }
</style>
