import { functionOf, type EveryTick, type FunctionName, type Place, type ProgramData, type Value } from '../program'
import { KINDS, PLAIN, UNITS, findUnit, sameKind, unitsOfKind } from '../units'
import type { Analysis } from './analysis'
import { numberOf } from './constants'
import type { LetFunction } from './declared'
import { Findings } from './diagnostics'
import { expressionsIn, rewritten } from './nodes'
import { MAX_WINDOW, windowOf } from './calls'
import { expr } from './formatter'
import type { Call, Condition, Expression, Inset, NameUse, Reading } from './tree'
import { askedOf, placeOfReading, readingName, typeOf, type Scope, type Type } from './types'
import { OVER_TIME } from './words'

/** Where names live while an expression is lowered. */
export interface Names {
  /** Cell of a dial, memory, named value, parameter, or of what a block names; the first of a memory of several values. */
  cell(name: string): number | undefined
  readonly scope: Scope
  /** Takes cells for timers, -1 when a mode is entered. */
  timer(count: number): number
  signal(name: string): number
  /** The step that an error is told of. */
  readonly step: number
  /** The cell of what is followed from tick to tick: the same for the same. `lowered` makes it where it is new. */
  follow(name: string, does: Followed['does'], lowered: () => Followed): number
}

type Over<T> = T extends unknown ? Omit<T, 'name' | 'cell' | 'step'> : never
/** What is followed over time, but for its name and cell. */
export type Followed = Over<Exclude<EveryTick, { does: 'let' }>>

/** The most parts that expressions may have with every function in its place. */
export const MAX_PARTS = 200_000

type Bare = Value extends infer V ? V extends Value ? Omit<V, 'range'> : never : never

/** Turns expressions of the tree into those of the intermediate program. Only for programs without errors. */
export class ExpressionLowerer {
  private parts = 0

  constructor(private readonly program: Analysis) {}

  typeOf(e: Expression, names: Names): Type {
    return typeOf(e, names.scope, new Findings(), { condition: true })
  }

  /** A number in SI; a truth as 1 or 0, a colour by its place in the list. No echo becomes the device's maximum. */
  number(e: Expression, names: Names): Value {
    const made = (value: Bare): Value => ({ ...value, range: e.range } as Value)
    switch (e.tag) {
      case 'number': return made({ is: 'number', value: e.unit === null ? e.value : e.value * findUnit(e.unit)!.scale })
      case 'bracket': return this.number(e.inner, names)
      case 'name': {
        const far = this.farOf(e, names)
        return far === null ? this.name(e, names) : this.number(far, names)
      }
      case 'reading': return this.reading(e, names, true)
      case 'minus': return made({ is: 'minus', of: this.number(e.of, names) })
      case 'arithmetic': {
        const [left, right] = [this.number(e.left, names), this.number(e.right, names)]
        return e.operator === '/' ? made({ is: '/', left, right, step: names.step }) : made({ is: e.operator, left, right })
      }
      case 'random': return made({ is: 'random', low: this.number(e.low, names), high: this.number(e.high, names) })
      case 'call': return this.call(e, names, true)
      case 'truth': return made({ is: 'number', value: e.value ? 1 : 0 })
      case 'text':
      case 'missing': return made({ is: 'number', value: 0 })
      default: return made({ is: 'one', of: this.truth(e, names) })
    }
  }

  /** As a comparison takes it: no echo stays what it is, farther than anything. */
  compared(e: Expression, names: Names): Value {
    if (e.tag === 'bracket') return this.compared(e.inner, names)
    if (e.tag === 'call') return this.call(e, names, false)
    const far = e.tag === 'name' ? this.farOf(e, names) : null
    if (far !== null) return this.compared(far, names)
    return e.tag === 'reading' ? this.reading(e, names, false) : this.number(e, names)
  }

  /**
   * What a named value stands for that is nothing but a reading without an echo perhaps, or a time since something: the name means
   * what that means, farther than anything in a comparison and bounded elsewhere. null for any other name.
   */
  private farOf(e: NameUse, names: Names): Expression | null {
    if (names.scope.local(e.name)) return null
    let of = this.program.lets.get(e.name)?.node.value ?? null
    while (of?.tag === 'bracket') of = of.inner
    if (of?.tag === 'call') return of.name.text === 'since' && names.scope.called('since') === undefined ? of : null
    if (of?.tag !== 'reading') return of?.tag === 'name' ? this.farOf(of, names) : null
    const { device, reading } = of
    const spec = this.program.facts.devices.find(d => d.name === device.text)?.readings.find(r => r.name === reading.text)
    return spec?.mayMiss === true ? of : null
  }

