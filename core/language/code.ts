import { DEVICE_KINDS } from '../devices'
import { atan2, clamp, cos, sin } from '../maths'
import { findUnit, formatQuantity, sameKind, unitsOfKind, PLAIN, UNITS, type Kind } from '../units'
import type { Bool, Machine, Num, Str } from './compiled'
import { numberOf, type Analysis } from './analysis'
import { Findings } from './diagnostics'
import type { Condition, Expression, Reading } from './tree'
import { placeOfReading, typeOf, type Scope, type Type } from './types'

/** Where names live while an expression is compiled. */
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

/** Turns expressions into closures. Only for programs without errors. */
export class ExpressionCompiler {
  constructor(private readonly program: Analysis) {}

  typeOf(e: Expression, names: Names): Type {
    return typeOf(e, names.scope, new Findings(), { condition: true })
  }

  private find(e: Reading): { index: number, mayMiss: boolean, most: number, device: number } {
    const device = this.program.facts.devices.find(d => d.name === e.device.text)!
    const at = placeOfReading(e, device)
    const spec = device.readings[at]!
    return { index: device.first + at, mayMiss: spec.mayMiss, most: spec.range?.[1] ?? Infinity, device: device.first }
  }

  /** A number in SI; a truth as 1 or 0, a colour by its place in the list. No echo becomes the device's maximum. */
  number(e: Expression, names: Names): Num {
    switch (e.tag) {
      case 'number': {
        const value = e.unit === null ? e.value : e.value * findUnit(e.unit)!.scale
        return () => value
      }
      case 'bracket': return this.number(e.inner, names)
      case 'name': return this.name(e.name, names)
      case 'reading': {
        const own = this.own(e) ?? this.computed(e, names)
        if (own !== null) return own
        const { index, mayMiss, most } = this.find(e)
        if (!mayMiss) return m => m.readings[index]!
        return m => { const x = m.readings[index]!; return x === Infinity ? most : x }
      }
      case 'minus': {
        const of = this.number(e.of, names)
        return m => -of(m)
      }
      case 'arithmetic': return this.arithmetic(e, names)
      case 'random': {
        const low = this.number(e.low, names)
        const high = this.number(e.high, names)
        return m => m.random(low(m), high(m))
      }
      case 'call': return this.call(e.name.text, e.given, names)
      case 'truth': {
        const value = e.value ? 1 : 0
        return () => value
      }
      case 'text':
      case 'missing': return () => 0
      default: {
        const truth = this.truth(e, names)
        return m => truth(m) ? 1 : 0
      }
    }
  }

  /** As a comparison takes it: no echo stays what it is, farther than anything. */
  compared(e: Expression, names: Names): Num {
    if (e.tag === 'bracket') return this.compared(e.inner, names)
    if (e.tag === 'reading' && this.plain(e)) {
      const { index } = this.find(e)
      return m => m.readings[index]!
    }
    return this.number(e, names)
  }

  /** A reading worked out from values in brackets; null for any other. */
  private computed(e: Reading, names: Names): Num | null {
    const device = this.program.facts.devices.find(d => d.name === e.device.text)!
    const spec = device.readings[placeOfReading(e, device)]!
    if (spec.takes.length === 0) return null
    const work = DEVICE_KINDS.find(k => k.kind === device.kind)!.computed![spec.name]!
    const given = e.given!.map(g => this.number(g, names))
    const values = given.map(() => 0)
    return m => {
      for (let i = 0; i < given.length; i++) values[i] = given[i]!(m)
      return work(m.readings, device.first, values)
    }
  }

  /** Whether the reading stands in the readings as it is. */
  private plain(e: Reading): boolean {
    if (this.own(e) !== null) return false
    const device = this.program.facts.devices.find(d => d.name === e.device.text)!
    return device.readings[placeOfReading(e, device)]!.takes.length === 0
  }

  private own(e: Reading): Num | null {
    const name = `${e.device.text}.${e.reading.text}`
    if (name === 'run.time') return m => m.tick * m.dt
    if (name === 'mode.time') return m => (m.tick - m.modeEntered()) * m.dt
    if (name === 'robot.still') return m => m.still ? 1 : 0
    return null
  }

  private name(name: string, names: Names): Num {
    const cell = names.cell(name)
    if (cell !== undefined) return m => m.cells[cell]!
    const color = this.program.facts.colors.indexOf(name)
    return () => color
  }

