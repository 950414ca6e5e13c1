import type { RobotFacts, DeviceFacts } from '../robot'
import type { ReadingSpec } from '../devices'
import { KINDS, PLAIN, findUnit, kindName, kindOf, overKind, sameKind, timesKind, unitsOfKind, type Kind } from '../units'
import type { Findings } from './diagnostics'
import { typeOfCall } from './calls'
import type { LetFunction } from './declared'
import type { Dial, Expression, Inset, Range, Reading } from './tree'
import { say } from './wording'
import { nearestWord } from './words'

/** What an expression is worth. `unknown` after a mistake that was told already. */
export type Type =
  | { readonly type: 'quantity', readonly kind: Kind, readonly share: boolean }
  | { readonly type: 'truth' }
  | { readonly type: 'color' }
  | { readonly type: 'text' }
  | { readonly type: 'unknown' }

export const UNKNOWN: Type = { type: 'unknown' }
export const TRUTH: Type = { type: 'truth' }
export const quantityType = (kind: Kind, share = false): Type => ({ type: 'quantity', kind, share })

/** A memory of several values: for each colour or number. `first`: the number of the first of them. */
export interface Several { readonly per: 'color' | 'number', readonly count: number, readonly first: number }

/** What a name stands for. */
export interface Entry {
  readonly type: Type
  /** null for one value. */
  readonly several: Several | null
  /** A memory: `set` gives it another value. */
  readonly settable: boolean
}

/** A name for a value that nothing sets. */
export const fixed = (type: Type): Entry => ({ type, several: null, settable: false })

/** What takes values in brackets, beside the functions that the language has. */
export type Called =
  | { readonly what: 'several', readonly several: Several, readonly type: Type }
  | { readonly what: 'function', readonly made: LetFunction }

/** What names mean where an expression stands. */
export interface Scope {
  readonly facts: RobotFacts
  /** Dials, memories, named values, parameters, and what the block names. */
  lookup(name: string): Entry | undefined
  called(name: string): Called | undefined
  readonly names: readonly string[]
  /** Whether a name is known in this block only. */
  local(name: string): boolean
  /** The line of a named value that stands further down; null where there is none. */
  below(name: string): number | null
  /** A dial by its name; null where there is none. */
  dial(name: string): Dial | null
  /** Called for each name and reading that is used. */
  used(kind: 'name' | 'reading' | 'heard', name: string, range: Range): void
  /** The same with one name more. */
  with(name: string, entry: Entry): Scope
  /** What names mean where the same is worked out on every tick. */
  tick(): Scope
  readonly onEveryTick: boolean
}

/** Where an expression stands: conditions allow `heard`, `every`. */
export interface Place { readonly condition: boolean }

export function typeName(t: Type): string {
  switch (t.type) {
    case 'quantity': return t.share ? 'share (%)' : kindName(t.kind)
    case 'truth': return 'truth'
    case 'color': return 'colour'
    case 'text': return 'text'
    case 'unknown': return 'mistake'
  }
}

/** A number written without a unit, as in `20` or `-20`: it takes part in arithmetic, but is no measure. */
export function bareFigure(e: Expression): string | null {
  if (e.tag === 'number') return e.unit === null ? e.figure : null
  if (e.tag === 'minus' || e.tag === 'bracket') {
    const inner = bareFigure(e.tag === 'minus' ? e.of : e.inner)
    return inner === null ? null : e.tag === 'minus' ? `-${inner}` : inner
  }
  return null
}

/** A value in a text, and whether it can be written as asked. */
function checkInset({ of, unit, step }: Inset, scope: Scope, findings: Findings): void {
  const type = typeOf(of, scope, findings, { condition: false })
  if (type.type === 'unknown') return
  const asked = unit?.range ?? step?.range
  if (asked === undefined) return
  if (type.type !== 'quantity') { findings.error(say.textOfNoQuantity(typeName(type)), asked); return }
  if (unit !== null) {
    const found = findUnit(unit.text)
    if (found === undefined || !sameKind(found.kind, type.kind)) findings.error(say.textUnit(unit.text, type.kind), unit.range)
  } else if (step !== null) {
    const stepType = typeOf(step, scope, findings, { condition: false })
    if (stepType.type === 'unknown') return
    if (step.tag !== 'number' || !(step.value > 0) || stepType.type !== 'quantity' || stepType.share !== type.share || !sameKind(stepType.kind, type.kind)) findings.error(say.textStep(type.kind, type.share), step.range)
  }
}

