import { KINDS, PLAIN, UNITS, findUnit, sameKind, unitsOfKind } from '../../units'
import type { Place, ShownAs, Value } from '../../program'
import type { Source } from '../source'

/** What expressions stand on: how this program's cells, devices and units are called. */
export interface Words {
  readonly source: Source
  readonly colors: readonly string[]
  /** A cell's value, to be read or set. */
  cell(cell: number): string
  /** The first of a memory's several values: the list of all. */
  list(cell: number): string
  /** What is followed over time, by its cell: the object that does. */
  followed(cell: number): string
  /** The number in `t` of a cell that has no name; those behind it follow. */
  timer(cell: number): number
  device(name: string): string
  /** A reading by its name in the program, as an attribute. */
  reading(name: string): string
  /** A unit of measure that stands for its size in SI. */
  unit(name: string): string
  line(step: number): number
  signal(signal: number): string
  /** A colour's number by its name. */
  color(name: string): string
  /** The names of all colours, by their number. */
  colorNames(): string
}

/** How tightly an expression binds: what binds less is put in brackets. */
const LOOSE = 0
const AND = 1
const NOT = 2
const COMPARED = 3
const SUM = 4
const PRODUCT = 5
const SIGN = 6
const TIGHT = 7
interface Written { readonly text: string, readonly binds: number }

const FUNCTIONS: Readonly<Record<string, string>> = {
  abs: 'abs', min: 'least', max: 'greatest', clamp: 'clamp', sign: 'sign', sin: 'sine', cos: 'cosine', asin: 'arcsine', acos: 'arccosine', atan2: 'arctangent',
}

/** Python for the expressions of a program; what they mean is that of docs/program-format.md. */
export class Values {
  constructor(private readonly words: Words) {}

  /** A number or a truth, as Python writes it. */
  text(v: Value): string { return this.write(v).text }

  /** The same, to stand behind a comma or within brackets, worked out when it is asked for. */
  later(v: Value): string { return `lambda: ${this.text(v)}` }

  private inside(v: Value, binds: number): string {
    const { text, binds: own } = this.write(v)
    return own < binds ? `(${text})` : text
  }

  private call(name: string, ...given: readonly string[]): Written { return { text: `${name}(${given.join(', ')})`, binds: TIGHT } }

  private write(v: Value): Written {
    const { words } = this
    switch (v.is) {
      case 'number': return this.figure(v)
      case 'truth': return { text: v.value ? 'True' : 'False', binds: TIGHT }
      case 'cell': return { text: words.cell(v.cell), binds: TIGHT }
      case 'reading': return v.most === null ? { text: words.reading(v.name), binds: TIGHT } : this.call('within', words.reading(v.name), float(v.most))
      case 'asked': {
        const asked = this.call('asked', this.text(v.of), tuple(v.among.map(a => `(${float(a.value)}, ${words.reading(a.name)})`)), v.none === 'far' ? 'INF' : '0.0')
        return v.most === null ? asked : this.call('within', asked.text, float(v.most))
      }
      case 'one of many': return { text: `${words.list(v.place.cell)}[${this.place(v.place)}]`, binds: TIGHT }
      case 'how many': return this.call('how_many', words.list(v.cell))
      case 'since': return this.call(`${words.followed(v.cell)}.${v.run ? 'of_run' : 'seconds'}`)
      case 'computed': return this.call(`${v.reading}_of`, words.device(v.device), ...v.given.map(g => this.text(g)))
      case 'run.time': return this.call('run_time')
      case 'mode.time': return this.call('mode_time')
      case 'robot.still': return this.call('as_number', 'now.still')
      case 'minus': return { text: `-${this.inside(v.of, SIGN)}`, binds: SIGN }
      case '+': return { text: `${this.inside(v.left, SUM)} + ${this.inside(v.right, PRODUCT)}`, binds: SUM }
      case '-': return { text: `${this.inside(v.left, SUM)} - ${this.inside(v.right, PRODUCT)}`, binds: SUM }
      case '*': return { text: `${this.inside(v.left, PRODUCT)} * ${this.inside(v.right, SIGN)}`, binds: PRODUCT }
      case '/': return v.right.is === 'number' && v.right.value !== 0
        ? { text: `${this.inside(v.left, PRODUCT)} / ${this.inside(v.right, SIGN)}`, binds: PRODUCT }
        : this.call('divided', this.text(v.left), this.text(v.right), String(words.line(v.step)))
      case 'random': return this.call('random', this.text(v.low), this.text(v.high))
      case 'sqrt': return this.call('root', this.text(v.of), String(words.line(v.step)))
      case 'round': return this.call('stepped', this.text(v.of), float(v.scale))
      case 'one': return this.call('as_number', this.text(v.of))
      case '<': case '>': case '<=': case '>=': return { text: `${this.inside(v.left, SUM)} ${v.is} ${this.inside(v.right, SUM)}`, binds: COMPARED }
      case 'between': return plain(v.high)
        ? { text: `${this.inside(v.low, SUM)} <= ${this.inside(v.value, SUM)} <= ${this.inside(v.high, SUM)}`, binds: COMPARED }
        : this.call('is_between', this.text(v.value), this.text(v.low), this.text(v.high))
      case 'one of': {
        const value = this.inside(v.value, SUM)
        const text = v.options.length === 1 ? `${value} ${v.negated ? '!=' : '=='} ${this.inside(v.options[0]!, SUM)}` : `${value} ${v.negated ? 'not in' : 'in'} (${v.options.map(o => this.text(o)).join(', ')})`
        return { text, binds: COMPARED }
      }
      case 'and': case 'or': {
        // Where all parts have to be worked out, and would not be.
        if (!v.parts.slice(1).every(plain)) return this.call(v.is === 'and' ? 'all_of' : 'any_of', ...v.parts.map(p => this.text(p)))
        const binds = v.is === 'and' ? AND : LOOSE
        return { text: v.parts.map(p => this.inside(p, binds + 1)).join(` ${v.is} `), binds }
      }
      case 'not': if (v.of.is === 'nonzero') return { text: `${this.inside(v.of.of, SUM)} == 0`, binds: COMPARED }
        return { text: `not ${this.inside(v.of, NOT)}`, binds: NOT }
      case 'heard': return this.call('heard', words.signal(v.signal))
      case 'every': return this.call('every', String(words.timer(v.cell)), this.text(v.time))
      case 'for': {
        // Each device's looks are kept behind.
        const k = words.timer(v.cell)
        return this.call('held_for', String(k), this.text(v.test), plain(v.time) ? this.text(v.time) : this.later(v.time), ...v.devices.map(d => words.device(d)))
      }
      case 'nonzero': return { text: `${this.inside(v.of, SUM)} != 0`, binds: COMPARED }
      case 'text': return { text: quoted(v.text), binds: TIGHT }
      case 'joined': return { text: v.parts.length === 0 ? '""' : v.parts.map(p => this.inside(p, SUM)).join(' + '), binds: v.parts.length > 1 ? SUM : TIGHT }
      case 'shown': return this.shown(this.text(v.of), v.as)
      case 'atan': return this.call('arctangent', this.text(v.given[0]!), '1.0')
      default: return this.call(FUNCTIONS[v.is]!, ...v.given.map(g => this.text(g)))
    }
  }