  private arithmetic(e: Extract<Expression, { tag: 'arithmetic' }>, names: Names): Num {
    const l = this.number(e.left, names)
    const r = this.number(e.right, names)
    switch (e.operator) {
      case '+': return m => l(m) + r(m)
      case '-': return m => l(m) - r(m)
      case '*': return m => l(m) * r(m)
      case '/': {
        const { step } = names
        return m => {
          const under = r(m)
          if (under === 0) { m.fail('division', step); return 0 }
          return l(m) / under
        }
      }
    }
  }

  private call(name: string, given: readonly Expression[], names: Names): Num {
    const [a, b, c] = given.map(g => this.number(g, names))
    switch (name) {
      case 'abs': return m => Math.abs(a!(m))
      case 'min': return m => Math.min(a!(m), b!(m))
      case 'max': return m => Math.max(a!(m), b!(m))
      case 'clamp': return m => clamp(a!(m), b!(m), c!(m))
      case 'sign': return m => Math.sign(a!(m))
      case 'sin': return m => sin(a!(m))
      case 'cos': return m => cos(a!(m))
      case 'atan2': return m => atan2(a!(m), b!(m))
      case 'sqrt': {
        const { step } = names
        return m => {
          const x = a!(m)
          if (x < 0) { m.fail('root', step); return 0 }
          return Math.sqrt(x)
        }
      }
      default: {
        // round: to whole units as one writes them, so that round(34.6 cm) is 35 cm.
        const type = this.typeOf(given[0]!, names)
        const unit = type.type === 'quantity' ? (type.share ? UNITS.find(u => u.name === '%') : unitsOfKind(type.kind)[0]) : undefined
        const scale = unit === undefined || (type.type === 'quantity' && !type.share && sameKind(type.kind, PLAIN)) ? 1 : unit.scale
        return m => Math.round(a!(m) / scale) * scale
      }
    }
  }

  truth(e: Expression, names: Names): Bool {
    switch (e.tag) {
      case 'truth': {
        const { value } = e
        return () => value
      }
      case 'bracket': return this.truth(e.inner, names)
      case 'compare': return this.comparison(e, names)
      case 'reading': {
        if (!this.plain(e)) break
        const { index } = this.find(e)
        return m => m.readings[index] !== 0
      }
      case 'between': {
        const v = this.compared(e.value, names)
        const low = this.compared(e.low, names)
        const high = this.compared(e.high, names)
        return m => { const x = v(m); return x >= low(m) && x <= high(m) }
      }
      case 'is': {
        const v = this.compared(e.value, names)
        const options = e.options.map(o => this.compared(o, names))
        const { negated } = e
        return m => {
          const x = v(m)
          for (const option of options) if (option(m) === x) return !negated
          return negated
        }
      }
      case 'logic': {
        const parts = e.operands.map(o => this.truth(o, names))
        // Both sides always, so that timers do not depend on the order (ruling 6).
        if (parts.length === 2) {
          const [a, b] = parts as [Bool, Bool]
          if (e.operator === 'and') return m => { const x = a(m); return b(m) && x }
          return m => { const x = a(m); return b(m) || x }
        }
        if (e.operator === 'and') return m => { let all = true; for (const p of parts) if (!p(m)) all = false; return all }
        return m => { let any = false; for (const p of parts) if (p(m)) any = true; return any }
      }
      case 'not': {
        const of = this.truth(e.of, names)
        return m => !of(m)
      }
      case 'heard': {
        const signal = names.signal(e.signal.text)
        return m => m.heard(signal)
      }
      case 'every': {
        const time = this.number(e.time, names)
        const due = names.timer(1)
        return m => {
          const period = Math.max(1, Math.ceil(time(m) / m.dt - 1e-9))
          if (m.cells[due]! < 0) { m.cells[due] = m.tick + period; return false }
          if (m.tick < m.cells[due]!) return false
          m.cells[due] = m.cells[due]! + period
          return true
        }
      }
      default: break
    }
    const number = this.number(e, names)
    return m => number(m) !== 0
  }

