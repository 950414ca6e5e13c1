import type { Estimate } from '../statistics'
import { findUnit, formatQuantity } from '../units'
import { CHANCE, plateauOf, settingSaid, type Answers, type Comparison, type Failures, type Known, type Result } from './answers'
import { verdictOf, type Finding } from './find'
import { settingAt } from './jobs'
import type { TrialPlan } from './plan'
import type { Part, Sensitivity } from './sensitivity'
import type { TrialBasis } from './trial'
import { variedText, worldSaid } from './varied'
import type { Goal } from '../task'
import type { Worst } from './worst'

const percent = (x: number): string => `${(100 * x).toFixed(x > 0.995 && x < 1 || x > 0 && x < 0.005 ? 1 : 0)} %`
const interval = ({ low, high }: Estimate): string => `${percent(low)} to ${percent(high)}`
const seconds = (x: number): string => `${Math.abs(x) < 10 ? x.toFixed(2) : x.toFixed(1)} s`
const times = (n: number): string => n === 1 ? 'once' : `${n} times`

/** What the trials say in sentences, by what they are about. */
export interface Spoken {
  /** In the order of the answers' results; `where`: the realism and setting, '' where there is only one. */
  readonly results: readonly { readonly program: string, readonly where: string, readonly said: string, readonly goals: readonly string[], readonly failures: readonly string[] }[]
  /** In the order of the answers' comparisons. */
  readonly comparisons: readonly string[]
  readonly plateaus: readonly string[]
  /** In the order of the answers' known worlds. */
  readonly known: readonly string[]
  readonly refused: readonly string[]
}

export function spokenOf(basis: TrialBasis, answers: Answers, goals: readonly string[]): Spoken {
  const { programs, plan } = basis
  const name = (program: number): string => programs[program]!.name
  const where = ({ realism, program, setting }: Pick<Result, 'realism' | 'program' | 'setting'>): string =>
    [plan.realisms.length > 1 ? realism : '', settingSaid(settingAt(programs[program]!.values, setting))].filter(w => w !== '').join(', ')
  const plateaus = (plan.dials.length === 0 ? [] : plan.realisms).flatMap(realism => programs.flatMap((_, program): readonly string[] => {
    const of = answers.results.filter(r => r.realism === realism && r.program === program && r.runs > 0)
    const plateau = plateauOf(of)
    if (of.length < 2 || plateau.length === 0) return []
    const values = plateau.map(r => settingSaid(settingAt(programs[program]!.values, r.setting)))
    return [`${name(program)}${plan.realisms.length > 1 ? ` (${realism})` : ''}: ${plateau.length === of.length ? 'no setting can be told from the best' : `as good as the best, as far as can be told: ${values.join('; ')}`}`]
  }))
  return {
    results: answers.results.map(result => ({
      program: name(result.program), where: where(result), said: resultSaid(result),
      goals: result.goals.length < 2 ? [] : result.goals.flatMap((goal, i) => goal.met < result.runs ? [`${goals[i]}: ${goal.met} of ${result.runs} (${interval(goal.share)})`] : []),
      failures: result.failures.map(failure => failureSaid(failure, goals)),
    })),
    comparisons: answers.comparisons.map((c) => { const at = where({ ...c, program: c.a }); return `${at === '' ? '' : `${at}: `}${comparisonSaid(c, name(c.a), name(c.b))}` }),
    plateaus, known: answers.known.map(k => knownSaid(k, plan, name(k.program), where(k))), refused: answers.refused.map(({ why, count }) => `Could not be run, ${times(count)}: ${why}`),
  }
}

/** Ways to fail that are told of in a few lines. */
const MOST_FAILURES = 3

/** What the trials say, one sentence a line: for people, before any table. */
export function saidOf(basis: TrialBasis, answers: Answers, goals: readonly string[]): readonly string[] {
  const { results, comparisons, plateaus, known, refused } = spokenOf(basis, answers, goals)
  return [
    ...results.flatMap(({ program, where, said, goals, failures }) => [`${program}${where === '' ? '' : ` (${where})`}: ${said}`, ...[...goals, ...failures.slice(0, MOST_FAILURES)].map(line => `  ${line}`)]),
    ...known, ...comparisons, ...plateaus, ...refused,
  ]
}

export const resultSaid = ({ runs, met, share, took }: Result): string => runs === 0 ? 'no runs'
  : `met all goals in ${met} of ${runs} runs, ${percent(share.value)} (95 % sure: ${interval(share)})${took === null ? '' : `; took ${seconds(took.median)}, half of them ${seconds(took.lower)} to ${seconds(took.upper)}`}`

const HOW: Readonly<Record<Failures['how'], string>> = { fell: 'it fell', error: 'the program stopped with an error', stuck: 'stuck when time was up', time: 'time was up', finished: 'the program finished before' }

/** How some runs failed alike. */
export const failureSaid = ({ goal, how, line, mode, count, example }: Failures, goals: readonly string[]): string =>
  `${times(count)}: ${HOW[how]}${goal === null ? '' : `, first lost: ${goals[goal]}`}${line === null ? '' : `, rule of line ${line}${mode === '' || mode === 'main' ? '' : ` (${mode})`} in control`}; seed ${example.seed} at ${seconds(example.at)}`

