import { expressionsIn, type Analysis, type Tree } from '../language'
import { namedCells, type ProgramData } from '../program'
import type { Tape } from '../tape'
import { TapeReader } from './reader'

/** Ticks from one up to another (exclusive). */
export interface Stretch { readonly from: number, readonly to: number }

/** How far back conditions are followed, ticks: a quarter of an hour. */
export const FARTHEST = 45_000

/**
 * The latest stretch before a tick in which a rule had control of a lane; null where it never had. Of a rule in control at the
 * tick it is the stretch before that which it is in.
 */
export function hadControl(tape: Tape, lane: number, rule: number, tick: number): Stretch | null {
  const column = tape.layout.lanes + 4 * lane + 2
  const has = (t: number): boolean => tape.value(t, column) === rule
  let t = tick
  while (t >= tape.first && has(t)) t--
  while (t >= tape.first && !has(t)) t--
  if (t < tape.first) return null
  const to = t + 1
  while (t >= tape.first && has(t)) t--
  return { from: t + 1, to }
}

/**
 * The latest stretch before a tick in which a part of a rule's condition was true, found by where the part stands in the text;
 * null where it was not, as far as is looked back. Of a part that is true at the tick it is the stretch before. A part is asked
 * as it would be in the mode that the lane was in then; in ticks of other modes it is not asked.
 */
export function wasTrue(analysis: Analysis, program: ProgramData, tape: Tape, lane: number, rule: number, part: Tree.Range, tick: number): Stretch | null {
  const shape = analysis.lanes[lane]
  const compiled = program.lanes[lane]
  if (shape === undefined || compiled === undefined) return null
  const above = compiled.above.includes(rule)
  const mode = above ? -1 : compiled.modes.findIndex(m => m.rules.includes(rule))
  const nodes = above ? shape.above : shape.modes[mode]?.rules ?? []
  const numbers = above ? compiled.above : compiled.modes[mode]?.rules ?? []
  const node = nodes[numbers.indexOf(rule)]
  const asked = [node?.when, node?.until].flatMap(c => c == null ? [] : [...expressionsIn(c.expression)]).find(e => e.range.from === part.from && e.range.to === part.to)
  if (asked === undefined) return null
  const reader = new TapeReader(analysis, program, tape, lane)
  reader.owner = above ? '' : shape.modes[mode]!.node?.name.text ?? `lane ${compiled.name}`
  const truth = reader.truth(asked, above)
  const least = Math.max(tape.first, tick - FARTHEST)
  const inMode = tape.layout.lanes + 4 * lane + 1
  const holds = (t: number): boolean => {
    const now = tape.value(t, inMode)
    // Conditions are of no meaning before the lane has entered a mode.
    if (above ? now < 0 : now !== mode) return false
    reader.go(t)
    return truth()
  }
  let t = tick
  while (t >= least && holds(t)) t--
  while (t >= least && !holds(t)) t--
  if (t < least) return null
  const to = t + 1
  while (t >= least && holds(t)) t--
  return { from: t + 1, to }
}

/** The latest tick up to this one in which something that the program names took the value that it had then; null where it has had it since the tape begins. */
export function lastChange(tape: Tape, name: number, tick: number): number | null {
  const column = tape.layout.named + name
  const now = tape.value(tick, column)
  let t = tick
  while (t > tape.first && Object.is(tape.value(t - 1, column), now)) t--
  return t > tape.first ? t : null
}

/** The memories whose value at a tick was set since the tape begins, by their names, each with the tick in which it was; the latest first. */
export function memoriesSet(program: ProgramData, tape: Tape, tick: number): readonly { readonly name: string, readonly at: number }[] {
  return namedCells(program).flatMap(({ name, what }, i) => {
    const at = what === 'memory' ? lastChange(tape, i, tick) : null
    return at === null ? [] : [{ name, at }]
  }).sort((a, b) => b.at - a.at)
}
