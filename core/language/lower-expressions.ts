import type { ProgramData, Value } from '../program'
import { PLAIN, UNITS, findUnit, sameKind, unitsOfKind } from '../units'
import type { Analysis } from './analysis'
import { numberOf } from './constants'
import { Findings } from './diagnostics'
import { expressionsIn } from './nodes'
import type { Condition, Expression, Inset, Reading } from './tree'
import { placeOfReading, readingName, typeOf, type Scope, type Type } from './types'

/** Where names live while an expression is lowered. */
export interface Names {
  /** Cell of a dial, memory or parameter. */
  cell(name: string): number | undefined
  readonly scope: Scope
  /** Takes cells for timers, -1 when a mode is entered. */
  timer(count: number): number
  signal(name: string): number
  /** The step that an error is told of. */
  readonly step: number
}

type Bare = Value extends infer V ? V extends Value ? Omit<V, 'range'> : never : never

/** Turns expressions of the tree into those of the intermediate program. Only for programs without errors. */
export class ExpressionLowerer {
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
      case 'name': return this.name(e, names)
      case 'reading': return this.reading(e, names, true)
      case 'minus': return made({ is: 'minus', of: this.number(e.of, names) })
      case 'arithmetic': {
        const [left, right] = [this.number(e.left, names), this.number(e.right, names)]
        return e.operator === '/' ? made({ is: '/', left, right, step: names.step }) : made({ is: e.operator, left, right })
      }
      case 'random': return made({ is: 'random', low: this.number(e.low, names), high: this.number(e.high, names) })
      case 'call': return this.call(e, names)
      case 'truth': return made({ is: 'number', value: e.value ? 1 : 0 })
      case 'text':
      case 'missing': return made({ is: 'number', value: 0 })
      default: return made({ is: 'one', of: this.truth(e, names) })
    }
  }

  /** As a comparison takes it: no echo stays what it is, farther than anything. */
  compared(e: Expression, names: Names): Value {
    if (e.tag === 'bracket') return this.compared(e.inner, names)
    return e.tag === 'reading' ? this.reading(e, names, false) : this.number(e, names)
  }

  private reading(e: Reading, names: Names, bounded: boolean): Value {
    const name = `${e.device.text}.${e.reading.text}`
    if (name === 'run.time' || name === 'mode.time' || name === 'robot.still') return { is: name, range: e.range }
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

  private call(e: Extract<Expression, { tag: 'call' }>, names: Names): Value {
    const given = e.given.map(g => this.number(g, names))
    const { range } = e
    switch (e.name.text) {
      case 'abs': case 'min': case 'max': case 'clamp': case 'sign': case 'sin': case 'cos': case 'asin': case 'acos': case 'atan': case 'atan2': return { is: e.name.text, given, range }
      case 'sqrt': return { is: 'sqrt', of: given[0]!, step: names.step, range }
      default: {
        // round: to whole units as one writes them, so that round(34.6 cm) is 35 cm.
        const type = this.typeOf(e.given[0]!, names)
        const unit = type.type === 'quantity' ? (type.share ? UNITS.find(u => u.name === '%') : unitsOfKind(type.kind)[0]) : undefined
        return { is: 'round', of: given[0]!, scale: unit === undefined || (type.type === 'quantity' && !type.share && sameKind(type.kind, PLAIN)) ? 1 : unit.scale, range }
      }
    }
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
    const used = [...expressionsIn(e)].flatMap(part => part.tag === 'reading' ? [part.device.text] : [])
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
