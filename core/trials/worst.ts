import { RandomStream } from '../random'
import type { ProjectDocuments } from '../simulation'
import { exp } from '../maths'
import { hypercube, type RunJobs } from './find'
import type { TrialPlan } from './plan'
import type { Trial, TrialBasis } from './trial'
import { variationOf, type Drawn } from './varied'

/** In which worlds a failure is looked for. */
export interface WorstSearch {
  readonly documents: ProjectDocuments
  readonly name: string
  readonly text: string
  /** What of its world varies, and between what; its first seed and first realism. */
  readonly plan: TrialPlan
  /** How many runs it may take. */
  readonly budget: number
}

/** What was found. */
export interface Worst {
  /** The world in which it fails, as near to the arena as it still does, and that run; null where none was found. */
  readonly fails: { readonly world: Drawn, readonly trial: Trial } | null
  /** The world in which it was nearest to failing, and that run; null where no run could be run. */
  readonly nearest: { readonly world: Drawn, readonly trial: Trial } | null
  /** Runs that it took in all, and how many of those could not be run. */
  readonly runs: number
  readonly refused: number
}

/** The fewest runs with which anything is looked for. */
export const LEAST_BUDGET_TO_FAIL = 20
/** Of the budget: what spreads out, and what is left to make a failure small. */
const SPREADING = 0.3
const SHRINKING = 0.2
/** Runs of a round around the worst; from how many of those that were the worst; of each round so many lie anywhere. */
const ROUND = 8
const PARENTS = 3
const ANYWHERE = 1
/** A line through the two worst is followed a little beyond where it says that all is lost, and at most so many times their distance. */
const BEYOND = 1.1
const FARTHEST = 4
/** How far around, of the range, at most; and down to how many powers of ten nearer, all alike: how narrow what is looked for is, nobody knows. */
const WIDE = 0.15
const POWERS = 2.2
/** Parts that the way back to the arena is cut into, and how often. */
const PARTS = 8
const CUTS = 2

/** What a variation is where a world does not differ: the value of its range nearest to that. */
const plainOf = (name: string, [low, high]: readonly [number, number]): number => Math.min(high, Math.max(low, variationOf(name)!.plain))

/**
 * Looks for a world in which a program fails. First worlds spread over the ranges as a Latin hypercube; then rounds around those with the least
 * margin of each goal, at distances of all orders of size, with one anywhere, and where a line through the two worst says that the goal is lost (an evolution strategy; I. Rechenberg, "Evolutionsstrategie", 1973).
 * The first failure is made as small as possible: each variation is left out where it fails without it, else brought back towards the arena
 * as far as it still fails, and written to three figures; what is told was run as it is told. All runs have the same seed.
 */