  private reading(e: Reading, names: Names, bounded: boolean): Value {
    const name = `${e.device.text}.${e.reading.text}`
    if (name === 'run.time' || name === 'mode.time' || name === 'robot.still') return { is: name, range: e.range }
    const asked = askedOf(e, names.scope)
    if (asked !== null) {
      const most = bounded && asked.reading.mayMiss ? asked.reading.range?.[1] ?? null : null
      return { is: 'asked', of: this.number(asked.of, names), among: asked.among, none: asked.reading.mayMiss ? 'far' : 'zero', most, range: e.range }
    }
    const device = this.program.facts.devices.find(d => d.name === e.device.text)!
    const spec = device.readings[placeOfReading(e, device)]!
    if (spec.takes.length > 0) return { is: 'computed', device: device.name, reading: spec.name, given: e.given!.map(g => this.number(g, names)), range: e.range }
    return { is: 'reading', name: readingName(e), most: bounded && spec.mayMiss ? spec.range?.[1] ?? null : null, range: e.range }
  }

  private name(e: Extract<Expression, { tag: 'name' }>, names: Names): Value {
    const cell = names.cell(e.name)
    if (cell !== undefined) return { is: 'cell', cell, name: e.name, range: e.range }
    return { is: 'number', value: this.program.facts.colors.indexOf(e.name), range: e.range }
  }

  private call(e: Call, names: Names, bounded: boolean): Value {
    const called = names.scope.called(e.name.text)
    if (called?.what === 'function') {
      const inlined = this.inlined(e, called.made)
      return bounded ? this.number(inlined, names) : this.compared(inlined, names)
    }
    if (called?.what === 'several') return { is: 'one of many', place: this.place(e.name.text, e.given[0]!, names), range: e.range }
    if (e.name.text === 'count') {
      const { name } = e.given[0] as Extract<Expression, { tag: 'name' }>
      return { is: 'how many', cell: names.cell(name)!, count: names.scope.lookup(name)!.several!.count, name, range: e.range }
    }
    if (OVER_TIME.has(e.name.text)) return this.overTime(e, names, bounded)
    const given = e.given.map(g => this.number(g, names))
    const { range } = e
    if (functionOf(e.name.text) !== undefined) return { is: e.name.text as FunctionName, given, range }
    if (e.name.text === 'sqrt') return { is: 'sqrt', of: given[0]!, step: names.step, range }
    // round: to whole units as one writes them, so that round(34.6 cm) is 35 cm.
    const type = this.typeOf(e.given[0]!, names)
    const unit = type.type === 'quantity' ? (type.share ? UNITS.find(u => u.name === '%') : unitsOfKind(type.kind)[0]) : undefined
    return { is: 'round', of: given[0]!, scale: unit === undefined || (type.type === 'quantity' && !type.share && sameKind(type.kind, PLAIN)) ? 1 : unit.scale, range }
  }

  /** A function's expression with what is given in the place of its parameters. Throws RangeError when they grow beyond MAX_PARTS. */
  private inlined(e: Call, made: LetFunction): Expression {
    const inlined = rewritten(made.node.value, (node) => {
      if (!('tag' in node) || node.tag !== 'name') return null
      const at = made.parameters.indexOf((node as NameUse).name)
      const inner = e.given[at]
      return inner === undefined ? null : { tag: 'bracket', inner, range: inner.range }
    })
    this.parts += [...expressionsIn(inlined)].length
    if (this.parts > MAX_PARTS) throw new RangeError('program too long')
    return { tag: 'bracket', inner: inlined, range: e.range }
  }

  /** Which of a memory's values is meant. */
  place(name: string, at: Expression, names: Names): Place {
    const { count, first } = names.scope.lookup(name)!.several!
    return { name, cell: names.cell(name)!, count, first, at: this.number(at, names), step: names.step }
  }

