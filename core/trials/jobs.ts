import { layOut, type Arena, type Layout } from '../arena'
import type { RunRealism } from '../devices'
import type { ProgramData } from '../program'
import { RandomStream } from '../random'
import { movedDocument, readDials, type Shift } from '../simulation'
import { findUnit, unitsOfKind } from '../units'
import type { Read } from '../document'
import { settingsOf, type TrialPlan } from './plan'
import { variationOf, type Drawn } from './varied'

/** One run of a plan. Its number says all that it is made of, wherever it is done. */
export interface Job {
  readonly number: number
  /** Place of its program among those of the plan. */
  readonly program: number
  readonly realism: RunRealism
  readonly seed: number
  /** Place of its world among the plan's cases; null where its seed draws it. */
  readonly known: number | null
  /** Place of its dials' values among all that the plan tries. */
  readonly setting: number
}

/** The job of a number: the cases first, then the seeds; the programs, dials and realisms of a seed come before the next seed, so that all of them are known alike at any time. */
export function jobOf(plan: TrialPlan, programs: number, number: number): Job {
  const settings = settingsOf(plan)
  const setting = number % settings
  const program = Math.floor(number / settings) % programs
  const realism = Math.floor(number / settings / programs) % plan.realisms.length
  const place = Math.floor(number / settings / programs / plan.realisms.length)
  const known = plan.cases[place]
  return { number, program, realism: plan.realisms[realism]!, setting, ...known === undefined ? { seed: plan.seeds[0] + place - plan.cases.length, known: null } : { seed: known.seed, known: place } }
}

/** A value of a dial that a plan tries: in SI, and as a program writes it. */
export interface DialValue { readonly name: string, readonly value: number, readonly text: string }

/** The values of every dial of a plan for a program; problems where it has no such dial, or it does not take them. */
export function dialValues({ dials }: TrialPlan, program: ProgramData | null): Read<readonly (readonly DialValue[])[]> {
  const ends = dials.map(({ name, from, to }) => ({ from: readDials({ [name]: from }, program), to: readDials({ [name]: to }, program) }))
  const problems = ends.flatMap(({ from, to }) => [...from.ok ? [] : from.problems, ...to.ok ? [] : to.problems])
  if (problems.length > 0) return { ok: false, problems }
  return {
    ok: true,
    value: dials.map(({ name, count }, i) => {
      const { from, to } = ends[i]!
      if (!from.ok || !to.ok) throw new Error('a dial that cannot be read')
      const [low, high] = [from.value.get(name)!, to.value.get(name)!]
      const dial = program!.dials.find(d => d.name === name)!
      const unit = (dial.unit === null ? undefined : findUnit(dial.unit)) ?? unitsOfKind(dial.kind)[0]
      return Array.from({ length: count }, (_, k): DialValue => {
        // In the dial's own unit, to six figures: what is written is what is run.
        const value = count === 1 ? low : low + (high - low) * k / (count - 1)
        const figure = Number((value / (unit?.scale ?? 1)).toPrecision(6))
        return { name, value: figure * (unit?.scale ?? 1), text: unit === undefined ? String(figure) : `${figure} ${unit.name}` }
      })
    }),
  }
}

/** The values of a setting: the last dial changes fastest. */
export function settingAt(values: readonly (readonly DialValue[])[], setting: number): readonly DialValue[] {
  let left = setting
  const chosen: DialValue[] = []
  for (const of of values.toReversed()) {
    chosen.unshift(of[left % of.length]!)
    left = Math.floor(left / of.length)
  }
  return chosen
}

/** What is drawn for a seed of each variation that the plan has. */
export const drawnOf = ({ world }: TrialPlan, seed: number): Drawn =>
  Object.fromEntries(Object.entries(world).map(([name, [low, high]]) => [name, RandomStream.named(seed, `trials/${name}`).between(low, high)]))

/** How the world of a seed differs from its arena, as a run's `world` is written; the same for every program. */
export const worldOf = (plan: TrialPlan, arena: Arena, seed: number): object => worldFrom(drawnOf(plan, seed), arena, seed)

/** A world that differs by so much from the arena as that is laid out for a seed, as a run's `world` is written. */
export function worldFrom(drawn: Drawn, arena: Arena, seed: number): object {
  const { east, north, turn, ...rest } = drawn
  const alone = Object.entries(rest).filter(([name]) => variationOf(name)?.thing === null)
  const moved = Object.entries(movedBy(drawn)).map(([thing, { east, north, turn }]) => [thing, { east: `${east} m`, north: `${north} m`, turn: `${turn * 180 / Math.PI} deg` }])
  return {
    ...Object.fromEntries(alone),
    ...east !== undefined || north !== undefined || turn !== undefined ? { start: movedStart(layOut(arena, seed).start, { east, north, turn }) } : {},
    ...moved.length > 0 ? { moved: Object.fromEntries(moved) } : {},
  }
}

/** What stands elsewhere, by name. */
function movedBy(drawn: Drawn): Readonly<Record<string, Shift>> {
  const moved: Record<string, Shift> = {}
  for (const [name, value] of Object.entries(drawn)) {
    const of = variationOf(name)
    if (of?.thing != null) moved[of.thing] = { ...moved[of.thing] ?? { east: 0, north: 0, turn: 0 }, [of.what]: value }
  }
  return moved
}

/** A start moved and turned, as documents write it. */
function movedStart({ x, y, heading }: Layout['start'], { east = 0, north = 0, turn = 0 }: { readonly east: number | undefined, readonly north: number | undefined, readonly turn: number | undefined }): object {
  return { at: [`${x + east} m`, `${y + north} m`], heading: `${(heading + turn) * 180 / Math.PI} deg` }
}

/** Of what differs, how the robot is made: no arena's document can say that. */
export const ofTheRobot = (drawn: Drawn): Drawn => Object.fromEntries(Object.entries(drawn).filter(([name]) => variationOf(name)?.robot === true))

/** An arena's document with a world's changes in it: the arena in which a program failed, to be kept. How the robot is made it cannot say. */
export function arenaWith(document: unknown, arena: Arena, drawn: Drawn, seed: number): object {
  const { grip = 1, light = 1 } = drawn
  const { start } = worldFrom(drawn, arena, seed) as { readonly start?: object }
  const of = document as Readonly<Record<string, unknown>> & { readonly name?: string, readonly floor?: object, readonly light?: object }
  return {
    ...of, name: `${(of.name ?? 'arena').slice(0, 26)}_fails`,
    ...movedDocument(of, arena, movedBy(drawn)),
    ...start === undefined ? {} : { start },
    ...grip === 1 ? {} : { floor: { ...of.floor, friction: arena.floor.friction * grip } },
    ...light === 1 ? {} : { light: { ...of.light, level: `${100 * arena.light.level * light} %`, changes: arena.light.changes.map(c => ({ at: `${c.at} s`, level: `${100 * c.level * light} %` })) } },
  }
}