/** The type of an expression; says what is wrong with it. */
export function typeOf(e: Expression, scope: Scope, findings: Findings, place: Place): Type {
  switch (e.tag) {
    case 'number': {
      if (e.unit === null) return quantityType(PLAIN)
      const unit = findUnit(e.unit)
      return unit === undefined ? UNKNOWN : quantityType(unit.kind, e.unit === '%')
    }
    case 'text':
      for (const part of e.parts) if (typeof part !== 'string') checkInset(part, scope, findings)
      return { type: 'text' }
    case 'truth': return TRUTH
    case 'name': return typeOfName(e.name, e.range, scope, findings)
    case 'reading': return typeOfReading(e, scope, findings)
    case 'call': return typeOfCall(e, scope, findings)
    case 'bracket': return typeOf(e.inner, scope, findings, place)
    case 'minus': return numeric(e.of, scope, findings)
    case 'arithmetic': return typeOfArithmetic(e, scope, findings)
    case 'random':
      return sameType([e.low, e.high], 'draw between', scope, findings)
    case 'compare': {
      const t = sameType([e.left, e.right], 'compare', scope, findings)
      if (t.type !== 'quantity' && t.type !== 'unknown') findings.error(say.notOrdered(typeName(t)), e.range)
      return TRUTH
    }
    case 'between': {
      const t = sameType([e.value, e.low, e.high], 'compare', scope, findings)
      if (t.type !== 'quantity' && t.type !== 'unknown') findings.error(say.notOrdered(typeName(t)), e.range)
      return TRUTH
    }
    case 'is':
      sameType([e.value, ...e.options], 'compare', scope, findings)
      return TRUTH
    case 'logic':
      for (const operand of e.operands) expectTruth(operand, scope, findings, place)
      return TRUTH
    case 'not':
      expectTruth(e.of, scope, findings, place)
      return TRUTH
    case 'heard':
      if (!place.condition) findings.error(say.conditionOnly('heard'), e.range)
      scope.used('heard', e.signal.text, e.signal.range)
      return TRUTH
    case 'every':
      if (!place.condition) findings.error(say.conditionOnly('every'), e.range)
      expectKind(e.time, KINDS.time, scope, findings, 'after every')
      return TRUTH
    case 'missing': return UNKNOWN
  }
}

export function expectTruth(e: Expression, scope: Scope, findings: Findings, place: Place): void {
  const t = typeOf(e, scope, findings, place)
  if (t.type !== 'truth' && t.type !== 'unknown') findings.error(say.notTruth(typeName(t)), e.range)
}

/** Expects a quantity of one kind; a bare number gets the likely fix. */
export function expectKind(e: Expression, kind: Kind, scope: Scope, findings: Findings, where: string): void {
  expectOneOf(e, [{ kind, share: false }], scope, findings, where)
}

/** Expects one of some kinds; returns the type found. */
export function expectOneOf(e: Expression, wanted: readonly { kind: Kind, share: boolean }[], scope: Scope, findings: Findings, where: string): Type {
  const t = typeOf(e, scope, findings, { condition: false })
  if (t.type === 'unknown') return t
  const figure = e.tag === 'random' ? bareFigure(e.high) ?? bareFigure(e.low) : bareFigure(e)
  const first = wanted[0]!
  if (figure !== null && t.type === 'quantity') {
    if (Number(figure) === 0 && !first.share) return quantityType(first.kind)
    if (wanted.some(w => !w.share && sameKind(w.kind, PLAIN))) return t
    const place = e.tag === 'random' ? e.high.range : e.range
    const unit = first.share ? '%' : unitsOfKind(first.kind)[0]?.name ?? ''
    findings.error(first.share ? say.percentMissing(figure) : say.whatUnit(figure, first.kind), place, { title: `Add ${unit}`, from: place.to, to: place.to, text: ` ${unit}` })
    return UNKNOWN
  }
  if (t.type === 'quantity') {
    if (wanted.some(w => sameKind(w.kind, t.kind))) return t
  }
  const names = wanted.map(w => w.share ? 'share (%)' : kindName(w.kind))
  findings.error(say.wrongKind(names.join(' or '), typeName(t), where), e.range)
  return UNKNOWN
}

