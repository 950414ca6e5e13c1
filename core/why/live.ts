import { bodiesOf, conditionsIn, expressionsIn, type Analysis, type Tree } from '../language'
import type { ProgramData } from '../program'
import { TapeReader, type WhyTape } from './reader'

/** A part of a condition at an instant: whether it is true, and what its left side is worth. */
export interface LivePart {
  /** Where the part begins in the text. */
  readonly from: number
  readonly truth: boolean
  /** '' where the truth says it all. */
  readonly value: string
}

interface Watched { readonly from: number, readonly truth: () => boolean, readonly value: (() => string) | null }

/**
 * What every part of every condition of a program is worth, at any tick of a tape: of rules, `if`, `repeat` and
 * `wait until`. Parts of routines are left out, as their parameters differ from one `do` to the next.
 */
export class LiveConditions {
  private readonly lanes: { readonly reader: TapeReader, readonly watched: Map<number, readonly Watched[]> }[] = []

  constructor(analysis: Analysis, program: ProgramData, tape: WhyTape) {
    const scope = analysis.scope(new Map())
    analysis.lanes.forEach((lane, i) => {
      const reader = new TapeReader(analysis, program, tape, i)
      const watched = new Map<number, readonly Watched[]>()
      // What a block names is known in it only: the tape does not have it.
      const known = (e: Tree.Expression): boolean => [...expressionsIn(e)].every(p => p.tag !== 'name' || scope.lookup(p.name) !== undefined || analysis.facts.colors.includes(p.name))
      const watch = (e: Tree.Expression | null, above = false): void => { if (e !== null && known(e)) watched.set(e.range.from, partsIn(e).map(part => watchedPart(reader, part, above))) }
      const block = (body: Tree.Block | undefined): void => {
        for (const step of body?.steps ?? []) {
          for (const e of conditionsIn(step)) watch(e)
          if (step.tag !== 'unread') for (const inner of bodiesOf(step)) block(inner.body)
        }
      }
      const rule = (r: Tree.Rule, above: boolean): void => { watch(r.when?.expression ?? null, above); watch(r.until?.expression ?? null, above); block(r.body) }
      block(lane.start?.body)
      lane.above.forEach(r => rule(r, true))
      for (const mode of lane.modes) {
        reader.owner = mode.node === null ? `lane ${lane.name}` : mode.name
        block(mode.start?.body)
        mode.rules.forEach(r => rule(r, false))
      }
      this.lanes.push({ reader, watched })
    })
  }

  /** Every condition's parts at a tick, by where the condition begins. The tape must have that tick. */
  at(tick: number): ReadonlyMap<number, readonly LivePart[]> {
    const found = new Map<number, readonly LivePart[]>()
    for (const { reader, watched } of this.lanes) {
      reader.go(tick)
      for (const [from, parts] of watched) found.set(from, parts.map(p => ({ from: p.from, truth: p.truth(), value: p.value?.() ?? '' })))
    }
    return found
  }
}

/** The comparisons and truths that a condition is made of, with their `not`. */
function partsIn(e: Tree.Expression): readonly Tree.Expression[] {
  switch (e.tag) {
    case 'logic': return e.operands.flatMap(partsIn)
    case 'bracket': return partsIn(e.inner)
    case 'not': return partsIn(e.of).length > 1 ? partsIn(e.of) : [e]
    default: return [e]
  }
}

function watchedPart(reader: TapeReader, e: Tree.Expression, above: boolean): Watched {
  let of = e
  while (of.tag === 'not' || of.tag === 'bracket') of = of.tag === 'not' ? of.of : of.inner
  const left = of.tag === 'compare' ? of.left : of.tag === 'between' || of.tag === 'is' ? of.value : null
  return { from: e.range.from, truth: reader.truth(e, above), value: left === null ? null : reader.valueOf(left) }
}
