<script setup lang="ts">
import { computed } from 'vue'
import { listKeys } from '~/composables/useKeys'
import { roundTripSays, wireSays } from '~/wire/says'
import { usePoseStore } from '~/wire/pose'
import { useWireStore } from '~/wire/wire'

/** Above what the robot senses: how the wire to the real one stands, and what stops it. Nothing where there is none. */
const wire = useWireStore()
const pose = usePoseStore()
const says = computed(() => wireSays(wire.stage, wire.link, wire.why))
/** In a few words, where all is well. */
const short = computed(() => says.value.state === 'good' ? `⌁ ${wire.link?.real.length ?? 0} real, ${roundTripSays(wire.link)}` : says.value.words)
listKeys('Wire', { Escape: 'the real robot stands at once, wherever one is' })
</script>

<template>
  <div v-if="wire.stage !== 'none' || wire.why !== null" class="strip" :class="says.state" role="status">
    <span class="words" :title="says.words"><span aria-hidden="true">{{ says.sign }}</span> {{ short }}</span>
    <KeyButton v-if="wire.connected" size="small" keys="Esc" says="The real robot stands at once" @click="wire.halt()">Stop</KeyButton>
    <v-btn v-else size="x-small" variant="text" aria-label="Put this away" @click="wire.disconnect()">✕</v-btn>
  </div>
  <div v-if="pose.stage === 'driven'" class="strip good" role="status"><span class="words">▶ a client drives it</span></div>
</template>

<style scoped>
.strip { display: flex; align-items: center; gap: 6px; padding: 4px 6px 4px 10px; border-bottom: 1px solid var(--line); font-size: 12.5px; line-height: 1.3; }
.words { flex: 1; min-width: 0; overflow-wrap: anywhere; }
.good { background: var(--field); }
.bad .words { color: var(--error); font-weight: 600; }
</style>
