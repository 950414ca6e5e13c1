import { array, lazy, object, type ObjectSchema } from 'yup'
import { REALISMS, type RealismName } from '../devices'
import { documentText, plainNumber, quantity, readDocument, text, type Read } from '../document'
import { LAST_SEED } from '../random'

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

/** What may vary of a world: what it is, the unit that it is told in (null: so many times what is usual), that unit in SI, what it is where nothing differs, and its limits in SI. */
export interface Varying { readonly says: string, readonly unit: 'cm' | 'deg' | '%' | null, readonly scale: number, readonly plain: number, readonly least: number, readonly most: number }

const times = (says: string, least = 0.01): Varying => ({ says, unit: null, scale: 1, plain: 1, least, most: 10 })
const share = (says: string, most: number): Varying => ({ says, unit: '%', scale: 0.01, plain: 0, least: -most, most })
const way = (says: string): Varying => ({ says, unit: 'cm', scale: 0.01, plain: 0, least: -10, most: 10 })
const angle = (says: string): Varying => ({ says, unit: 'deg', scale: Math.PI / 180, plain: 0, least: -Math.PI, most: Math.PI })

/** What varies by itself, and with a name of a thing before it (`crate_1.east`): where that stands. */
export const VARIATIONS: Readonly<Record<string, Varying>> = {
  grip: times('grip of the floor'), light: times('light'), noise: times('how far sensors deviate', 0),
  motors: share('left motor stronger than the right one', 0.5), wheels: share('left wheel larger than the right one', 0.2),
  east: way('start, east by'), north: way('start, north by'), turn: angle('start, turned right by'),
}
export const SHIFTS: Readonly<Record<'east' | 'north' | 'turn', Varying>> = { east: way('east by'), north: way('north by'), turn: angle('turned right by') }

/** What varies under such a name; null where nothing does. */
export function variationOf(name: string): Varying & { readonly thing: string | null, readonly what: string } | null {
  const dot = name.lastIndexOf('.')
  const [thing, what] = dot === -1 ? [null, name] : [name.slice(0, dot), name.slice(dot + 1)]
  const of = thing === null ? VARIATIONS : SHIFTS as Readonly<Record<string, Varying>>
  return thing === '' || !Object.hasOwn(of, what) ? null : { ...of[what]!, thing, what }
}

/** Many runs of one project: every program in every realism with every value of the dials, each with the same seeds. */
export interface TrialPlan {
  readonly mindpath: 'trials'
  readonly version: number
  readonly title: string
  /** The first and the last seed. */
  readonly seeds: Range
  readonly realisms: readonly RealismName[]
  readonly dials: readonly DialRange[]
  readonly world: WorldRanges
  /** Seconds after which each run ends; null as the task says. */
  readonly limit: number | null
  /** No more seeds once every share is known to within so much (0.05: five in a hundred either way); null for all of them. */
  readonly sure: number | null
}

const upwards = (range: unknown): boolean => !Array.isArray(range) || range[0] <= range[1]
const range = (one: () => ReturnType<typeof plainNumber>) => array(one().required()).length(2, 'expected two values, from and to').test('upwards', 'expected the smaller value first', upwards).default(undefined)
const KINDS = { cm: 'length', deg: 'angle', '%': 'number' } as const
/** One end of what varies, as documents write it. */
const end = ({ unit, least, most }: Varying) => unit === null ? plainNumber().min(least).max(most) : quantity(KINDS[unit], { min: least, max: most }) as unknown as ReturnType<typeof plainNumber>
/** The most things that vary at a time. */
const MOST_VARIED = 24
const worldSchema = (value: unknown) => object(Object.fromEntries(Object.keys(typeof value === 'object' && value !== null ? value : {}).slice(0, MOST_VARIED).flatMap((name) => {
  const varying = variationOf(name)
  return varying === null ? [] : [[name, range(() => end(varying))]]
}))).noUnknown(`does not know \${unknown}; allowed are up to ${MOST_VARIED} of ${Object.keys(VARIATIONS).join(', ')}, and THING.east, THING.north or THING.turn`).default(() => ({}))

const schema = object({
  mindpath: text().oneOf(['trials'], 'expected "trials": this is another kind of document').required(),
  version: plainNumber().oneOf([PLAN_VERSION], `allowed is ${PLAN_VERSION}`).required(),
  title: documentText(80).default(''),
  seeds: array(plainNumber().integer().min(0).max(LAST_SEED).required()).length(2, 'expected two seeds, the first and the last').test('upwards', 'expected the smaller seed first', upwards).required(),
  realisms: array(text().oneOf([...REALISMS], `allowed is one of ${REALISMS.join(', ')}`).required()).min(1).max(REALISMS.length).default(() => ['typical']),
  dials: array(object({ name: text().max(80).required(), from: text().max(40).required(), to: text().max(40).required(), count: plainNumber().integer().min(1).max(1000).required() }).noUnknown().required()).max(6, 'allowed are up to six dials').default(() => []),
  world: lazy(worldSchema),
  limit: plainNumber().min(0.02).max(3600).nullable().default(null),
  sure: plainNumber().min(0.005).max(0.5).nullable().default(null),
}).noUnknown().required() as unknown as ObjectSchema<TrialPlan & object>

/** Reads a plan; what is left out is as it is usual. */
export function readPlan(value: unknown): Read<TrialPlan> {
  const raw = readDocument<TrialPlan>(schema, value)
  if (!raw.ok) return raw
  // In an order of its own, whatever order it was written in: what is looked for draws in that order.
  const read = { ok: true as const, value: { ...raw.value, world: Object.fromEntries(Object.entries(raw.value.world).sort(([a], [b]) => a < b ? -1 : 1)) } }
  const runs = runsOf(read.value, 1)
  return runs <= MOST_RUNS ? read : { ok: false, problems: [{ path: 'seeds', value: JSON.stringify(read.value.seeds), message: `with its dials and realisms this plan has ${runs} runs; allowed are up to ${MOST_RUNS}` }] }
}

/** Settings of the dials that a plan tries, all together. */
export const settingsOf = ({ dials }: TrialPlan): number => dials.reduce((n, d) => n * d.count, 1)

/** How many runs a plan has with so many programs. */
export const runsOf = (plan: TrialPlan, programs: number): number => (plan.seeds[1] - plan.seeds[0] + 1) * plan.realisms.length * programs * settingsOf(plan)
