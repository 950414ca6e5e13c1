import { array, lazy, object, type ObjectSchema } from 'yup'
import { RUN_REALISMS, type RunRealism } from '../devices'
import { documentText, plainNumber, quantity, readDocument, text, type Read } from '../document'
import { LAST_SEED } from '../random'
import { VARIATIONS, variationOf, type Varying } from './varied'

/** Another number is another format. */
export const PLAN_VERSION = 1
/** The most runs that a plan may have. */
export const MOST_RUNS = 1_000_000

/** From one value to another: drawn anew for every seed, and the same for all programs, realisms and dials. */
export type Range = readonly [number, number]

/** Values of a dial, evenly from one to another, both among them. As programs write them: `12 cm`. */
export interface DialRange { readonly name: string, readonly from: string, readonly to: string, readonly count: number }

/** How the world of each run differs from its arena, by what varies (`variationOf`): SI. */
export type WorldRanges = Readonly<Record<string, Range>>

/** A world that is known to be hard: with which seed, and by what it differs from the arena (SI). */
export interface Case { readonly seed: number, readonly world: Readonly<Record<string, number>> }

/** What a plan may look for instead of trying all that it says: good values of its dials, or a world in which its program fails. */
export const SOUGHT = ['values', 'failure'] as const
export type Sought = typeof SOUGHT[number]

/** Many runs of one project: every program in every realism with every value of the dials, each with the same seeds. */
export interface TrialPlan {
  readonly mindpath: 'trials'
  readonly version: number
  readonly title: string
  /** The first and the last seed. */
  readonly seeds: Range
  /** `measured` for robots whose documents say how they were. */
  readonly realisms: readonly RunRealism[]
  readonly dials: readonly DialRange[]
  readonly world: WorldRanges
  /** Seconds after which each run ends; null as the task says. */
  readonly limit: number | null
  /** Worlds in which a program failed once: every program is run in each of them too, and it is told apart from the seeds, which are drawn. */
  readonly cases: readonly Case[]
  /** Instead of all that, something is looked for within so many runs: good values between the ends of the dials, or a world within the ranges in which the program fails. null: all is tried. */
  readonly search: { readonly for: Sought, readonly runs: number } | null
  /** No more seeds once every share is known to within so much (0.05: five in a hundred either way); null for all of them. */
  readonly sure: number | null
}

const upwards = (range: unknown): boolean => !Array.isArray(range) || range[0] <= range[1]
const range = (one: () => ReturnType<typeof plainNumber>) => array(one().required()).length(2, 'expected two values, from and to').test('upwards', 'expected the smaller value first', upwards).default(undefined)
const KINDS = { cm: 'length', deg: 'angle', '%': 'number' } as const
/** One end of what varies, as documents write it. */
const end = ({ unit, least, most }: Varying) => unit === null ? plainNumber().min(least).max(most) : quantity(KINDS[unit], { min: least, max: most }) as unknown as ReturnType<typeof plainNumber>
/** The most worlds that a plan has besides what seeds draw. */
const MOST_CASES = 40
/** The most things that vary at a time. */
const MOST_VARIED = 24
/** What differs of a world, by its name; of each one end, or a range. */
const worldSchema = (one: (varying: Varying) => ReturnType<typeof end> | ReturnType<typeof range>) => (value: unknown) => object(Object.fromEntries(Object.keys(typeof value === 'object' && value !== null ? value : {}).slice(0, MOST_VARIED).flatMap((name) => {
  const varying = variationOf(name)
  return varying === null ? [] : [[name, one(varying)]]
}))).noUnknown(`does not know \${unknown}; allowed are up to ${MOST_VARIED} of ${Object.keys(VARIATIONS).join(', ')}, and THING.east, THING.north or THING.turn`).default(() => ({}))

const schema = object({
  mindpath: text().oneOf(['trials'], 'expected "trials": this is another kind of document').required(),
  version: plainNumber().oneOf([PLAN_VERSION], `allowed is ${PLAN_VERSION}`).required(),
  title: documentText(80).default(''),
  seeds: array(plainNumber().integer().min(0).max(LAST_SEED).required()).length(2, 'expected two seeds, the first and the last').test('upwards', 'expected the smaller seed first', upwards).required(),
  realisms: array(text().oneOf([...RUN_REALISMS], `allowed is one of ${RUN_REALISMS.join(', ')}`).required()).min(1).max(RUN_REALISMS.length).default(() => ['typical']),
  dials: array(object({ name: text().max(80).required(), from: text().max(40).required(), to: text().max(40).required(), count: plainNumber().integer().min(1).max(1000).required() }).noUnknown().required()).max(6, 'allowed are up to six dials').default(() => []),
  world: lazy(worldSchema(varying => range(() => end(varying)))),
  cases: array(object({ seed: plainNumber().integer().min(0).max(LAST_SEED).required(), world: lazy(worldSchema(varying => end(varying).required())) }).noUnknown().required()).max(MOST_CASES).default(() => []),
  limit: plainNumber().min(0.02).max(3600).nullable().default(null),
  search: object({ for: text().oneOf([...SOUGHT], `allowed is ${SOUGHT.join(' or ')}`).required(), runs: plainNumber().integer().min(1).max(MOST_RUNS).required() }).noUnknown().nullable().default(null),
  sure: plainNumber().min(0.005).max(0.5).nullable().default(null),
}).noUnknown().required() as unknown as ObjectSchema<TrialPlan & object>

/** Reads a plan; what is left out is as it is usual. */
export function readPlan(value: unknown): Read<TrialPlan> {
  const raw = readDocument<TrialPlan>(schema, value)
  if (!raw.ok) return raw
  // In an order of its own, whatever order it was written in: what is looked for draws in that order.
  const ordered = <T>(world: Readonly<Record<string, T>>): Readonly<Record<string, T>> => Object.fromEntries(Object.entries(world).sort(([a], [b]) => a < b ? -1 : 1))
  const read = { ok: true as const, value: { ...raw.value, world: ordered(raw.value.world), cases: raw.value.cases.map(c => ({ ...c, world: ordered(c.world) })) } }
  const runs = runsOf(read.value, 1)
  return runs <= MOST_RUNS ? read : { ok: false, problems: [{ path: 'seeds', value: JSON.stringify(read.value.seeds), message: `with its dials and realisms this plan has ${runs} runs; allowed are up to ${MOST_RUNS}` }] }
}

/** Settings of the dials that a plan tries, all together. */
export const settingsOf = ({ dials }: TrialPlan): number => dials.reduce((n, d) => n * d.count, 1)

/** How many runs a plan has of every seed, with so many programs. */
export const runsOfSeed = (plan: TrialPlan, programs: number): number => plan.realisms.length * programs * settingsOf(plan)

/** How many runs a plan has with so many programs; of a search, how many at most. */
export const runsOf = (plan: TrialPlan, programs: number): number => plan.search !== null ? plan.search.runs : (plan.cases.length + plan.seeds[1] - plan.seeds[0] + 1) * runsOfSeed(plan, programs)
