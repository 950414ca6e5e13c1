import { functionOf } from '../program'
import { KINDS, PLAIN, overKind, sameKind, timesKind } from '../units'
import { numberOf } from './constants'
import type { Findings } from './diagnostics'
import { expressionsIn } from './nodes'
import type { Call, Expression } from './tree'
import { expectKind, expectOneOf, expectTruth, numeric, quantityType, sameType, typeName, typeOf, UNKNOWN, type Called, type Scope, type Type } from './types'
import { say } from './wording'
import { FUNCTIONS, OVER_TIME, nearestWord } from './words'

/** The longest time over which readings are kept, seconds. */
export const MAX_WINDOW = 30

/** The type of a value in whose brackets others stand: a function, a reading over time, one of a memory's values. */
export function typeOfCall(e: Call, scope: Scope, findings: Findings): Type {
  const { name, given } = e
  if (name.text === 'tag') {
    findings.error(say.tagHere(), name.range)
    return UNKNOWN
  }
  // A memory or function of one's own stands before what the language names: those words can be given.
  const called = scope.called(name.text)
  if (called !== undefined) {
    scope.used('name', name.text, name.range)
    return called.what === 'several' ? typeOfOne(e, called, scope, findings) : typeOfFunction(e, called, scope, findings)
  }
  if (name.text === 'count') return typeOfCount(e, scope, findings)
  const wanted = FUNCTIONS.get(name.text) ?? OVER_TIME.get(name.text)
  if (wanted === undefined) {
    scope.used('name', name.text, name.range)
    if (scope.lookup(name.text) !== undefined) findings.error(say.takesNoValues(name.text), name.range)
    else if (scope.below(name.text) !== null) findings.error(say.letBelow(name.text, scope.below(name.text)!), name.range)
    else {
      const all = [...FUNCTIONS.keys(), ...OVER_TIME.keys(), 'count']
      const near = nearestWord(name.text, all)
      findings.error(say.unknownFunction(name.text, all, near), name.range, near === null ? null : { title: `Use ${near}`, from: name.range.from, to: name.range.to, text: near })
    }
    return UNKNOWN
  }
  if (given.length !== wanted) {
    findings.error(say.readingTakes(name.text, wanted, given.length), name.range)
    return UNKNOWN
  }
  return OVER_TIME.has(name.text) ? overTime(e, scope, findings) : arithmetic(e, scope, findings)
}

function arithmetic({ name, given }: Call, scope: Scope, findings: Findings): Type {
  if (name.text === 'sqrt') {
    // Of an area a length, of a square of any kind that kind.
    const of = numeric(given[0]!, scope, findings)
    if (of.type !== 'quantity') return of
    const { length, angle, time, mass } = of.kind
    if ([length, angle, time, mass].every(power => power % 2 === 0)) return quantityType({ length: length / 2, angle: angle / 2, time: time / 2, mass: mass / 2 })
    findings.error(say.wrongKind('number or a square, such as of two lengths,', typeName(of), 'under sqrt'), given[0]!.range)
    return UNKNOWN
  }
  switch (functionOf(name.text)?.kinds) {
    case 'same': return numericSame(given, name.text, scope, findings)
    case 'number':
      numeric(given[0]!, scope, findings)
      return quantityType(PLAIN)
    case 'angle of same':
      numericSame(given, name.text, scope, findings)
      return quantityType(KINDS.angle)
    case 'number of angle':
      expectKind(given[0]!, KINDS.angle, scope, findings, `in ${name.text}`)
      return quantityType(PLAIN)
    case 'angle of number':
      expectOneOf(given[0]!, [{ kind: PLAIN, share: false }], scope, findings, `in ${name.text}`)
      return quantityType(KINDS.angle)
    // What keeps its kind, and round.
    default: return numeric(given[0]!, scope, findings)
  }
}

function numericSame(given: readonly Expression[], what: string, scope: Scope, findings: Findings): Type {
  const t = sameType(given, `take ${what} of`, scope, findings)
  if (t.type === 'quantity' || t.type === 'unknown') return t
  findings.error(say.wrongKind('number', typeName(t), `in ${what}`), given[0]!.range)
  return UNKNOWN
}

