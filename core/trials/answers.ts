import { medianOf, pairedDifference, pairsMore, signTest, spreadOf, wilson, type Estimate, type Pairs, type Spread } from '../statistics'
import type { RunRealism } from '../devices'
import { jobOf, type DialValue } from './jobs'
import { runsOfSeed, settingsOf } from './plan'
import type { Trial, TrialBasis } from './trial'

/** How often a program met its goals in a realism with a setting of the dials, and how long that took. */
export interface Result {
  readonly program: number
  readonly realism: RunRealism
  readonly setting: number
  readonly runs: number
  readonly met: number
  /** The share that met all goals. */
  readonly share: Estimate
  /** The share that met each goal. */
  readonly goals: readonly { readonly met: number, readonly share: Estimate }[]
  /** Seconds of those that met all; null where none did. */
  readonly took: Spread | null
  readonly failures: readonly Failures[]
}

/** Runs that failed alike: the most frequent first. */
export interface Failures {
  /** The goal that was lost first, by its place; null where none was lost before the end. */
  readonly goal: number | null
  readonly how: 'fell' | 'error' | 'stuck' | 'time' | 'finished'
  /** The line of the rule in control when it was lost; null where none was. */
  readonly line: number | null
  readonly mode: string
  readonly count: number
  /** One of them to be looked at: its job, and the instant at which it was decided, seconds. */
  readonly example: { readonly number: number, readonly seed: number, readonly at: number }
}

/** Two programs with the same seeds, in one realism and setting. */
export interface Comparison {
  readonly a: number
  readonly b: number
  readonly realism: RunRealism
  readonly setting: number
  readonly pairs: Pairs
  /** By how much more often B met all goals than A. */
  readonly more: Estimate
  /** The probability of such a split, were they alike. */
  readonly chance: number
  /** About how many seeds more would tell, where it cannot be told yet; null where nothing differs so far. */
  readonly seedsMore: number | null
  /** By how many seconds B took longer, of the seeds with which both met all; null of fewer than six. */
  readonly slower: Estimate | null
  /** The probability of such a split in time, were they alike. */
  readonly timeChance: number
}

/** How a program did in the plan's cases, in a realism with a setting of the dials: of each, by its place, whether it met all goals; null where that is not known yet. */
export interface Known { readonly program: number, readonly realism: RunRealism, readonly setting: number, readonly met: readonly (boolean | null)[] }

/** What a plan's trials say, as far as they are done. */
export interface Answers {
  readonly results: readonly Result[]
  readonly comparisons: readonly Comparison[]
  /** How each program did in the worlds that are known to be hard. */
  readonly known: readonly Known[]
  /** Of what could not be done: why, and how often. */
  readonly refused: readonly { readonly why: string, readonly count: number }[]
}

/** What is less likely than this is no chance, as everywhere. */
export const CHANCE = 0.05
/** Who stood in one place for so long at the end was stuck, seconds. */
const STUCK = 10

/** Seeds after which it is looked whether more are needed. */
const SEEDS_AT_ONCE = 20

/** So many jobs come between two looks at whether more are needed: whole seeds, as what is known of one program is then known of all. */
export const batchOf = ({ plan, programs }: TrialBasis): number => SEEDS_AT_ONCE * runsOfSeed(plan, programs.length)

/** Whether every share is known to within so much: no more runs are needed. */
export const isSure = ({ results }: Answers, within: number): boolean => results.every(r => r.runs > 0 && (r.share.high - r.share.low) / 2 <= within)

