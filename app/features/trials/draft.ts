import { PLAN_VERSION, VARIATIONS, runsOf, type TrialPlan } from '~~/core/trials/plan'
import type { RealismName } from '~~/core/devices'

/** A plan as it is being written: every value as it was typed. */
export interface PlanDraft {
  seeds: readonly [string, string]
  realisms: readonly RealismName[]
  dials: readonly { readonly name: string, readonly from: string, readonly to: string, readonly count: string }[]
  world: readonly { readonly name: Varied, readonly from: string, readonly to: string }[]
  limit: string
  sure: boolean
}
export type Varied = keyof TrialPlan['world']

/** What of the world may vary, with what one begins with. */
export const VARIED: Readonly<Record<Varied, { readonly title: string, readonly from: string, readonly to: string }>> = {
  grip: { title: 'grip of the floor, times', from: '0.6', to: '1' },
  light: { title: 'light, times', from: '0.7', to: '1.3' },
  east: { title: 'start, east by', from: '-5 cm', to: '5 cm' },
  north: { title: 'start, north by', from: '-5 cm', to: '5 cm' },
  turn: { title: 'start, turned right by', from: '-10 deg', to: '10 deg' },
}

export const freshDraft = (): PlanDraft => ({ seeds: ['1', '40'], realisms: ['typical'], dials: [], world: [], limit: '', sure: false })

/** Every share known to within this is well enough. */
const WELL = 0.05

/** What is typed as a number, as one; else as it is, so that whoever reads the plan says what is wrong with it. */
const figure = (text: string): number | string => text.trim() !== '' && Number.isFinite(Number(text)) ? Number(text) : text

/** The plan as a document, whatever was typed. */
export const planFrom = ({ seeds, realisms, dials, world, limit, sure }: PlanDraft): object => ({
  mindpath: 'trials', version: PLAN_VERSION, seeds: seeds.map(figure), realisms, limit: limit.trim() === '' ? null : figure(limit.replace(/\s*s$/, '')), sure: sure ? WELL : null,
  dials: dials.map(d => ({ ...d, count: figure(d.count) })),
  world: Object.fromEntries(world.map(({ name, from, to }) => [name, VARIATIONS[name].unit === null ? [figure(from), figure(to)] : [from, to]])),
})

/** The draft of a plan that was tried, to try it again with a change. */
export const draftOf = ({ seeds, realisms, dials, world, limit, sure }: TrialPlan): PlanDraft => ({
  seeds: [String(seeds[0]), String(seeds[1])], realisms, dials: dials.map(d => ({ ...d, count: String(d.count) })), limit: limit === null ? '' : `${limit} s`, sure: sure !== null,
  world: (Object.keys(world) as Varied[]).map((name) => {
    const [from, to] = world[name]!
    const { unit, scale } = VARIATIONS[name]
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
