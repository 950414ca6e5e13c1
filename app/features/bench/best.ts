import { TapeHash, type TapeEvent } from '~~/core/tape'
import type { GoalState } from '~~/core/task'
import { useKept } from '~/composables/useKept'

/** How many best times a browser remembers. */
const MOST = 200

/** A best time: seconds, of which seed at which realism of which task. */
interface Best { readonly of: string, readonly time: number }

/** What a best time is of: another task, arena or robot, another seed or realism are another race. */
export function raceOf(project: string, documents: readonly unknown[], seed: number, realism: string): string {
  const hash = new TapeHash()
  hash.text(JSON.stringify(documents))
  return `${project} ${hash.digest()} ${seed} ${realism}`
}

/** How long a run took that met all goals by itself, seconds; null for any other. Hands in it are help, dials are not. */
export function timeOf(end: { readonly time: number } | null, goals: readonly Pick<GoalState, 'status'>[], events: readonly Pick<TapeEvent, 'type' | 'poke'>[]): number | null {
  if (end === null || goals.length === 0 || goals.some(g => g.status !== 'met')) return null
  return events.some(e => e.type === 'poke' && (e.poke as { poke?: string } | undefined)?.poke !== 'dial') ? null : end.time
}

/** The best times of this browser. */
export function useBest() {
  const kept = useKept<readonly Best[]>('bench.best', [])
  const find = (race: string): number | null => kept.value.find(b => b.of === race)?.time ?? null
  /** Takes a time; the one to beat before it, null where there was none. The newest stay. */
  function take(race: string, time: number): number | null {
    const before = find(race)
    if (before === null || time < before) kept.value = [{ of: race, time }, ...kept.value.filter(b => b.of !== race)].slice(0, MOST)
    return before
  }
  return { find, take }
}
