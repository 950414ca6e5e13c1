import { DEVICE_KINDS } from '../devices'
import { NUMBER_FUNCTIONS, valueText, type FunctionName, type NumberFunction, type Place, type ProgramData, type Value } from '../program'
import type { RobotFacts } from '../robot'
import type { Bool, Num, Str } from './machine'

/** Makes closures of the intermediate program's values, for one robot. Throws where a value names what the robot has not. */
export class ValueLoader {
  /** Index of each reading, by the name that programs use. */
  private readonly places = new Map<string, number>()

  constructor(private readonly facts: RobotFacts, private readonly colors: ProgramData['colors']) {
    for (const d of facts.devices) {
      d.readings.forEach((r, i) => this.places.set(`${d.name}.${r.name}${r.of === null ? '' : `(${r.of.replace(/^tag (.*)$/, 'tag($1)')})`}`, d.first + i))
    }
  }

  reading(name: string): number {
    const at = this.places.get(name)
    if (at === undefined) throw new Error(`the robot ${this.facts.robot} has no reading ${name}`)
    return at
  }

  /** A number in SI; a truth as 1 or 0. */
  number(v: Value): Num {
    switch (v.is) {
      case 'number': { const { value } = v; return () => value }
      case 'cell': { const { cell } = v; return m => m.cells[cell]! }
      case 'reading': {
        const at = this.reading(v.name)
        const { most } = v
        if (most === null) return m => m.readings[at]!
        return m => { const x = m.readings[at]!; return x === Infinity ? most : x }
      }
      case 'asked': {
        const of = this.number(v.of)
        const among = v.among.map(({ value, name }) => ({ value, at: this.reading(name) }))
        const { most } = v
        const none = v.none === 'zero' ? 0 : most ?? Infinity
        return m => {
          const wanted = of(m)
          for (const { value, at } of among) if (value === wanted) { const x = m.readings[at]!; return x === Infinity && most !== null ? most : x }
          return none
        }
      }
      case 'one of many': { const place = this.place(v.place); return m => { const cell = place(m); return cell === -1 ? 0 : m.cells[cell]! } }
      case 'how many': {
        const { cell, count } = v
        return m => { let n = 0; for (let i = cell; i < cell + count; i++) if (m.cells[i] !== 0) n++; return n }
      }
      case 'since': { const { cell, run } = v; return m => m.cells[cell]! >= 0 ? (m.tick - m.cells[cell]!) * m.dt : run ? m.tick * m.dt : Infinity }
      case 'computed': {
        const device = this.facts.devices.find(d => d.name === v.device)
        const work = DEVICE_KINDS.find(k => k.kind === device?.kind)?.computed?.[v.reading]
        if (device === undefined || work === undefined) throw new Error(`the robot ${this.facts.robot} has no reading ${v.device}.${v.reading}`)
        const given = v.given.map(g => this.number(g))
        const values = given.map(() => 0)
        const { first } = device
        return m => {
          for (let i = 0; i < given.length; i++) values[i] = given[i]!(m)
          return work(m.readings, first, values)
        }
      }
      case 'run.time': return m => m.tick * m.dt
      case 'mode.time': return m => (m.tick - m.modeEntered()) * m.dt
      case 'robot.still': return m => m.still ? 1 : 0
      case 'minus': { const of = this.number(v.of); return m => -of(m) }
      case '+': { const l = this.number(v.left), r = this.number(v.right); return m => l(m) + r(m) }
      case '-': { const l = this.number(v.left), r = this.number(v.right); return m => l(m) - r(m) }
      case '*': { const l = this.number(v.left), r = this.number(v.right); return m => l(m) * r(m) }
      case '/': {
        const l = this.number(v.left), r = this.number(v.right)
        const { step } = v
        return m => {
          const under = r(m)
          if (under === 0) { m.fail('division by zero', step); return 0 }
          return l(m) / under
        }
      }
      case 'random': { const low = this.number(v.low), high = this.number(v.high); return m => m.random(low(m), high(m)) }
      case 'sqrt': {
        const of = this.number(v.of)
        const { step } = v
        return m => {
          const x = of(m)
          if (x < 0) { m.fail('the square root of a negative number', step); return 0 }
          return Math.sqrt(x)
        }
      }
      case 'round': { const of = this.number(v.of); const { scale } = v; return m => Math.round(of(m) / scale) * scale }
      default: {
        if ('given' in v) return this.call(v.is, v.given)
        const truth = this.truth(v.is === 'one' ? v.of : v)
        return m => truth(m) ? 1 : 0
      }
    }
  }

  /** The cell of one of a memory's values; -1, and the lane stops, where there is none. */
  place({ name, cell, count, first, at, step }: Place): Num {
    const of = this.number(at)
    return m => {
      const k = Math.round(of(m)) - first
      if (k >= 0 && k < count) return cell + k
      m.fail(`${name} holds values ${first} to ${first + count - 1}, and ${k + first} was asked for`, step)
      return -1
    }
  }

