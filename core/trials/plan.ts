import { array, object, type ObjectSchema } from 'yup'
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

/** How the world of each run differs from its arena. SI units; left out where it does not. */
export interface WorldRanges {
  /** Grip of the floor, brightness of the light: so many times what the arena says. */
  readonly grip?: Range
  readonly light?: Range
  /** The robot starts so much east and north of where the arena says (metres), turned so much to the right (radians). */
  readonly east?: Range
  readonly north?: Range
  readonly turn?: Range
}

/** What may vary of a world: the unit that it is told in (null: so many times what the arena says), that unit in SI, and what it is where nothing differs. */
export const VARIATIONS: Readonly<Record<keyof WorldRanges, { readonly unit: 'cm' | 'deg' | null, readonly scale: number, readonly plain: number }>> = {
  grip: { unit: null, scale: 1, plain: 1 },
  light: { unit: null, scale: 1, plain: 1 },
  east: { unit: 'cm', scale: 0.01, plain: 0 },
  north: { unit: 'cm', scale: 0.01, plain: 0 },
  turn: { unit: 'deg', scale: Math.PI / 180, plain: 0 },
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
const times = () => plainNumber().min(0.01).max(10)
const length = () => quantity('length', { min: -10, max: 10 }) as unknown as ReturnType<typeof plainNumber>
const angle = () => quantity('angle', { min: -Math.PI, max: Math.PI }) as unknown as ReturnType<typeof plainNumber>

const schema = object({
  mindpath: text().oneOf(['trials'], 'expected "trials": this is another kind of document').required(),
  version: plainNumber().oneOf([PLAN_VERSION], `allowed is ${PLAN_VERSION}`).required(),
  title: documentText(80).default(''),
  seeds: array(plainNumber().integer().min(0).max(LAST_SEED).required()).length(2, 'expected two seeds, the first and the last').test('upwards', 'expected the smaller seed first', upwards).required(),
  realisms: array(text().oneOf([...REALISMS], `allowed is one of ${REALISMS.join(', ')}`).required()).min(1).max(REALISMS.length).default(() => ['typical']),
  dials: array(object({ name: text().max(80).required(), from: text().max(40).required(), to: text().max(40).required(), count: plainNumber().integer().min(1).max(1000).required() }).noUnknown().required()).max(6, 'allowed are up to six dials').default(() => []),
  world: object({ grip: range(times), light: range(times), east: range(length), north: range(length), turn: range(angle) }).noUnknown().default(() => ({})),
  limit: plainNumber().min(0.02).max(3600).nullable().default(null),
  sure: plainNumber().min(0.005).max(0.5).nullable().default(null),
}).noUnknown().required() as unknown as ObjectSchema<TrialPlan & object>

/** Reads a plan; what is left out is as it is usual. */
export function readPlan(value: unknown): Read<TrialPlan> {
  const read = readDocument<TrialPlan>(schema, value)
  if (!read.ok) return read
  const runs = runsOf(read.value, 1)
  return runs <= MOST_RUNS ? read : { ok: false, problems: [{ path: 'seeds', value: JSON.stringify(read.value.seeds), message: `with its dials and realisms this plan has ${runs} runs; allowed are up to ${MOST_RUNS}` }] }
}

/** Settings of the dials that a plan tries, all together. */
export const settingsOf = ({ dials }: TrialPlan): number => dials.reduce((n, d) => n * d.count, 1)

/** How many runs a plan has with so many programs. */
export const runsOf = (plan: TrialPlan, programs: number): number => (plan.seeds[1] - plan.seeds[0] + 1) * plan.realisms.length * programs * settingsOf(plan)