export function numeric(e: Expression, scope: Scope, findings: Findings): Type {
  const t = typeOf(e, scope, findings, { condition: false })
  if (t.type === 'quantity' || t.type === 'unknown') return t
  findings.error(say.wrongKind('number', typeName(t), 'in arithmetic'), e.range)
  return UNKNOWN
}

function typeOfName(name: string, range: Range, scope: Scope, findings: Findings): Type {
  scope.used('name', name, range)
  const found = scope.lookup(name)
  if (found !== undefined) {
    if (found.several === null) return found.type
    findings.error(say.takesValue(name, found.several.per), range)
    return UNKNOWN
  }
  const called = scope.called(name)
  if (called?.what === 'function') {
    findings.error(say.takesValues(name, called.made.parameters), range)
    return UNKNOWN
  }
  if (scope.local(name)) {
    findings.error(say.notOnEveryTick(name), range)
    return UNKNOWN
  }
  const below = scope.below(name)
  if (below !== null) {
    findings.error(say.letBelow(name, below), range)
    return UNKNOWN
  }
  if (scope.facts.colors.includes(name)) return { type: 'color' }
  const device = scope.facts.devices.find(d => d.name === name)
  if (device !== undefined) {
    const reading = device.readings.find(r => !r.hidden)
    if (reading !== undefined) {
      findings.error(say.unknownName(name, `${name}.${reading.name}`), range, { title: `Use ${name}.${reading.name}`, from: range.to, to: range.to, text: `.${reading.name}` })
      return UNKNOWN
    }
  }
  const near = nearestWord(name, [...scope.names, ...scope.facts.colors])
  findings.error(say.unknownName(name, near), range, near === null ? null : replaceBy(near, range))
  return UNKNOWN
}

const replaceBy = (text: string, range: Range) => ({ title: `Use ${text}`, from: range.from, to: range.to, text })

/** Readings that belong to the clock and the robot as a whole, not to a device. */
export const OWN_READINGS: Readonly<Record<string, Readonly<Record<string, Type>>>> = {
  mode: { time: quantityType(KINDS.time) },
  run: { time: quantityType(KINDS.time) },
  robot: { still: TRUTH },
}

/** What a reading of one of many is of: `orange`, `tag 3`. null where that cannot be read from the text. */
export function targetOf(e: Expression): string | null {
  if (e.tag === 'name') return e.name
  if (e.tag === 'call' && e.name.text === 'tag' && e.given.length === 1) {
    const number = bareFigure(e.given[0]!)
    return number === null ? null : `tag ${number}`
  }
  return null
}

/** The name by which a reading is known: `sonar.distance`, `cam.sees(orange)`. */
export function readingName(e: Reading): string {
  const target = e.given?.length === 1 ? targetOf(e.given[0]!) : null
  return `${e.device.text}.${e.reading.text}${target === null ? '' : `(${target.replace(/^tag (.*)$/, 'tag($1)')})`}`
}

/** Place of the reading among the device's; -1 when it has none like it. */
export function placeOfReading(e: Reading, device: DeviceFacts): number {
  const target = e.given?.length === 1 ? targetOf(e.given[0]!) : null
  return device.readings.findIndex(r => !r.hidden && r.name === e.reading.text && (r.of === null || r.of === target))
}

