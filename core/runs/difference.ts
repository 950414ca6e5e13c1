import type { ProgramMap } from '../language'
import type { RobotFacts } from '../robot'
import type { Tape } from '../tape'
import { columnText, columnValue, columnsOf, placeColumns, type Column } from './columns'

/** A run as it is compared: its tape, and what the numbers on it mean. */
export interface Compared { readonly tape: Tape, readonly facts: RobotFacts, readonly program: ProgramMap | null }

/** Something that was one thing in one run and another in the other, in the same tick. */
export interface Differing {
  /** What differs: `control` is the rule in control of a lane. */
  readonly what: Column['group'] | 'control'
  readonly title: string
  /** What it was worth in each, SI; of `control` the rule's number, -1 for none. */
  readonly a: number
  readonly b: number
  /** Of `control`: the rules as people say them; '' for all else. */
  readonly saidA: string
  readonly saidB: string
  /** null for `control`. */
  readonly column: Column | null
}

/** The first instant at which two runs differ, and in what, causes before effects: what was sensed, what that made true, which rule took over, what motors were told, where the robot was. */
export interface FirstDifference { readonly tick: number, readonly time: number, readonly what: readonly Differing[] }

export type Comparison = Outcome & {
  /** Dials that stood otherwise in the first tick that both have: no difference of what happened, but perhaps its reason. */
  readonly dials: readonly Differing[]
}
type Outcome =
  | { readonly found: 'none' }
  /** They are the same as long as both go on; one of them ended in this tick. */
  | { readonly found: 'length', readonly tick: number, readonly time: number }
  | ({ readonly found: 'difference' } & FirstDifference)
  /** Nothing can be said: their ticks are of different length, or they have no tick in common. */
  | { readonly found: 'nothing in common', readonly why: string }

const ORDER: readonly Differing['what'][] = ['senses', 'names', 'rules', 'control', 'told', 'place']

/** Finds the first instant at which two runs differ in what both have, aligned by their beginning. What only one has is left out; dials are told apart. */
export function firstDifference(a: Compared, b: Compared): Comparison {
  const [one, two] = [a.tape, b.tape]
  if (one.layout.dt !== two.layout.dt) return { found: 'nothing in common', dials: [], why: `a tick is ${one.layout.dt * 1000} ms in one and ${two.layout.dt * 1000} ms in the other` }
  const from = Math.max(one.first, two.first)
  const to = Math.min(one.rows, two.rows)
  if (from >= to) return { found: 'nothing in common', dials: [], why: 'one of them begins after the other ended' }
  const { dt } = one.layout
  const same = sameRules(a.program, b.program)
  const all = common(a, b, same)
  const pairs = all.filter(([x]) => x.named?.what !== 'dial')
  const between = (pairs: readonly (readonly [Column, Column])[], tick: number): Differing[] => {
    const [rowA, rowB] = [one.at(tick), two.at(tick)]
    return pairs.flatMap(([x, y]): Differing[] => {
      const [held, other] = [rowA[x.column]!, rowB[y.column]!]
      if (held === other || Number.isNaN(held) && Number.isNaN(other)) return []
      return [{ what: x.group, title: x.title, a: columnValue(x, held, tick, dt), b: columnValue(y, other, tick, dt), saidA: '', saidB: '', column: x }]
    })
  }
  const dials = between(all.filter(([x]) => x.named?.what === 'dial'), from)
  const lanes = commonLanes(a, b)
  for (let tick = from; tick < to; tick++) {
    const rowA = one.at(tick)
    const rowB = two.at(tick)
    const what = between(pairs, tick)
    for (const { lane, columnA, columnB } of lanes) {
      const [ruleA, ruleB] = [rowA[columnA]!, rowB[columnB]!]
      if (ruleA < 0 ? ruleB >= 0 : same.get(ruleA) !== ruleB) what.push({ what: 'control', title: lane, a: ruleA, b: ruleB, saidA: ruleSaid(a.program, ruleA), saidB: ruleSaid(b.program, ruleB), column: null })
    }
    if (what.length > 0) return { found: 'difference', dials, tick, time: tick * dt, what: what.sort((x, y) => ORDER.indexOf(x.what) - ORDER.indexOf(y.what)) }
  }
  return one.rows === two.rows ? { found: 'none', dials } : { found: 'length', dials, tick: to, time: to * dt }
}