export async function findFailure({ documents, name, text, plan, budget }: WorstSearch, run: RunJobs, tell: (line: string) => void = () => undefined): Promise<Worst> {
  const names = Object.keys(plan.world)
  const ranges = names.map(n => plan.world[n]!)
  const plain = names.map((n, i) => plainOf(n, ranges[i]!))
  const stream = RandomStream.named(plan.seeds[0], 'trials/worst')
  const tried: { readonly at: readonly number[], readonly trial: Trial }[] = []
  let runs = 0
  let refused = 0
  const worldOf = (at: readonly number[]): Drawn => Object.fromEntries(at.flatMap((x, i) => x === variationOf(names[i]!)!.plain ? [] : [[names[i]!, x]]))

  const attempt = async (points: readonly (readonly number[])[]): Promise<readonly (Trial | null)[]> => {
    const basis: TrialBasis = {
      documents, programs: [{ name, text, values: [] }], margins: true,
      plan: { ...plan, dials: [], realisms: [plan.realisms[0]!], cases: points.map(at => ({ seed: plan.seeds[0], world: worldOf(at) })) },
    }
    const answers = await run(basis, points.map((_, i) => i))
    runs += answers.length
    const byNumber = new Map(answers.flatMap(a => typeof a === 'string' ? [] : [[a.number, a] as const]))
    refused += answers.length - byNumber.size
    return points.map((at, i) => {
      const trial = byNumber.get(i) ?? null
      if (trial !== null) tried.push({ at, trial })
      return trial
    })
  }
  const worstFirst = () => tried.toSorted((a, b) => a.trial.margin!.least - b.trial.margin!.least)
  const failed = (): boolean => tried.some(t => !t.trial.met)

  await attempt([plain])
  if (!failed()) await attempt(hypercube(ranges, Math.max(1, Math.floor(SPREADING * budget)), stream))
  const last = Math.floor(budget * (1 - SHRINKING))
  while (!failed() && runs + ROUND <= last && tried.length > 0) {
    tell(`${runs} runs: the nearest to failing has ${(100 * worstFirst()[0]!.trial.margin!.least).toFixed(1)} % of what is much to spare`)
    // Each goal has parents of its own: the time that one takes says nothing of how near another is to being lost.
    const parents = Array.from({ length: Math.max(1, tried[0]!.trial.margin!.weighed.length) }, (_, g) => tried.toSorted((a, b) => (a.trial.margin!.weighed[g] ?? 0) - (b.trial.margin!.weighed[g] ?? 0)).slice(0, PARENTS))
    const within = (at: readonly number[]): readonly number[] => at.map((x, k) => Math.min(ranges[k]![1], Math.max(ranges[k]![0], x)))
    const guesses = parents.flatMap(([a, b], g) => {
      if (a === undefined || b === undefined) return []
      const [of, than] = [a, b].map(t => t.trial.margin!.weighed[g] ?? 0) as [number, number]
      // Onwards from the second worst over the worst, to where a line through both would be lost; and between the two.
      const onwards = than > of ? Math.min(FARTHEST, of / (than - of) * BEYOND) : 0
      return [a.at.map((x, k) => x + (x - b.at[k]!) * onwards), a.at.map((x, k) => (x + b.at[k]!) / 2)]
    }).slice(0, ROUND - ANYWHERE)
    await attempt([
      ...Array.from({ length: ANYWHERE }, () => ranges.map(([low, high]) => stream.between(low, high))), ...guesses.map(within),
      ...Array.from({ length: ROUND - ANYWHERE - guesses.length }, (_, i) => {
        // The worst has most children.
        const of = parents[i % parents.length]!
        const parent = of[Math.floor(stream.unit() * stream.unit() * of.length)]!
        const wide = WIDE * exp(-POWERS * Math.LN10 * stream.unit())
        return within(ranges.map(([low, high], k) => parent.at[k]! + stream.normal() * wide * (high - low)))
      }),
    ])
  }
  const [nearest] = worstFirst()
  if (nearest === undefined) return { fails: null, nearest: null, runs, refused }
  const found = tried.filter(t => !t.trial.met).at(0)
  if (found === undefined) return { fails: null, nearest: { world: worldOf(nearest.at), trial: nearest.trial }, runs, refused }

  tell(`${runs} runs: it fails; made small`)
  let smallest = found
  /** Of these points, given from the smallest change to the largest, the first that fails. */
  const firstFailing = async (points: readonly (readonly number[])[]): Promise<void> => {
    const answers = await attempt(points)
    const i = answers.findIndex(t => t !== null && !t.met)
    if (i !== -1) smallest = { at: points[i]!, trial: answers[i]! }
  }
  const withValue = (k: number, x: number): readonly number[] => smallest.at.map((y, i) => i === k ? x : y)
  for (const k of names.keys()) {
    if (smallest.at[k] === plain[k] || runs >= budget) continue
    await firstFailing([withValue(k, plain[k]!)])
    for (let cut = 0, low = 0, high = 1, from = smallest.at[k]!; cut < CUTS && smallest.at[k] !== plain[k] && runs + PARTS <= budget; cut++) {
      // The way from the arena to where it failed, in parts; then the part in which it begins to fail, in parts.
      const shares = Array.from({ length: PARTS - 1 }, (_, i) => low + (high - low) * (i + 1) / PARTS)
      const points = shares.map(s => withValue(k, plain[k]! + (from - plain[k]!) * s))
      await firstFailing(points)
      const i = points.findIndex(p => p[k] === smallest.at[k])
      low = i <= 0 ? low : shares[i - 1]!
      high = i === -1 ? high : shares[i]!
    }
  }
  // What is told is what was run.
  const round = smallest.at.map((x, i) => x === plain[i] ? x : figures(names[i]!, x))
  if (round.some((x, i) => x !== smallest.at[i])) await firstFailing([round])
  return { fails: { world: worldOf(smallest.at), trial: smallest.trial }, nearest: { world: worldOf(nearest.at), trial: nearest.trial }, runs, refused }
}

/** To three figures of the unit that it is told in. */
function figures(name: string, x: number): number {
  const { scale } = variationOf(name)!
  return Number((x / scale).toPrecision(3)) * scale
}
