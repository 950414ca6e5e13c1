<script setup lang="ts">
import type { ListedPlan } from '~/utils/api'
import { about } from './draft'
import { useTrialsStore } from './trials'

/** The plans that were tried, the newest first. */
const trials = useTrialsStore()

const SIGNS: Readonly<Record<ListedPlan['state'], string>> = { waiting: '◌ waits', running: '▸ under way', done: '● done', enough: '● enough', cancelled: '■ cancelled', failed: '✕ failed' }
function whatOf({ plan, programs }: ListedPlan): string {
  if (plan === null) return 'a plan of another version'
  const varied = [...plan.dials.map(d => d.name), ...Object.keys(plan.world).map(name => name.replace('.', ' '))]
  const aim = plan.search === null ? '' : plan.search.for === 'values' ? 'good values · ' : 'where it fails · '
  const seeds = plan.search === null ? `seeds ${plan.seeds[0]}–${plan.seeds[1]}` : `seed ${plan.seeds[0]}${plan.search.for === 'values' ? ' on' : ''}`
  return `${aim}${programs.map(p => p.name).join(', ')} · ${seeds} · ${plan.realisms.join(', ')}${varied.length === 0 ? '' : ` · ${varied.join(', ')}`}`
}
const howFar = ({ state, done, total, met, progress }: ListedPlan): string =>
  state === 'waiting' ? `${total} runs` : `${done === total ? '' : state === 'done' ? `${done} of up to ` : `${done} of `}${total} runs${progress?.left == null ? done === 0 ? '' : `, ${met} met all goals` : `, ${progress.rate!.toFixed(1)} a second, ${about(progress.left)} left`}`
const when = (iso: string): string => new Date(iso).toLocaleString(undefined, { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit', hourCycle: 'h23' })
</script>

<template>
  <p v-if="trials.list?.trouble" class="trouble" role="alert">△ {{ trials.list.trouble }}. It is tried again.</p>
  <p v-if="trials.list !== null && trials.plans.length === 0" class="empty">Nothing tried yet. One good run may be luck: <b>Try it</b> runs the program with many seeds and says how often it meets its goals, how long it takes, and how it fails.</p>
  <ol v-else-if="trials.list !== null" class="plans" aria-label="Plans that were tried">
    <li v-for="p in trials.plans" :key="p.id" :class="{ current: p.id === trials.chosen }" :aria-current="p.id === trials.chosen" :data-plan="p.id" :data-state="p.state" @click="trials.choose(p.id)">
      <v-btn class="what" variant="text" :aria-pressed="p.id === trials.chosen" @click.stop="trials.choose(p.id)">{{ whatOf(p) }}</v-btn>
      <span class="does">
        <v-btn v-if="p.state === 'running' || p.state === 'waiting'" size="x-small" variant="text" aria-label="Cancel this plan" title="Cancel: what it did stays" @click.stop="trials.cancel(p.id)">■</v-btn>
        <v-btn size="x-small" variant="text" aria-label="Put it away" title="Put it away" @click.stop="trials.remove(p.id)">✕</v-btn>
      </span>
      <span class="small">{{ SIGNS[p.state] }} · {{ howFar(p) }} · {{ when(p.at) }}</span>
      <v-progress-linear v-if="p.state === 'running'" class="bar" :model-value="100 * p.done / p.total" color="signal" height="3" :aria-label="`${p.done} of ${p.total} runs`" />
      <span v-if="p.why !== ''" class="small why">{{ p.why }}</span>
    </li>
  </ol>
  <v-skeleton-loader v-else type="list-item-two-line@4" />
</template>

<style scoped>
.empty { padding: 18px; line-height: 1.5; }
.trouble { margin: 0; padding: 8px 12px; color: var(--warning); font-weight: 600; overflow-wrap: anywhere; }
.plans { list-style: none; margin: 0; padding: 0; }
.plans li { display: grid; grid-template-columns: 1fr auto; padding: 7px 8px 7px 12px; border-bottom: 1px solid var(--line); cursor: pointer; }
.plans li.current { background: var(--field); box-shadow: inset 3px 0 var(--ink); }
.plans .what { height: auto; min-height: 24px; padding: 0; justify-content: start; text-align: start; font-weight: 400; }
.what :deep(.v-btn__content) { white-space: normal; overflow-wrap: anywhere; }
.small, .bar { grid-column: 1 / -1; }
.why { color: var(--error); }
.bar { margin-top: 4px; }
</style>