/** A reading of something that the program names only while it runs: of a colour that a memory holds, of a tag by its number. */
export interface Asked {
  readonly device: DeviceFacts
  /** One of them: all are of one kind. */
  readonly reading: ReadingSpec
  readonly of: Expression
  readonly byTag: boolean
  /** What there is to ask for: a colour's or tag's number, and the reading's name. */
  readonly among: readonly { readonly value: number, readonly name: string }[]
}

/** What such a reading is asked of; null for any other, one of a colour or tag that is written out among them. */
export function askedOf(e: Reading, scope: Scope): Asked | null {
  const target = e.given?.length === 1 ? e.given[0]! : null
  if (target === null) return null
  const number = target.tag === 'call' && target.name.text === 'tag' && target.given.length === 1 ? target.given[0]! : null
  const named = target.tag === 'name' ? scope.lookup(target.name) !== undefined : target.tag === 'reading' || (target.tag === 'call' && scope.called(target.name.text) !== undefined)
  if (number === null ? !named : bareFigure(number) !== null) return null
  const device = scope.facts.devices.find(d => d.name === e.device.text)
  const readings = device?.readings.filter(r => !r.hidden && r.name === e.reading.text && r.of !== null && r.of.startsWith('tag ') === (number !== null)) ?? []
  if (device === undefined || readings[0] === undefined) return null
  const among = readings.map(r => ({ value: number === null ? scope.facts.colors.indexOf(r.of!) : Number(r.of!.slice('tag '.length)), name: `${device.name}.${r.name}(${r.of!.replace(/^tag (.*)$/, 'tag($1)')})` }))
  return { device, reading: readings[0], of: number ?? target, byTag: number !== null, among }
}

/** The device and reading that an expression names; null, and told, when there is none. */
export function resolveReading(e: Reading, facts: RobotFacts, findings: Findings): { device: DeviceFacts, reading: ReadingSpec } | null {
  const device = facts.devices.find(d => d.name === e.device.text)
  if (device === undefined) {
    const all = facts.devices.map(d => d.name)
    const near = nearestWord(e.device.text, [...all, ...Object.keys(OWN_READINGS)])
    const able = near === null ? facts.devices.find(d => d.readings.some(r => !r.hidden && r.name === e.reading.text)) ?? null : null
    findings.error(say.unknownDevice(e.device.text, facts.robot, all, near, able === null ? null : `${able.name}.${e.reading.text}`), e.device.range,
      near !== null ? replaceBy(near, e.device.range) : able !== null ? replaceBy(able.name, e.device.range) : null)
    return null
  }
  const open = device.readings.filter(r => !r.hidden)
  const named = open.filter(r => r.name === e.reading.text)
  if (named.length === 0) {
    const all = [...new Set(open.map(r => r.name))]
    const near = nearestWord(e.reading.text, all)
    findings.error(say.unknownReading(device.name, device.title, e.reading.text, all, near), e.reading.range, near === null ? null : replaceBy(near, e.reading.range))
    return null
  }
  const at = placeOfReading(e, device)
  if (at === -1) {
    const targets = named.map(r => r.of!.replace(/^tag (.*)$/, 'tag($1)'))
    const first = e.given?.[0]
    const found = first === undefined ? null : targetOf(first)
    const range = first?.range ?? e.reading.range
    const near = found === null ? null : nearestWord(found, targets)
    findings.error(say.unknownTarget(`${device.name}.${e.reading.text}`, found, targets), range, near === null ? null : replaceBy(near, range))
    return null
  }
  return { device, reading: device.readings[at]! }
}

