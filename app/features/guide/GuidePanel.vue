<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { useProjectsStore } from '~/features/projects/projects'
import { useProjectStore } from '~/draft/project'
import { useGuideStore } from './guide'
import { GUIDE } from './steps'

/** The guide: the work in its order, a step at a time, ticked off by what was done. It stands beside the Bench and asks for nothing. */
/** Short: one step alone, where there is little room. */
const props = defineProps<{ short?: boolean }>()
const guide = useGuideStore()
const project = useProjectStore()
const projects = useProjectsStore()
onMounted(() => { if (!projects.loaded) void projects.load() })

/** The step that is unfolded: the next one, or the one that somebody looks at. */
const shown = ref(guide.next?.id ?? '')
watch(() => guide.next, (next) => { shown.value = next?.id ?? '' })
const steps = computed(() => (props.short === true ? GUIDE.filter(s => s.id === (shown.value || guide.next?.id)) : GUIDE).map((s) => {
  const demo = projects.list.find(p => p.title === s.demo)
  return { ...s, number: GUIDE.indexOf(s) + 1, done: guide.done.includes(s.id), demo: demo === undefined || demo.id === project.data?.id ? null : { title: s.demo, to: `/projects/${demo.id}` } }
}))
/** Text and, every second, what stood in backticks. */
const pieces = (line: string): readonly string[] => line.split('`')
</script>

<template>
  <aside class="guide" :class="{ short }" aria-label="Guide">
    <header class="head">
      <h2>Guide</h2><span class="small" role="status">{{ guide.done.length }} of {{ GUIDE.length }} done</span>
      <v-btn size="x-small" variant="text" aria-label="Put the guide away" @click="guide.open = false">✕</v-btn>
    </header>
    <ol class="steps">
      <li v-for="step in steps" :key="step.id" :class="{ done: step.done, next: step.id === guide.next?.id }" :data-step="step.id" :data-done="step.done">
        <v-list-item tag="button" class="title" :aria-expanded="shown === step.id" @click="shown = shown === step.id ? '' : step.id">
          <span class="sign" :aria-label="step.done ? 'done' : 'not yet'" role="img">{{ step.done ? '●' : '○' }}</span><span>{{ step.number }}. {{ step.title }}</span>
        </v-list-item>
        <div v-if="shown === step.id" class="says">
          <p v-for="line in step.says" :key="line">
            <template v-for="(piece, n) in pieces(line)" :key="n"><code v-if="n % 2 === 1">{{ piece }}</code><template v-else>{{ piece }}</template></template>
          </p>
          <p v-if="step.demo !== null && !step.done" class="small">On the demo project <NuxtLink :to="step.demo.to">{{ step.demo.title }}</NuxtLink>, or on yours.</p>
        </div>
      </li>
    </ol>
    <p v-if="guide.next === null" class="all" role="status">All done. What else the language can say stands in its reference: <code>docs/language.md</code>. <v-btn size="small" @click="guide.again()">Begin again</v-btn></p>
  </aside>
</template>

<style scoped>
.guide { display: flex; flex-direction: column; min-height: 0; background: var(--panel); border-left: 1px solid var(--line); overflow: auto; }
.head { display: flex; align-items: center; gap: 8px; padding: 0 6px 0 12px; height: 33px; border-bottom: 1px solid var(--line); flex: none; position: sticky; top: 0; background: var(--panel); z-index: 1; }
.head h2 { font-size: 13.5px; margin: 0; }
.head .small { flex: 1; }
.steps { list-style: none; margin: 0; padding: 4px 0; }
.title { width: 100%; text-align: left; color: inherit; }
.title :deep(.v-list-item__content) { display: flex; gap: 8px; }
.next .title { font-weight: 700; }
.sign { color: var(--muted); }
.done .sign { color: var(--good); }
.done .title { color: var(--muted); }
.says { padding: 0 12px 6px 34px; font-size: 13px; line-height: 1.42; }
.says p { margin: 0 0 6px; }
code { font-family: var(--mono); font-size: 12px; background: var(--ground); border-radius: 3px; padding: 0 4px; }
.guide.short { border: 0; border-bottom: 1px solid var(--line); max-height: 150px; flex: none; }
.all { padding: 6px 12px 12px; margin: 0; }
</style>