/** Sums up trials; those that could not be done by their job's number with why. */
export function answersOf({ plan, programs }: TrialBasis, trials: readonly Trial[], refused: readonly string[] = []): Answers {
  const settings = settingsOf(plan)
  const cells = new Map<string, Trial[]>()
  const knownMet = new Map<string, boolean>()
  const keyOf = (program: number, realism: RunRealism, setting: number): string => `${program} ${realism} ${setting}`
  for (const trial of trials) {
    const job = jobOf(plan, programs.length, trial.number)
    const key = keyOf(job.program, job.realism, job.setting)
    if (job.known !== null) {
      // No draw: it says nothing of how often.
      knownMet.set(`${key} ${job.known}`, trial.met)
      continue
    }
    const cell = cells.get(key)
    if (cell === undefined) cells.set(key, [trial])
    else cell.push(trial)
  }
  const seedOf = (trial: Trial): number => jobOf(plan, programs.length, trial.number).seed
  const results: Result[] = []
  const comparisons: Comparison[] = []
  const known: Known[] = []
  for (const realism of plan.realisms) {
    for (let setting = 0; setting < settings; setting++) {
      const of = (program: number): readonly Trial[] => cells.get(keyOf(program, realism, setting)) ?? []
      programs.forEach((_, program) => {
        results.push({ program, realism, setting, ...sum(of(program), seedOf) })
        if (plan.cases.length > 0) known.push({ program, realism, setting, met: plan.cases.map((_, i) => knownMet.get(`${keyOf(program, realism, setting)} ${i}`) ?? null) })
      })
      for (let b = 1; b < programs.length; b++) for (let a = 0; a < b; a++) comparisons.push({ a, b, realism, setting, ...compare(of(a), of(b), seedOf) })
    }
  }
  const reasons = new Map<string, number>()
  for (const why of refused) reasons.set(why, (reasons.get(why) ?? 0) + 1)
  return { results, comparisons, known, refused: [...reasons].map(([why, count]) => ({ why, count })).sort((x, y) => y.count - x.count) }
}

function sum(trials: readonly Trial[], seedOf: (trial: Trial) => number): Omit<Result, 'program' | 'realism' | 'setting'> {
  const met = trials.filter(t => t.met).length
  const groups = new Map<string, { -readonly [K in keyof Failures]: Failures[K] }>()
  for (const trial of trials) {
    const { lost } = trial
    if (lost === null) continue
    const how = trial.ended === 'time' ? lost.stood >= STUCK ? 'stuck' as const : 'time' as const : trial.ended
    const { goal, line, mode } = lost
    const key = JSON.stringify([goal, how, line])
    const group = groups.get(key)
    if (group === undefined) groups.set(key, { goal, how, line, mode, count: 1, example: { number: trial.number, seed: seedOf(trial), at: lost.time } })
    else group.count++
  }
  return {
    runs: trials.length, met, share: wilson(met, trials.length),
    goals: (trials[0]?.goals ?? []).map((_, i) => { const n = trials.filter(t => t.goals[i]!.status === 'met').length; return { met: n, share: wilson(n, trials.length) } }),
    took: spreadOf(trials.flatMap(t => t.took ?? [])),
    failures: [...groups.values()].sort((x, y) => y.count - x.count),
  }
}

function compare(as: readonly Trial[], bs: readonly Trial[], seedOf: (trial: Trial) => number): Omit<Comparison, 'a' | 'b' | 'realism' | 'setting'> {
  const bySeed = new Map(as.map(t => [seedOf(t), t]))
  const pairs = { both: 0, onlyA: 0, onlyB: 0, neither: 0 }
  const slower: number[] = []
  for (const b of bs) {
    const a = bySeed.get(seedOf(b))
    if (a === undefined) continue
    pairs[a.met ? b.met ? 'both' : 'onlyA' : b.met ? 'onlyB' : 'neither']++
    if (a.took !== null && b.took !== null) slower.push(b.took - a.took)
  }
  const chance = signTest(pairs.onlyA, pairs.onlyB)
  return {
    pairs, more: pairedDifference(pairs), chance, seedsMore: chance < CHANCE ? null : pairsMore(pairs),
    slower: medianOf(slower), timeChance: signTest(slower.filter(d => d > 0).length, slower.filter(d => d < 0).length),
  }
}

/** The settings that cannot be told from the best: all whose interval meets that of the best. */
export function plateauOf(results: readonly Result[]): readonly Result[] {
  const best = results.reduce<Result | null>((top, r) => top === null || r.share.value > top.share.value ? r : top, null)
  return best === null ? [] : results.filter(r => r.share.high >= best.share.low)
}

/** The values of a setting in words: `near 12 cm, speed 20 cm/s`. */
export const settingSaid = (values: readonly DialValue[]): string => values.map(v => `${v.name} ${v.text}`).join(', ')
