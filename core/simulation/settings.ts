import { lazy, object, type ObjectSchema } from 'yup'
import type { Arena } from '../arena'
import { plainNumber, point, quantity, readDocument, type Problem, type Read } from '../document'
import type { ProgramData } from '../program'
import type { Robot } from '../robot'
import { movedArena, unmovable, type Shift } from './moved'
import type { WireInputs } from './wire'
import { findUnit, formatQuantity, kindName, readQuantity, unitsOfKind } from '../units'

/** What a run has besides its documents, program, realism and seed; as it comes in, all may be left out. */
export interface RunSettings {
  /** Values of dials, with their units: `{ near: '12 cm' }`. */
  readonly dials?: Readonly<Record<string, string>>
  /** How its world differs from its arena. */
  readonly world?: unknown
  /** What real devices read in it; left out or null: all is simulated. */
  readonly wire?: WireInputs | null
}

/** How a world differs from its arena. */
export interface Variation {
  /** Where the robot starts instead: metres, and which way it faces (radians, 0 east, right positive). */
  readonly start?: { readonly at: readonly [number, number], readonly heading: number }
  /** Grip of the floor, brightness of the light: so many times what the arena says. */
  readonly grip: number
  readonly light: number
  /** How far the robot's sensors deviate: so many times what realism says. */
  readonly noise: number
  /** By what share its left motor is stronger than its right one, and its left wheel larger. */
  readonly motors: number
  readonly wheels: number
  /** Things that stand elsewhere than the arena says, by name. */
  readonly moved: Readonly<Record<string, Shift>>
}

const DEG = Math.PI / 180
const times = () => plainNumber().min(0.01).max(10).default(1)
const far = () => quantity('length', { min: -10, max: 10 }).default(0)
const shiftSchema = object({ east: far(), north: far(), turn: quantity('angle', { min: -180 * DEG, max: 180 * DEG }).default(0) }).noUnknown()

/** As documents are written: `{ "start": { "at": ["50 cm", "1 m"], "heading": "90 deg" }, "grip": 0.6, "moved": { "crate_1": { "east": "4 cm" } } }`. */
export const variationSchema = object({
  start: object({ at: point().required(), heading: quantity('angle', { min: -360 * DEG, max: 360 * DEG }).default(0) }).noUnknown().default(undefined),
  grip: times(),
  light: times(),
  noise: plainNumber().min(0).max(10).default(1),
  motors: plainNumber().min(-0.5).max(0.5).default(0),
  wheels: plainNumber().min(-0.2).max(0.2).default(0),
  // Any name may stand here; whether the arena has it is looked at below.
  moved: lazy((value: unknown) => object(Object.fromEntries(Object.keys(typeof value === 'object' && value !== null ? value : {}).map(name => [name, shiftSchema]))).default({})),
}).noUnknown().required() as unknown as ObjectSchema<Variation & object>

/** Reads how a world differs from an arena. */
export function readVariation(value: unknown, arena: Arena): Read<Variation> {
  const read = readDocument<Variation>(variationSchema, value ?? {})
  if (!read.ok) return read
  const problems = Object.keys(read.value.moved).flatMap((name): Problem[] => { const message = unmovable(arena, name); return message === null ? [] : [{ path: `moved.${name}`, value: name, message }] })
  return problems.length === 0 ? read : { ok: false, problems }
}

/** An arena as a variation has it. */
export function variedArena(arena: Arena, { start, grip, light, moved }: Variation): Arena {
  return {
    ...movedArena(arena, moved),
    floor: { ...arena.floor, friction: arena.floor.friction * grip },
    light: { ...arena.light, level: arena.light.level * light, changes: arena.light.changes.map(c => ({ ...c, level: c.level * light })) },
    start: start === undefined ? arena.start : { at: start.at, heading: start.heading },
  }
}

/** A robot as a variation has it made, besides how it is made already: one that was measured stays as it was. */
export const variedRobot = (robot: Robot, { noise, motors, wheels }: Variation): Robot =>
  ({ ...robot, make: { ...robot.make, noise: robot.make.noise * noise, motors: robot.make.motors + motors, wheels: robot.make.wheels + wheels } })

/** Values of dials in SI; problems where the program has no such dial, or it does not take that value. */
export function readDials(given: Readonly<Record<string, string>>, program: ProgramData | null): Read<ReadonlyMap<string, number>> {
  const values = new Map<string, number>()
  const problems: Problem[] = []
  const dials = program?.dials ?? []
  for (const [name, value] of Object.entries(given)) {
    const problem = (message: string): number => problems.push({ path: `dials.${name}`, value, message })
    const dial = dials.find(d => d.name === name)
    if (dial === undefined) { problem(`the program has no dial ${name}; it has ${dials.map(d => d.name).join(', ') || 'none'}`); continue }
    const read = readQuantity(value, dial.kind)
    if (!read.ok) { problem(`${read.reason} (a ${kindName(dial.kind)})`); continue }
    const unit = (dial.unit === null ? undefined : findUnit(dial.unit)) ?? unitsOfKind(dial.kind)[0]
    const show = (x: number): string => unit === undefined ? String(x) : formatQuantity(x, unit)
    if (read.value < dial.from || read.value > dial.to) problem(`allowed is from ${show(dial.from)} to ${show(dial.to)}`)
    else values.set(name, read.value)
  }
  return problems.length > 0 ? { ok: false, problems } : { ok: true, value: values }
}
