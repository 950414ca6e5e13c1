import { PLAN_VERSION, runsOf, type Case, type TrialPlan } from '~~/core/trials/plan'
import { variationOf, writtenWorld, type Varying } from '~~/core/trials/varied'
import type { RunRealism } from '~~/core/devices'

/** What a plan is for: to try all that it says, or to look for something. */
export const AIMS = [
  { value: 'all', title: 'Try all', says: 'How dependable is it, which program is better, which value is best?' },
  { value: 'values', title: 'Find good values', says: 'Looks for good values of dials, and judges what it found with fresh seeds' },
  { value: 'failure', title: 'Find where it fails', says: 'Looks for a world in which it fails, and makes that as small as it can' },
] as const
export type Aim = typeof AIMS[number]['value']

/** A plan as it is being written: every value as it was typed. */
export interface PlanDraft {
  aim: Aim
  /** How many runs a search may take. */
  runs: string
  seeds: readonly [string, string]
  realisms: readonly RunRealism[]
  dials: readonly { readonly name: string, readonly from: string, readonly to: string, readonly count: string }[]
  world: readonly { readonly name: string, readonly from: string, readonly to: string }[]
  cases: readonly Case[]
  limit: string
  sure: boolean
}

/** What one begins with, of what varies by itself; things are moved as starts are. */
const BEGIN: Readonly<Record<string, readonly [string, string]>> = {
  grip: ['0.6', '1'], light: ['0.7', '1.3'], noise: ['1', '2'], motors: ['-10 %', '10 %'], wheels: ['-1 %', '1 %'], east: ['-5 cm', '5 cm'], north: ['-5 cm', '5 cm'], turn: ['-10 deg', '10 deg'],
}
/** A range of what varies, to begin with. */
export function beginOf(name: string): PlanDraft['world'][number] {
  const [from, to] = BEGIN[variationOf(name)!.what]!
  return { name, from, to }
}
/** What varies, as people read it: `crate_1, east by`. */
export function variedTitle(name: string): string {
  const { thing, says, unit } = variationOf(name)!
  return `${thing === null ? '' : `${thing}, `}${says}${unit === null ? ', times' : unit === '%' ? ', by' : ''}`
}

/** Runs that searches begin with. */
const RUNS: Readonly<Record<Aim, string>> = { all: '', values: '300', failure: '80' }
export const freshDraft = (): PlanDraft => ({ aim: 'all', runs: '', seeds: ['1', '40'], realisms: ['typical'], dials: [], world: [], cases: [], limit: '', sure: false })
/** A draft for something else. */
export const withAim = (draft: PlanDraft, aim: Aim): PlanDraft => ({ ...draft, aim, runs: RUNS[aim], realisms: aim === 'all' ? draft.realisms : draft.realisms.slice(0, 1) })

/** Every share known to within this is well enough. */
const WELL = 0.05

/** What is typed as a number, as one; else as it is, so that whoever reads the plan says what is wrong with it. */
const figure = (text: string): number | string => text.trim() !== '' && Number.isFinite(Number(text)) ? Number(text) : text

/** The plan as a document, whatever was typed. What it is not for is left out of it: no dial is tried where a failure is looked for. */
export const planFrom = ({ aim, runs, seeds: [first, last], realisms, dials, world, cases, limit, sure }: PlanDraft): object => ({
  mindpath: 'trials', version: PLAN_VERSION, seeds: [first, aim === 'all' ? last : first].map(figure), realisms, limit: limit.trim() === '' ? null : figure(limit.replace(/\s*s$/, '')),
  dials: aim === 'failure' ? [] : dials.map(d => ({ ...d, count: aim === 'all' ? figure(d.count) : 1 })),
  world: Object.fromEntries(world.map(({ name, from, to }) => [name, variationOf(name)!.unit === null ? [figure(from), figure(to)] : [from, to]])),
  ...aim === 'all'
    ? { sure: sure ? WELL : null, cases: cases.map(c => ({ seed: c.seed, world: writtenWorld(c.world) })) }
    : { search: { for: aim, runs: figure(runs) } },
})

/** The draft of a plan that was tried, to try it again with a change. */
export const draftOf = ({ search, seeds, realisms, dials, world, cases, limit, sure }: TrialPlan): PlanDraft => ({
  aim: search?.for ?? 'all', runs: search === null ? '' : String(search.runs),
  seeds: [String(seeds[0]), String(search === null ? seeds[1] : seeds[0] + 39)], realisms, dials: dials.map(d => ({ ...d, count: search === null ? String(d.count) : '5' })), cases, limit: limit === null ? '' : `${limit} s`, sure: sure !== null,
  world: Object.entries(world).map(([name, [from, to]]) => {
    const { unit, scale }: Varying = variationOf(name)!
    const said = (x: number): string => unit === null ? String(x) : `${round(x / scale)} ${unit}`
    return { name, from: said(from), to: said(to) }
  }),
})
const round = (x: number): number => Math.round(x * 1e6) / 1e6

/** How many runs a plan has, and about how long they take: simulated seconds at most, and seconds, null before the pace is known. */
export function sizeOf(plan: TrialPlan, programs: number, limit: number, pace: number | null): { readonly runs: number, readonly simulated: number, readonly seconds: number | null } {
  const runs = runsOf(plan, programs)
  const simulated = runs * (plan.limit ?? limit)
  return { runs, simulated, seconds: pace === null ? null : simulated / pace }
}

/** A time for people, to the figure that matters. */
export function about(seconds: number): string {
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`
  if (seconds < 5400) return `${Math.round(seconds / 60)} min`
  return `${(seconds / 3600).toFixed(seconds < 36000 ? 1 : 0)} h`
}