/** The columns that stand for the same in both. */
function common(a: Compared, b: Compared, same: ReadonlyMap<number, number>): readonly (readonly [Column, Column])[] {
  const all = ({ tape: { layout }, facts, program }: Compared): readonly Column[] => [...columnsOf({ facts, layout, program }), ...placeColumns(layout)]
  const columns = all(b)
  const others = new Map(columns.map(c => [c.id, c]))
  return all(a).flatMap((c) => {
    const number = same.get(c.column - a.tape.layout.wants) ?? -1
    const other = c.group === 'rules' ? columns.find(o => o.group === 'rules' && o.column === b.tape.layout.wants + number) : others.get(c.id)
    return other === undefined ? [] : [[c, other] as const]
  })
}

function commonLanes(a: Compared, b: Compared): readonly { readonly lane: string, readonly columnA: number, readonly columnB: number }[] {
  const at = ({ tape: { layout } }: Compared, lane: string): number => layout.lanes + 4 * layout.laneNames.indexOf(lane) + 2
  return a.tape.layout.laneNames.filter(lane => b.tape.layout.laneNames.includes(lane)).map(lane => ({ lane, columnA: at(a, lane), columnB: at(b, lane) }))
}

/**
 * Which rule of one program is which of another, by their numbers: in a lane and mode of the same name first those that begin
 * with the same line, then of what is left those whose lines share the most words. A rule that the other has not is left out.
 */
export function sameRules(a: ProgramMap | null, b: ProgramMap | null): ReadonlyMap<number, number> {
  const found = new Map<number, number>()
  if (a === null || b === null) return found
  const placed = (of: ProgramMap) => of.rules.map((r, number) => ({ number, place: `${of.lanes[r.lane]!.name}/${r.mode}`, heading: of.text.split('\n')[r.line - 1]!.trim() }))
  const [all, others] = [placed(a), placed(b)]
  const left = new Set(others)
  type Placed = typeof all[number]
  const take = (rule: Placed, other: Placed | undefined): void => {
    if (other === undefined) return
    found.set(rule.number, other.number)
    left.delete(other)
  }
  for (const rule of all) take(rule, [...left].find(o => o.place === rule.place && o.heading === rule.heading))
  for (const rule of all) {
    if (found.has(rule.number)) continue
    const words = new Set(rule.heading.split(' '))
    const shared = (other: Placed): number => other.heading.split(' ').filter(word => words.has(word)).length
    // Of those that share as much, the first: the sort keeps their order.
    take(rule, [...left].filter(o => o.place === rule.place).sort((x, y) => shared(y) - shared(x))[0])
  }
  return found
}

/** What it was in one of the two runs, for people. */
export function differingSaid({ column, a, b, saidA, saidB }: Differing, side: 'a' | 'b', colors: readonly string[]): string {
  if (column === null) return side === 'a' ? saidA : saidB
  return columnText(column, side === 'a' ? a : b, colors)
}

/** A rule as it is called beside its program: `roam: rule 2, line 7: when sonar.distance < near`; "none" for none. */
export function ruleSaid(program: ProgramMap | null, number: number): string {
  const rule = program?.rules[number]
  if (program === null || rule === undefined) return 'none'
  return `${rule.mode === '' ? '' : `${rule.mode}: `}rule ${rule.urgency}, ${program.text.split('\n')[rule.line - 1]!.trim().replace(/\s*->.*$/, '')}`
}