  /** A comparison; one of a reading with a fixed value or a dial, the usual case, in one piece. */
  private comparison(e: Extract<Expression, { tag: 'compare' }>, names: Names): Bool {
    const l = this.compared(e.left, names)
    const r = this.compared(e.right, names)
    const reading = e.left.tag === 'reading' && this.plain(e.left) ? this.find(e.left).index : -1
    const value = numberOf(e.right)
    const cell = e.right.tag === 'name' ? names.cell(e.right.name) ?? -1 : -1
    if (reading !== -1 && value !== null) {
      switch (e.operator) {
        case '<': return m => m.readings[reading]! < value
        case '>': return m => m.readings[reading]! > value
        case '<=': return m => m.readings[reading]! <= value
        case '>=': return m => m.readings[reading]! >= value
      }
    }
    if (reading !== -1 && cell !== -1) {
      switch (e.operator) {
        case '<': return m => m.readings[reading]! < m.cells[cell]!
        case '>': return m => m.readings[reading]! > m.cells[cell]!
        case '<=': return m => m.readings[reading]! <= m.cells[cell]!
        case '>=': return m => m.readings[reading]! >= m.cells[cell]!
      }
    }
    switch (e.operator) {
      case '<': return m => l(m) < r(m)
      case '>': return m => l(m) > r(m)
      case '<=': return m => l(m) <= r(m)
      case '>=': return m => l(m) >= r(m)
    }
  }

  /** A condition with its `for`: true that long without a break, and each device in it has looked again. */
  condition(c: Condition, names: Names): Bool {
    const truth = this.truth(c.expression, names)
    if (c.held === null) return truth
    const time = this.number(c.held, names)
    const fixed = numberOf(c.held)
    const fixedTicks = fixed === null ? -1 : Math.ceil(fixed / this.program.facts.tick - 1e-9)
    const devices = [...new Set(this.devicesIn(c.expression))]
    const since = names.timer(1 + devices.length)
    return m => {
      if (!truth(m)) { m.cells[since] = -1; return false }
      if (m.cells[since]! < 0) {
        m.cells[since] = m.tick
        for (let i = 0; i < devices.length; i++) m.cells[since + 1 + i] = m.looks[devices[i]!]!
      }
      const ticks = fixed === null ? Math.ceil(time(m) / m.dt - 1e-9) : fixedTicks
      if (m.tick - m.cells[since]! < ticks) return false
      for (let i = 0; i < devices.length; i++) if (m.looks[devices[i]!]! <= m.cells[since + 1 + i]!) return false
      return true
    }
  }

  private devicesIn(e: Expression): number[] {
    switch (e.tag) {
      case 'reading': return this.own(e) === null ? [this.find(e).device] : []
      case 'bracket': return this.devicesIn(e.inner)
      case 'minus':
      case 'not': return this.devicesIn(e.of)
      case 'arithmetic':
      case 'compare': return [...this.devicesIn(e.left), ...this.devicesIn(e.right)]
      case 'between': return [e.value, e.low, e.high].flatMap(x => this.devicesIn(x))
      case 'is': return [e.value, ...e.options].flatMap(x => this.devicesIn(x))
      case 'logic': return e.operands.flatMap(x => this.devicesIn(x))
      case 'call': return e.given.flatMap(x => this.devicesIn(x))
      default: return []
    }
  }

  /** A text with its values worked out, each in the usual unit of its kind. */
  text(e: Expression, names: Names): Str {
    if (e.tag !== 'text') {
      const type = this.typeOf(e, names)
      const value = this.compared(e, names)
      const { colors } = this.program.facts
      return m => valueText(value(m), type, colors)
    }
    const parts = e.parts.map(p => typeof p === 'string' ? (_: Machine) => p : this.text(p, names))
    return m => parts.map(p => p(m)).join('')
  }
}

/** A value as people read it. */
export function valueText(value: number, type: Type | { readonly type: 'quantity', readonly kind: Kind, readonly share: boolean }, colors: readonly string[]): string {
  switch (type.type) {
    case 'truth': return value !== 0 ? 'true' : 'false'
    case 'color': return colors[value] ?? 'none'
    case 'quantity': {
      if (value === Infinity) return 'no echo'
      const unit = type.share ? UNITS.find(u => u.name === '%') : sameKind(type.kind, PLAIN) ? undefined : unitsOfKind(type.kind)[0]
      if (unit !== undefined) return formatQuantity(value, unit)
      return String(Math.round(value * 1000) / 1000)
    }
    default: return ''
  }
}