/** What is followed from tick to tick, whoever has control: it can use what is known everywhere only. */
function overTime({ name, given }: Call, scope: Scope, findings: Findings): Type {
  const [of, time] = given as [Expression, Expression | undefined]
  const tick = scope.tick()
  if (name.text === 'since') {
    for (const part of expressionsIn(of)) if (part.tag === 'every') findings.error(say.conditionOnly('every'), part.range)
    expectTruth(of, tick, findings, { condition: true })
    return quantityType(KINDS.time)
  }
  const type = numeric(of, tick, findings)
  if (time !== undefined && windowOf(time, scope) === null) {
    expectKind(time, KINDS.time, scope, findings, `in ${name.text}`)
    findings.error(say.windowFixed(`${MAX_WINDOW} s`), time.range)
  } else if (time !== undefined) expectKind(time, KINDS.time, scope, findings, `in ${name.text}`)
  if (type.type !== 'quantity') return type
  switch (name.text) {
    case 'rate': return quantityType(overKind(type.kind, KINDS.time))
    case 'total': return quantityType(timesKind(type.kind, KINDS.time))
    default: return type
  }
}

/** The longest that a time over which readings are kept can be, seconds; null where that is not fixed, or too long. */
export function windowOf(e: Expression, scope: Pick<Scope, 'dial'>): number | null {
  const dial = e.tag === 'name' ? scope.dial(e.name) : null
  const most = dial === null ? numberOf(e) : dial.to === null ? 2 * (numberOf(dial.value) ?? Number.NaN) : numberOf(dial.to)
  return most !== null && most > 0 && most <= MAX_WINDOW ? most : null
}

/** How many of a memory's values are true. */
function typeOfCount({ given, name }: Call, scope: Scope, findings: Findings): Type {
  const of = given.length === 1 && given[0]!.tag === 'name' ? given[0]! : null
  const entry = of === null ? undefined : scope.lookup(of.name)
  if (of !== null) scope.used('name', of.name, of.range)
  if (entry !== undefined && entry.several !== null && (entry.type.type === 'truth' || entry.type.type === 'unknown')) return quantityType(PLAIN)
  findings.error(say.noSeveral(of?.name ?? null), of?.range ?? name.range)
  return UNKNOWN
}

/** One of the values of a memory. */
function typeOfOne({ name, given }: Call, { several, type }: Extract<Called, { what: 'several' }>, scope: Scope, findings: Findings): Type {
  if (given.length !== 1) {
    findings.error(say.readingTakes(name.text, 1, given.length), name.range)
    return type
  }
  checkPlace(name.text, given[0]!, several, scope, findings)
  return type
}

/** Which of a memory's values is meant: a colour, or a number that can be one of them. */
export function checkPlace(name: string, at: Expression, { per, count }: Extract<Called, { what: 'several' }>['several'], scope: Scope, findings: Findings): void {
  if (per === 'color') {
    const t = typeOf(at, scope, findings, { condition: false })
    if (t.type !== 'color' && t.type !== 'unknown') findings.error(say.wrongKind('colour', typeName(t), `in ${name}`), at.range)
    return
  }
  const t = typeOf(at, scope, findings, { condition: false })
  if (t.type === 'unknown') return
  const number = numberOf(at)
  if (t.type !== 'quantity' || !sameKind(t.kind, PLAIN)) findings.error(say.wrongKind('number', typeName(t), `in ${name}`), at.range)
  else if (number !== null && (Math.round(number) < 1 || Math.round(number) > count)) findings.error(say.placeOutside(name, count, String(number)), at.range)
}

function typeOfFunction(e: Call, { made }: Extract<Called, { what: 'function' }>, scope: Scope, findings: Findings): Type {
  const { name, given } = e
  const { parameters } = made
  if (given.length !== parameters.length) {
    findings.error(say.readingTakes(name.text, parameters.length, given.length), name.range)
    return UNKNOWN
  }
  const types = given.map(g => typeOf(g, scope, findings, { condition: false }))
  const result = made.apply(types, given.map(g => g.range), findings)
  if (types.every(t => t.type !== 'unknown')) given.forEach((g, i) => { if (made.ofTick.has(parameters[i]!)) typeOf(g, scope.tick(), findings, { condition: false }) })
  return result
}