  /** The place of one of a memory's values, from 0. */
  place(p: Place): string {
    return `place(${quoted(p.name)}, ${this.text(p.at)}, ${p.first}, ${p.count}, ${this.words.line(p.step)})`
  }

  private figure(v: Extract<Value, { is: 'number' }>): Written {
    const written = this.words.source.written(v.value, v.range)
    if (written !== null) return { text: `${written.figure} * ${this.words.unit(written.unit)}`, binds: PRODUCT }
    const name = this.words.source.name(v.range)
    if (name !== null && this.words.colors[v.value] === name) return { text: this.words.color(name), binds: TIGHT }
    const text = float(v.value)
    return { text, binds: text.startsWith('-') ? SIGN : TIGHT }
  }

  /** As people read it, the rules of which are in core/program/shown.ts. */
  private shown(x: string, as: ShownAs): Written {
    if (as.type === 'truth') return this.call('yes_or_no', x)
    if (as.type === 'color') return this.call('color_name', x, this.words.colorNames())
    if (as.type !== 'quantity') return { text: '""', binds: TIGHT }
    const never = sameKind(as.kind, KINDS.time) ? [quoted('never')] : []
    const unit = as.unit != null ? findUnit(as.unit) : as.share ? UNITS.find(u => u.name === '%') : sameKind(as.kind, PLAIN) ? undefined : unitsOfKind(as.kind)[0]
    const scale = unit === undefined ? '1.0' : this.words.unit(unit.name)
    if (as.step !== undefined) return this.call('in_steps', x, float(as.step), String(as.decimals ?? 0), scale, quoted(unit === undefined ? '' : ` ${unit.name}`), ...never)
    return unit === undefined ? this.call('plain', x) : this.call('quantity', x, scale, quoted(unit.name), ...never)
  }
}

/** A number with a point: whole numbers of Python's own would grow without end. */
export function float(x: number): string {
  if (x === Infinity) return 'INF'
  if (x === -Infinity) return '-INF'
  const text = String(x)
  return /[.e]/.test(text) ? text : `${text}.0`
}

/** Several values in one; one alone needs its comma. */
export const tuple = (all: readonly string[]): string => `(${all.join(', ')}${all.length === 1 ? ',' : ''})`

export const quoted = (text: string): string => `"${[...text].map((c) => {
  const code = c.codePointAt(0)!
  if (c === '"' || c === '\\') return `\\${c}`
  if (code >= 32 && code < 127) return c
  return code > 0xffff ? `\\U${code.toString(16).padStart(8, '0')}` : `\\u${code.toString(16).padStart(4, '0')}`
}).join('')}"`

/** Whether working it out leaves nothing behind and cannot fail: then it may as well be left out. */
function plain(v: Value): boolean {
  switch (v.is) {
    case 'every': case 'for': case 'random': case '/': case 'sqrt': case 'one of many': return false
    default: return Object.values(v).every(part => Array.isArray(part) ? part.every(p => !isValue(p) || plain(p)) : !isValue(part) || plain(part))
  }
}
const isValue = (part: unknown): part is Value => typeof part === 'object' && part !== null && 'is' in part