function typeOfReading(e: Reading, scope: Scope, findings: Findings): Type {
  const own = Object.hasOwn(OWN_READINGS, e.device.text) ? OWN_READINGS[e.device.text] : undefined
  if (own !== undefined) {
    const t = Object.hasOwn(own, e.reading.text) ? own[e.reading.text] : undefined
    if (t !== undefined) {
      // The time of a mode is one thing in one lane and another in the next.
      if (e.device.text !== 'mode' || !scope.onEveryTick) return t
      findings.error(say.notOnEveryTick('mode.time'), e.range)
      return UNKNOWN
    }
    findings.error(say.unknownReading(e.device.text, 'clock of its own', e.reading.text, Object.keys(own), null), e.reading.range)
    return UNKNOWN
  }
  const asked = askedOf(e, scope)
  if (asked !== null) {
    scope.used('reading', readingName(e), e.range)
    if (asked.byTag) expectOneOf(asked.of, [{ kind: PLAIN, share: false }], scope, findings, 'in tag(…)')
    else {
      const t = typeOf(asked.of, scope, findings, { condition: false })
      if (t.type !== 'color' && t.type !== 'unknown') findings.error(say.wrongKind('colour', typeName(t), `in ${asked.reading.name}`), asked.of.range)
    }
    return asked.reading.type
  }
  const found = resolveReading(e, scope.facts, findings)
  if (found === null) return UNKNOWN
  scope.used('reading', readingName(e), e.range)
  const { reading } = found
  const given = e.given ?? []
  const wanted = reading.of === null ? reading.takes.length : 1
  if (given.length !== wanted || (wanted === 0 && e.given !== null)) {
    findings.error(say.readingTakes(`${e.device.text}.${e.reading.text}`, wanted, given.length), e.range)
    return UNKNOWN
  }
  reading.takes.forEach((kind, i) => expectKind(given[i]!, kindOf(kind), scope, findings, `in ${e.reading.text}`))
  return reading.type
}

/** Expects all of one type; bare numbers beside a measure get their likely unit. */
export function sameType(list: readonly Expression[], verb: string, scope: Scope, findings: Findings): Type {
  const types = list.map(e => typeOf(e, scope, findings, { condition: false }))
  if (types.some(t => t.type === 'unknown')) return UNKNOWN
  const bare = list.map(bareFigure)
  const lead = types.find((t, i) => bare[i] === null && t.type !== 'unknown') ?? types[0]!
  for (let i = 0; i < list.length; i++) {
    const t = types[i]!
    const e = list[i]!
    const figure = bare[i] ?? null
    if (lead.type === 'quantity' && t.type === 'quantity' && figure !== null && Number(figure) !== 0) {
      if (lead.share) {
        findings.error(say.percentMissing(figure), e.range, { title: 'Add %', from: e.range.to, to: e.range.to, text: ' %' })
        return UNKNOWN
      }
      if (!sameKind(lead.kind, PLAIN)) {
        const unit = unitsOfKind(lead.kind)[0]?.name
        findings.error(say.whatUnit(figure, lead.kind), e.range, unit === undefined ? null : { title: `Add ${unit}`, from: e.range.to, to: e.range.to, text: ` ${unit}` })
        return UNKNOWN
      }
      continue
    }
    if (figure !== null && Number(figure) === 0 && lead.type === 'quantity') continue
    if (t.type !== lead.type || (t.type === 'quantity' && lead.type === 'quantity' && !sameKind(t.kind, lead.kind))) {
      findings.error(say.kinds(verb, typeName(lead), typeName(t)), e.range)
      return UNKNOWN
    }
  }
  return lead
}

function typeOfArithmetic(e: Extract<Expression, { tag: 'arithmetic' }>, scope: Scope, findings: Findings): Type {
  if (e.operator === '+' || e.operator === '-') {
    const t = sameType([e.left, e.right], e.operator === '+' ? 'add' : 'subtract', scope, findings)
    if (t.type === 'quantity' || t.type === 'unknown') return t
    findings.error(say.wrongKind('number', typeName(t), 'in arithmetic'), e.range)
    return UNKNOWN
  }
  const left = numeric(e.left, scope, findings)
  const right = numeric(e.right, scope, findings)
  if (left.type !== 'quantity' || right.type !== 'quantity') return UNKNOWN
  const kind = e.operator === '*' ? timesKind(left.kind, right.kind) : overKind(left.kind, right.kind)
  // A share of something is no share any more; a share of a share, or of a plain number, still is.
  const share = sameKind(kind, PLAIN) && (e.operator === '*' ? left.share || right.share : left.share && bareFigure(e.right) !== null)
  return quantityType(kind, share)
}
