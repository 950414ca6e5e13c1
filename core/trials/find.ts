import type { ProgramData } from '../program'
import { exp } from '../maths'
import { RandomStream } from '../random'
import type { ProjectDocuments } from '../simulation'
import { findUnit, readQuantity, unitsOfKind, type Kind } from '../units'
import { CHANCE, answersOf, type Comparison, type Result } from './answers'
import type { DialValue } from './jobs'
import { runsOf, type TrialPlan } from './plan'
import type { Trial, TrialBasis } from './trial'

/** What good values are looked for. */
export interface Search {
  readonly documents: ProjectDocuments
  readonly name: string
  readonly text: string
  readonly program: ProgramData
  /** Its dials' ends are looked between (counts are of no account), its first seed begins; one realism. */
  readonly plan: TrialPlan
  /** How many runs it may take. */
  readonly budget: number
}

/** Does some jobs of a basis; the answers in any order, strings for those that could not be done. */
export type RunJobs = (basis: TrialBasis, numbers: readonly number[]) => Promise<readonly (Trial | string)[]>

/** What was found: values against those that the program's text has, on seeds that were not looked at before. */
export interface Finding {
  readonly values: readonly DialValue[]
  readonly own: readonly DialValue[]
  readonly found: Result
  readonly given: Result
  /** A is as the text has them, B as they were found. */
  readonly comparison: Comparison
  /** Runs that it took in all. */
  readonly runs: number
}

/** The fewest runs of which anything can be found and judged. */
export const LEAST_BUDGET_TO_FIND = 120
/** Of the budget, what goes to the final judgement. */
const JUDGING = 0.4
/** How far a setting tells of another, as a share of each dial's range: the deviation of a bell. */
const NEAR = 0.06
/** Candidates that a stage begins with; half of them go after each round, and those that stay get twice the seeds. */
const CANDIDATES = 16
const ROUNDS = 4
/** Runs that a stage takes for every seed of its first round: half as many candidates with as many, then each with twice as many as before. */
const SHARES = Array.from({ length: ROUNDS }, (_, round) => seedsOf(round) * CANDIDATES / (1 << round)).reduce((a, b) => a + b)
/** How many times as many seeds a round has as the first. */
function seedsOf(round: number): number { return round === 0 ? 1 : 1 << (round - 1) }

/**
 * Finds good values of up to six dials within a budget of runs. Two stages of successive halving (K. Jamieson and A. Talwalkar, "Non-stochastic best
 * arm identification and hyperparameter optimization", AISTATS 2016): the first over all of the dials' ranges, spread as a Latin
 * hypercube with the program's own values among them; the second over half as wide ranges around the winner. A setting is better about which
 * all goals are met more often, then that takes less time. The winner is judged against the program's own values on fresh seeds, so that luck in
 * the search is not taken for skill.
 */