/** Whether one program is better than another, by success and then by time. */
export function comparisonSaid({ pairs, more, chance, seedsMore, slower, timeChance }: Comparison, a: string, b: string): string {
  const n = pairs.both + pairs.onlyA + pairs.onlyB + pairs.neither
  if (n === 0) return `${a} and ${b}: no seed was run with both`
  const [better, other, by] = more.value >= 0 ? [b, a, more] : [a, b, { value: -more.value, low: -more.high, high: -more.low }]
  const success = chance < CHANCE
    ? `${better} meets its goals more often than ${other}, by ${percent(by.value)} (95 % sure: ${interval(by)}; chance would do that with a probability of ${chance < 0.001 ? 'less than 0.001' : chance.toFixed(3)})`
    : `which of ${a} and ${b} meets its goals more often cannot be told${seedsMore === null ? ': over these seeds they differ in nothing' : `; about ${seedsMore} seeds more would tell, if they differ as much as it seems`}`
  if (slower === null) return success
  const time = timeChance < CHANCE ? `; where both do, ${slower.value > 0 ? a : b} is quicker by ${seconds(Math.abs(slower.value))} (${seconds(Math.min(Math.abs(slower.low), Math.abs(slower.high)))} to ${seconds(Math.max(Math.abs(slower.low), Math.abs(slower.high)))})` : '; where both do, neither can be told to be quicker'
  return success + time
}

/** What the variations of the world cost, a line each; those of which nothing is seen in one line. */
export function sensitivitySaid(all: readonly Sensitivity[]): readonly string[] {
  const cost = all.filter(s => s.costs.low > 0)
  const none = all.filter(s => s.costs.low <= 0)
  return [
    ...cost.map(({ of, best, worst, costs }) => {
      const within = (p: Part): string => `${variedText(of, p.from)} to ${variedText(of, p.to)}: ${percent(p.share.value)} of ${p.runs}`
      return `${of.replace('.', ' ')} costs ${percent(costs.value)} of success (95 % sure: ${interval(costs)}): ${within(worst)}; ${within(best)}`
    }),
    ...none.length === 0 ? [] : [`nothing seen of ${none.map(s => s.of.replace('.', ' ')).join(', ')}`],
  ]
}

/** How a program did in worlds that are known to be hard. */
function knownSaid({ met }: Known, { cases }: TrialPlan, program: string, where: string): string {
  const of = (which: boolean): readonly string[] => met.flatMap((m, i) => m === which ? [`${worldSaid(cases[i]!.world)} (seed ${cases[i]!.seed})`] : [])
  const [mended, failing] = [of(true), of(false)]
  return `${program}${where === '' ? '' : ` (${where})`} in worlds known to be hard: meets its goals in ${mended.length} of ${mended.length + failing.length}${failing.length === 0 ? '' : `; fails with ${failing.join('; with ')}`}`
}

/** What was found, and whether it is better than what the text has. */
export function findingSaid(finding: Finding): readonly string[] {
  const { values, own, found, given, comparison, runs } = finding
  const verdict = { better: 'found', worse: 'nothing better found', untold: 'nothing found that can be told to be better' }[verdictOf(finding)]
  return [
    `${verdict} after ${runs} runs: ${settingSaid(values)}; the text has ${settingSaid(own)}`,
    `on ${found.runs} fresh seeds, found: ${resultSaid(found)}`,
    `on the same seeds, as the text has it: ${resultSaid(given)}`,
    comparisonSaid(comparison, 'what the text has', 'what was found'),
  ]
}

/** A margin in its unit. */
function marginText(x: number, unit: 'm' | 's' | 'pieces' | 'times'): string {
  if (unit === 'm') return formatQuantity(x, findUnit('cm')!)
  if (unit === 's') return formatQuantity(x, findUnit('s')!)
  return unit === 'times' ? times(x) : x === 1 ? 'one piece' : `${x} pieces`
}

/** Where it fails, or how near it came to that. */
export function worstSaid({ fails, nearest, runs, refused }: Worst, goals: readonly Pick<Goal, 'sentence' | 'kind'>[]): readonly string[] {
  const margin = (at: NonNullable<Worst['nearest']>): string => {
    const { weighed, least } = at.trial.margin!
    const i = weighed.findIndex(w => w <= least)
    if (i === -1) return ''
    const own = at.trial.margin!.goals[i] ?? null
    return own === null ? `: ${goals[i]!.sentence}` : `: ${goals[i]!.sentence}, ${own < 0 ? 'missed by' : 'met with'} ${marginText(Math.abs(own), goals[i]!.kind.margin!.unit)}${own < 0 ? '' : ' to spare'}`
  }
  const lines = fails !== null
    ? [`fails with ${worldSaid(fails.world)}${margin(fails)}`, `found and made small in ${runs} runs: nearer to the arena as it is, it was not seen to fail`]
    : nearest === null ? ['no world could be run'] : [`no failure found in ${runs} runs; nearest to it with ${worldSaid(nearest.world)}${margin(nearest)}`]
  return refused === 0 ? lines : [...lines, `${times(refused)} a world could not be run: a start in a wall, say`]
}