  private call(name: FunctionName, given: readonly Value[]): Num {
    const { takes, of } = NUMBER_FUNCTIONS[name] as NumberFunction
    const [a, b, c] = given.map(g => this.number(g)) as [Num, Num, Num]
    return takes === 1 ? m => of(a(m), 0, 0) : takes === 2 ? m => of(a(m), b(m), 0) : m => of(a(m), b(m), c(m))
  }

  truth(v: Value): Bool {
    switch (v.is) {
      case 'truth': { const { value } = v; return () => value }
      case '<': case '>': case '<=': case '>=': return this.comparison(v)
      case 'between': {
        const x = this.number(v.value), low = this.number(v.low), high = this.number(v.high)
        return m => { const is = x(m); return is >= low(m) && is <= high(m) }
      }
      case 'one of': {
        const x = this.number(v.value)
        const options = v.options.map(o => this.number(o))
        const { negated } = v
        return m => {
          const is = x(m)
          for (const option of options) if (option(m) === is) return !negated
          return negated
        }
      }
      case 'and':
      case 'or': {
        const parts = v.parts.map(p => this.truth(p))
        if (parts.length === 2) {
          const [a, b] = parts as [Bool, Bool]
          if (v.is === 'and') return m => { const x = a(m); return b(m) && x }
          return m => { const x = a(m); return b(m) || x }
        }
        if (v.is === 'and') return m => { let all = true; for (const p of parts) if (!p(m)) all = false; return all }
        return m => { let any = false; for (const p of parts) if (p(m)) any = true; return any }
      }
      case 'not': { const of = this.truth(v.of); return m => !of(m) }
      case 'heard': { const { signal } = v; return m => m.heard(signal) }
      case 'every': {
        const time = this.number(v.time)
        const { cell } = v
        return m => {
          const period = Math.max(1, Math.ceil(time(m) / m.dt - 1e-9))
          if (m.cells[cell]! < 0) { m.cells[cell] = m.tick + period; return false }
          if (m.tick < m.cells[cell]!) return false
          m.cells[cell] = m.cells[cell]! + period
          return true
        }
      }
      case 'for': return this.held(v)
      case 'nonzero': {
        if (v.of.is === 'reading' && v.of.most === null) { const at = this.reading(v.of.name); return m => m.readings[at] !== 0 }
        const of = this.number(v.of)
        return m => of(m) !== 0
      }
      default: { const of = this.number(v); return m => of(m) !== 0 }
    }
  }

  /** A comparison; one of a reading with a fixed value or a cell, the usual case, in one piece. */
  private comparison(v: Extract<Value, { is: '<' | '>' | '<=' | '>=' }>): Bool {
    const { left, right } = v
    if (left.is === 'reading' && left.most === null) {
      const at = this.reading(left.name)
      if (right.is === 'number') {
        const { value } = right
        switch (v.is) {
          case '<': return m => m.readings[at]! < value
          case '>': return m => m.readings[at]! > value
          case '<=': return m => m.readings[at]! <= value
          case '>=': return m => m.readings[at]! >= value
        }
      }
      if (right.is === 'cell') {
        const { cell } = right
        switch (v.is) {
          case '<': return m => m.readings[at]! < m.cells[cell]!
          case '>': return m => m.readings[at]! > m.cells[cell]!
          case '<=': return m => m.readings[at]! <= m.cells[cell]!
          case '>=': return m => m.readings[at]! >= m.cells[cell]!
        }
      }
    }
    const l = this.number(left), r = this.number(right)
    switch (v.is) {
      case '<': return m => l(m) < r(m)
      case '>': return m => l(m) > r(m)
      case '<=': return m => l(m) <= r(m)
      case '>=': return m => l(m) >= r(m)
    }
  }

  private held(v: Extract<Value, { is: 'for' }>): Bool {
    const test = this.truth(v.test)
    const time = this.number(v.time)
    const fixed = v.time.is === 'number' ? Math.ceil(v.time.value / this.facts.tick - 1e-9) : -1
    const devices = v.devices.map((name) => {
      const device = this.facts.devices.find(d => d.name === name)
      if (device === undefined) throw new Error(`the robot ${this.facts.robot} has no device ${name}`)
      return device.first
    })
    const { cell: since } = v
    return m => {
      if (!test(m)) { m.cells[since] = -1; return false }
      if (m.cells[since]! < 0) {
        m.cells[since] = m.tick
        for (let i = 0; i < devices.length; i++) m.cells[since + 1 + i] = m.looks[devices[i]!]!
      }
      const ticks = fixed === -1 ? Math.ceil(time(m) / m.dt - 1e-9) : fixed
      if (m.tick - m.cells[since]! < ticks) return false
      for (let i = 0; i < devices.length; i++) if (m.looks[devices[i]!]! <= m.cells[since + 1 + i]!) return false
      return true
    }
  }

  text(v: Value): Str {
    switch (v.is) {
      case 'text': { const { text } = v; return () => text }
      case 'joined': { const parts = v.parts.map(p => this.text(p)); return m => parts.map(p => p(m)).join('') }
      case 'shown': { const of = this.number(v.of); const { as } = v; const { colors } = this; return m => valueText(of(m), as, colors) }
      default: return () => ''
    }
  }
}