export async function findValues({ documents, name, text, program, plan, budget }: Search, run: RunJobs, tell: (line: string) => void = () => undefined): Promise<Finding> {
  const stream = RandomStream.named(plan.seeds[0], 'trials/find')
  const dials = plan.dials.map((range) => {
    const dial = program.dials.find(d => d.name === range.name)!
    const unit = (dial.unit === null ? undefined : findUnit(dial.unit)) ?? unitsOfKind(dial.kind)[0]
    const scale = unit?.scale ?? 1
    const value = (x: number): DialValue => { const figure = Number((x / scale).toPrecision(4)); return { name: dial.name, value: figure * scale, text: unit === undefined ? String(figure) : `${figure} ${unit.name}` } }
    return { dial, value }
  })
  const own = dials.map(({ dial, value }) => value(dial.value))
  const most = plan.limit ?? 3600
  let seed = plan.seeds[0]
  let runs = 0
  /** Every candidate as a program of its own, with its values. */
  const basisOf = (candidates: readonly (readonly DialValue[])[], seeds: readonly [number, number]): TrialBasis => ({
    documents, programs: candidates.map(values => ({ name, text, values: values.map(v => [v]) })),
    plan: { ...plan, dials: plan.dials.map(d => ({ ...d, count: 1 })), seeds },
  })
  const tried = async (candidates: readonly (readonly DialValue[])[], count: number): Promise<TrialBasis & { readonly trials: readonly Trial[] }> => {
    const basis = basisOf(candidates, [seed, seed + count - 1])
    seed += count
    const answers = await run(basis, Array.from({ length: runsOf(basis.plan, candidates.length) }, (_, i) => i))
    runs += answers.length
    return { ...basis, trials: answers.filter(a => typeof a !== 'string') }
  }
  interface Standing { readonly values: readonly DialValue[], met: number, time: number, runs: number }
  const wide = dials.map(({ dial }, i): readonly [number, number] => [siOf(plan.dials[i]!.from, dial.kind), siOf(plan.dials[i]!.to, dial.kind)])
  /** Every setting that was tried, in either stage. */
  const known: Standing[] = []
  /** How often goals are met about a setting, percent: settings near it count too, the less the farther (E. Nadaraya, 1964; G. Watson, 1964). Who was lucky at the edge of what fails has neighbours that were not. */
  const about = (of: Standing): number => {
    let [met, runs] = [0, 0]
    for (const one of known) {
      const far = wide.reduce((sum, [low, high], i) => { const d = (one.values[i]!.value - of.values[i]!.value) / (NEAR * Math.max(high - low, Number.MIN_VALUE)); return sum + d * d }, 0)
      const weight = exp(-far / 2)
      met += weight * one.met
      runs += weight * one.runs
    }
    // In whole ones: what is far away decides no tie.
    return Math.round(100 * met / runs)
  }

  const stage = async (ranges: readonly (readonly [number, number])[], first: readonly (readonly DialValue[])[], budget: number, where: string): Promise<readonly DialValue[]> => {
    const seeds = Math.max(1, Math.floor(budget / SHARES))
    let standing: Standing[] = [...first, ...hypercube(ranges, CANDIDATES - first.length, stream).map(point => point.map((x, i) => dials[i]!.value(x)))].map(values => ({ values, met: 0, time: 0, runs: 0 }))
    known.push(...standing)
    for (let round = 0; round < ROUNDS && standing.length > 1; round++) {
      const { trials, programs } = await tried(standing.map(s => s.values), seeds * seedsOf(round))
      for (const trial of trials) {
        const one = standing[trial.number % programs.length]!
        one.runs++
        if (trial.met) one.met++
        one.time += trial.took ?? most
      }
      const score = new Map(standing.map(s => [s, about(s)]))
      standing = standing.sort((a, b) => score.get(b)! - score.get(a)! || a.time / a.runs - b.time / b.runs).slice(0, Math.ceil(standing.length / 2))
      const [top] = standing
      tell(`${where}, round ${round + 1}: ${top!.values.map(v => `${v.name} ${v.text}`).join(', ')} leads with ${top!.met} of ${top!.runs}`)
    }
    return standing[0]!.values
  }

  const searching = budget * (1 - JUDGING)
  const first = await stage(wide, [own], searching / 2, 'all of the ranges')
  const narrow = wide.map(([low, high], i): readonly [number, number] => [Math.max(low, first[i]!.value - (high - low) / 4), Math.min(high, first[i]!.value + (high - low) / 4)])
  // What the text has is tried there once more: with more seeds, luck is less.
  const values = await stage(narrow, [first, own], searching / 2, 'around that')
  const judged = await tried([own, values], Math.max(20, Math.floor((budget - runs) / 2)))
  const { results: [given, found], comparisons: [comparison] } = answersOf(judged, judged.trials)
  return { values, own, found: found!, given: given!, comparison: comparison!, runs }
}

/** Whether what was found is better than what the text has: more often, or as often and quicker. `untold` where chance may have done it. */
export function verdictOf({ comparison: { more, chance, slower, timeChance } }: Finding): 'better' | 'worse' | 'untold' {
  if (chance < CHANCE) return more.value > 0 ? 'better' : 'worse'
  return timeChance < CHANCE && slower !== null && slower.value !== 0 ? slower.value < 0 ? 'better' : 'worse' : 'untold'
}

/** A dial's end, which was checked before. */
function siOf(text: string, kind: Kind): number {
  const read = readQuantity(text, kind)
  if (!read.ok) throw new Error(`${text}: ${read.reason}`)
  return read.value
}

/** Points that are spread in every direction: each of so many slices of every range has one (M. D. McKay and others, Technometrics 21, 1979). */
export function hypercube(ranges: readonly (readonly [number, number])[], count: number, stream: RandomStream): readonly (readonly number[])[] {
  const columns = ranges.map(([low, high]) => {
    const slices = Array.from({ length: count }, (_, i) => i)
    for (let i = count - 1; i > 0; i--) { const j = Math.floor(stream.unit() * (i + 1)); [slices[i], slices[j]] = [slices[j]!, slices[i]!] }
    return slices.map(slice => low + (high - low) * (slice + stream.unit()) / count)
  })
  return Array.from({ length: count }, (_, i) => columns.map(column => column[i]!))
}
