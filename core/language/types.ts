import type { RobotFacts, DeviceFacts } from '../robot'
import type { ReadingSpec } from '../devices'
import { KINDS, PLAIN, findUnit, kindName, kindOf, overKind, sameKind, timesKind, unitsOfKind, type Kind } from '../units'
import type { Findings } from './diagnostics'
import type { Expression, Inset, Name, Range, Reading } from './tree'
import { say } from './wording'
import { FUNCTIONS, nearestWord } from './words'

/** What an expression is worth. `unknown` after a mistake that was told already. */
export type Type =
  | { readonly type: 'quantity', readonly kind: Kind, readonly share: boolean }
  | { readonly type: 'truth' }
  | { readonly type: 'color' }
  | { readonly type: 'text' }
  | { readonly type: 'unknown' }

export const UNKNOWN: Type = { type: 'unknown' }
const TRUTH: Type = { type: 'truth' }
const quantityType = (kind: Kind, share = false): Type => ({ type: 'quantity', kind, share })

/** What names mean where an expression stands. */
export interface Scope {
  readonly facts: RobotFacts
  /** Dials, memories and parameters. */
  lookup(name: string): { readonly type: Type } | undefined
  readonly names: readonly string[]
  /** Called for each name and reading that is used. */
  used(kind: 'name' | 'reading' | 'heard', name: string, range: Range): void
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
    case 'call': return typeOfCall(e.name, e.given, scope, findings)
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

function numeric(e: Expression, scope: Scope, findings: Findings): Type {
  const t = typeOf(e, scope, findings, { condition: false })
  if (t.type === 'quantity' || t.type === 'unknown') return t
  findings.error(say.wrongKind('number', typeName(t), 'in arithmetic'), e.range)
  return UNKNOWN
}

function typeOfName(name: string, range: Range, scope: Scope, findings: Findings): Type {
  scope.used('name', name, range)
  const found = scope.lookup(name)
  if (found !== undefined) return found.type
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
    if (t !== undefined) return t
    findings.error(say.unknownReading(e.device.text, 'clock of its own', e.reading.text, Object.keys(own), null), e.reading.range)
    return UNKNOWN
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

function typeOfCall(name: Name, given: readonly Expression[], scope: Scope, findings: Findings): Type {
  if (name.text === 'tag') {
    findings.error(say.tagHere(), name.range)
    return UNKNOWN
  }
  const wanted = FUNCTIONS.get(name.text)
  if (wanted === undefined) return UNKNOWN
  if (given.length !== wanted) {
    findings.error(say.readingTakes(name.text, wanted, given.length), name.range)
    return UNKNOWN
  }
  switch (name.text) {
    case 'abs': return numeric(given[0]!, scope, findings)
    case 'min':
    case 'max':
    case 'clamp': return numericSame(given, name.text, scope, findings)
    case 'round':
      return numeric(given[0]!, scope, findings)
    case 'sign':
      numeric(given[0]!, scope, findings)
      return quantityType(PLAIN)
    case 'sqrt': {
      // Of an area a length, of a square of any kind that kind.
      const of = numeric(given[0]!, scope, findings)
      if (of.type !== 'quantity') return of
      const { length, angle, time, mass } = of.kind
      if ([length, angle, time, mass].every(power => power % 2 === 0)) return quantityType({ length: length / 2, angle: angle / 2, time: time / 2, mass: mass / 2 })
      findings.error(say.wrongKind('number or a square, such as of two lengths,', typeName(of), 'under sqrt'), given[0]!.range)
      return UNKNOWN
    }
    case 'asin':
    case 'acos':
    case 'atan':
      expectOneOf(given[0]!, [{ kind: PLAIN, share: false }], scope, findings, `in ${name.text}`)
      return quantityType(KINDS.angle)
    case 'sin':
    case 'cos':
      expectKind(given[0]!, KINDS.angle, scope, findings, `in ${name.text}`)
      return quantityType(PLAIN)
    case 'atan2':
      numericSame(given, 'atan2', scope, findings)
      return quantityType(KINDS.angle)
    default: return UNKNOWN
  }
}

function numericSame(given: readonly Expression[], what: string, scope: Scope, findings: Findings): Type {
  const t = sameType(given, `take ${what} of`, scope, findings)
  if (t.type === 'quantity' || t.type === 'unknown') return t
  findings.error(say.wrongKind('number', typeName(t), `in ${what}`), given[0]!.range)
  return UNKNOWN
}

/** Expects all of one type; bare numbers beside a measure get their likely unit. */
function sameType(list: readonly Expression[], verb: string, scope: Scope, findings: Findings): Type {
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