  private overTime(e: Call, names: Names, bounded: boolean): Value {
    // Functions in it are written out, so that the same name is the same value.
    const written = this.writtenOut(e, names)
    const [of, time] = written.given as [Expression, Expression]
    const name = expr(written)
    const does = e.name.text as Followed['does']
    const cell = names.follow(name, does, () => {
      if (does === 'since') return { does, test: this.truth(of, names), shown: { type: 'quantity', kind: KINDS.time, share: false } }
      const shown = this.typeOf(written, names)
      const value = this.number(of, names)
      if (does === 'rate') return { does, of: value, devices: [...new Set(this.devicesIn(of))], shown }
      if (does === 'total') return { does, of: value, shown }
      return { does, of: value, time: this.number(time, names), most: Math.max(1, Math.ceil((windowOf(time, names.scope) ?? MAX_WINDOW) / this.program.facts.tick - 1e-9)), shown }
    })
    return does === 'since' ? { is: 'since', cell, name, run: bounded, range: e.range } : { is: 'cell', cell, name, range: e.range }
  }

  private writtenOut<T extends Expression>(e: T, names: Names): T {
    const change = (node: object): object | null => {
      if (!('tag' in node) || node.tag !== 'call') return null
      const called = names.scope.called((node as Call).name.text)
      return called?.what === 'function' ? rewritten(this.inlined(node as Call, called.made), change) : null
    }
    return rewritten(e, change)
  }

  truth(e: Expression, names: Names): Value {
    const made = (value: Bare): Value => ({ ...value, range: e.range } as Value)
    switch (e.tag) {
      case 'truth': return made({ is: 'truth', value: e.value })
      case 'bracket': return this.truth(e.inner, names)
      case 'compare': return made({ is: e.operator, left: this.compared(e.left, names), right: this.compared(e.right, names) })
      case 'reading': return made({ is: 'nonzero', of: this.compared(e, names) })
      case 'between': return made({ is: 'between', value: this.compared(e.value, names), low: this.compared(e.low, names), high: this.compared(e.high, names) })
      case 'is': return made({ is: 'one of', value: this.compared(e.value, names), options: e.options.map(o => this.compared(o, names)), negated: e.negated })
      case 'logic': return made({ is: e.operator, parts: e.operands.map(o => this.truth(o, names)) })
      case 'not': return made({ is: 'not', of: this.truth(e.of, names) })
      case 'heard': return made({ is: 'heard', signal: names.signal(e.signal.text) })
      case 'every': {
        const time = this.number(e.time, names)
        return made({ is: 'every', time, cell: names.timer(1) })
      }
      default: return made({ is: 'nonzero', of: this.number(e, names) })
    }
  }

  /** A condition with its `for`. */
  condition(c: Condition, names: Names): Value {
    const test = this.truth(c.expression, names)
    if (c.held === null) return test
    const devices = [...new Set(this.devicesIn(c.expression))]
    const time = this.number(c.held, names)
    return { is: 'for', test, time, cell: names.timer(1 + devices.length), devices, range: c.range }
  }

  /** The devices whose readings an expression uses. */
  private devicesIn(e: Expression): string[] {
    const used = [...expressionsIn(e)].flatMap((part): readonly string[] => {
      if (part.tag === 'reading') return [part.device.text]
      // What a named value or a function uses is used too; each uses those above it only.
      const named = part.tag === 'name' ? this.program.lets.get(part.name)?.node : part.tag === 'call' ? this.program.functions.get(part.name.text)?.node : undefined
      return named === undefined ? [] : this.devicesIn(named.value)
    })
    return used.filter(name => this.program.facts.devices.some(d => d.name === name))
  }

  /** A text with its values, each to be written in the usual unit of its kind. */
  text(e: Expression, names: Names): Value {
    if (e.tag !== 'text') return { is: 'shown', of: this.compared(e, names), as: this.typeOf(e, names), range: e.range }
    return { is: 'joined', parts: e.parts.map(p => typeof p === 'string' ? { is: 'text', text: p, range: null } : this.inset(p, names)), range: e.range }
  }

  private inset({ of, unit, step }: Inset, names: Names): Value {
    const shown = this.text(of, names)
    if (shown.is !== 'shown' || shown.as.type !== 'quantity') return shown
    if (unit !== null) return { ...shown, as: { ...shown.as, unit: findUnit(unit.text)!.name } }
    if (step?.tag !== 'number') return shown
    return { ...shown, as: { ...shown.as, unit: step.unit, step: numberOf(step)!, decimals: /\.(\d*)/.exec(step.figure)?.[1]?.length ?? 0 } }
  }
}

/** What a memory holds before it is set. */
export function initialValue(e: Expression, colors: ProgramData['colors']): number {
  if (e.tag === 'truth') return e.value ? 1 : 0
  if (e.tag === 'name') return Math.max(0, colors.indexOf(e.name))
  return numberOf(e) ?? 0
}
