import { KINDS, PLAIN, UNITS, findUnit, sameKind, unitsOfKind } from '../units'
import type { Place, ShownAs, Value } from '../program'
import type { Source } from './source'

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
  /** Says that the names of all colours are needed, by their number. */
  colorNames(): void
}

/** How tightly an expression binds: what binds less is put in brackets. */
export const LOOSE = 0
export const AND = 1
export const NOT = 2
export const COMPARED = 3
export const SUM = 4
export const PRODUCT = 5
export const SIGN = 6
export const TIGHT = 7
export interface Written { readonly text: string, readonly binds: number }

const FUNCTIONS: Readonly<Record<string, string>> = {
  min: 'least', max: 'greatest', clamp: 'clamp', sign: 'sign', sin: 'sine', cos: 'cosine', asin: 'arcsine', acos: 'arccosine', atan2: 'arctangent',
}

/** The expressions of a program in a language whose sums are written as most are; what they mean is that of docs/program-format.md. */
export abstract class Values {
  constructor(protected readonly words: Words) {}

  /** A number, a truth or a text. */
  text(v: Value): string { return this.write(v).text }

  /** The same, to stand behind a comma or within brackets, worked out when it is asked for. */
  abstract later(v: Value): string

  /** The place of one of a memory's values, from 0. */
  place(p: Place): string { return `place(${this.quoted(p.name)}, ${this.text(p.at)}, ${p.first}, ${p.count}, ${this.words.line(p.step)})` }

  abstract quoted(text: string): string
  abstract float(x: number): string
  protected abstract readonly signs: { readonly and: string, readonly or: string, readonly not: string, readonly true: string, readonly false: string, readonly abs: string, readonly random: string }
  /** `!` binds before a comparison in some languages, behind it in others. */
  protected abstract readonly notBinds: number
  protected abstract among(v: Extract<Value, { is: 'one of' }>): Written
  protected abstract asked(v: Extract<Value, { is: 'asked' }>): Written
  /** All parts are worked out, though one of the first would do. */
  protected abstract all(v: Extract<Value, { is: 'and' | 'or' }>): Written
  protected abstract between(v: Extract<Value, { is: 'between' }>): Written
  protected abstract joined(v: Extract<Value, { is: 'joined' }>): Written
  protected abstract named(x: string): Written
  /** `held_for` with its time: worked out only where it is come to. */
  protected abstract time(v: Value): string

  protected inside(v: Value, binds: number): string {
    const { text, binds: own } = this.write(v)
    return own < binds ? `(${text})` : text
  }

  protected call(name: string, ...given: readonly string[]): Written { return { text: `${name}(${given.join(', ')})`, binds: TIGHT } }

  protected write(v: Value): Written {
    const { words, signs } = this
    switch (v.is) {
      case 'number': return this.figure(v)
      case 'truth': return { text: v.value ? signs.true : signs.false, binds: TIGHT }
      case 'cell': return { text: words.cell(v.cell), binds: TIGHT }
      case 'reading': return v.most === null ? { text: words.reading(v.name), binds: TIGHT } : this.call('within', words.reading(v.name), this.float(v.most))
      case 'asked': return v.most === null ? this.asked(v) : this.call('within', this.asked(v).text, this.float(v.most))
      case 'one of many': return { text: `${words.list(v.place.cell)}[${this.place(v.place)}]`, binds: TIGHT }
      case 'how many': return this.call('how_many', words.list(v.cell))
      case 'since': return this.call(`${words.followed(v.cell)}.${v.run ? 'of_run' : 'seconds'}`)
      case 'computed': return this.call(`${v.reading}_of`, words.device(v.device), ...v.given.map(g => this.text(g)))
      case 'run.time': return this.call('run_time')
      case 'mode.time': return this.call('mode_time')
      case 'robot.still': return this.call('as_number', 'now.still')
      case 'minus': return { text: `-${this.inside(v.of, TIGHT)}`, binds: SIGN }
      case '+': return { text: `${this.inside(v.left, SUM)} + ${this.inside(v.right, PRODUCT)}`, binds: SUM }
      case '-': return { text: `${this.inside(v.left, SUM)} - ${this.inside(v.right, PRODUCT)}`, binds: SUM }
      case '*': return { text: `${this.inside(v.left, PRODUCT)} * ${this.inside(v.right, SIGN)}`, binds: PRODUCT }
      case '/': return v.right.is === 'number' && v.right.value !== 0
        ? { text: `${this.inside(v.left, PRODUCT)} / ${this.inside(v.right, SIGN)}`, binds: PRODUCT }
        : this.call('divided', this.text(v.left), this.text(v.right), String(words.line(v.step)))
      case 'random': return this.call(signs.random, this.text(v.low), this.text(v.high))
      case 'sqrt': return this.call('root', this.text(v.of), String(words.line(v.step)))
      case 'round': return this.call('stepped', this.text(v.of), this.float(v.scale))
      case 'one': return this.call('as_number', this.text(v.of))
      case '<': case '>': case '<=': case '>=': return { text: `${this.inside(v.left, SUM)} ${v.is} ${this.inside(v.right, SUM)}`, binds: COMPARED }
      case 'between': return this.between(v)
      case 'one of': return v.options.length === 1 ? { text: `${this.inside(v.value, SUM)} ${v.negated ? '!=' : '=='} ${this.inside(v.options[0]!, SUM)}`, binds: COMPARED } : this.among(v)
      case 'and': case 'or': {
        // Where all parts have to be worked out, and would not be.
        if (!v.parts.slice(1).every(plain)) return this.all(v)
        const binds = v.is === 'and' ? AND : LOOSE
        // What is mixed of both is put in brackets, though some languages know which comes first.
        return { text: v.parts.map(p => this.inside(p, NOT)).join(` ${signs[v.is]} `), binds }
      }
      case 'not': return v.of.is === 'nonzero' ? { text: `${this.inside(v.of.of, SUM)} == 0`, binds: COMPARED } : { text: `${signs.not}${this.inside(v.of, this.notBinds)}`, binds: this.notBinds }
      case 'heard': return this.call('heard', words.signal(v.signal))
      case 'every': return this.call('every', String(words.timer(v.cell)), this.text(v.time))
      case 'for': {
        // Each device's looks are kept behind.
        const k = words.timer(v.cell)
        return this.call('held_for', String(k), this.text(v.test), this.time(v.time), ...v.devices.map(d => words.device(d)))
      }
      case 'nonzero': return { text: `${this.inside(v.of, SUM)} != 0`, binds: COMPARED }
      case 'text': return { text: this.quoted(v.text), binds: TIGHT }
      case 'joined': return this.joined(v)
      case 'shown': return this.shown(this.text(v.of), v.as)
      case 'atan': return this.call('arctangent', this.text(v.given[0]!), '1.0')
      case 'abs': return this.call(signs.abs, this.text(v.given[0]!))
      default: return this.call(FUNCTIONS[v.is]!, ...v.given.map(g => this.text(g)))
    }
  }

  private figure(v: Extract<Value, { is: 'number' }>): Written {
    const written = this.words.source.written(v.value, v.range)
    if (written !== null) return { text: `${written.figure} * ${this.words.unit(written.unit)}`, binds: PRODUCT }
    const name = this.words.source.name(v.range)
    if (name !== null && this.words.colors[v.value] === name) return { text: this.words.color(name), binds: TIGHT }
    const text = this.float(v.value)
    return { text, binds: text.startsWith('-') ? SIGN : TIGHT }
  }

  /** As people read it, the rules of which are in core/program/shown.ts. */
  private shown(x: string, as: ShownAs): Written {
    if (as.type === 'truth') return this.call('yes_or_no', x)
    if (as.type === 'color') { this.words.colorNames(); return this.named(x) }
    if (as.type !== 'quantity') return { text: this.quoted(''), binds: TIGHT }
    const never = sameKind(as.kind, KINDS.time) ? [this.quoted('never')] : []
    const unit = as.unit != null ? findUnit(as.unit) : as.share ? UNITS.find(u => u.name === '%') : sameKind(as.kind, PLAIN) ? undefined : unitsOfKind(as.kind)[0]
    const scale = unit === undefined ? '1.0' : this.words.unit(unit.name)
    if (as.step !== undefined) return this.call('in_steps', x, this.float(as.step), String(as.decimals ?? 0), scale, this.quoted(unit === undefined ? '' : ` ${unit.name}`), ...never)
    return unit === undefined ? this.call('plain', x) : this.call('quantity', x, scale, this.quoted(unit.name), ...never)
  }
}

/** Whether working it out leaves nothing behind and cannot fail: then it may as well be left out. */
export const plain = (v: Value): boolean => !acts(v) && !mayFail(v)

/** Whether working it out leaves something behind, so that the order in which it is done counts. */
export const acts = (v: Value): boolean => has(v, part => part.is === 'every' || part.is === 'for' || part.is === 'random')

/** Whether it may stop a lane with an error. */
export const mayFail = (v: Value): boolean => has(v, part => part.is === 'sqrt' || part.is === 'one of many' || (part.is === '/' && !(part.right.is === 'number' && part.right.value !== 0)))

function has(v: Value, what: (part: Value) => boolean): boolean {
  return what(v) || Object.values(v).some(part => Array.isArray(part) ? part.some(p => isValue(p) && has(p, what)) : isPlace(part) ? has(part.at, what) : isValue(part) && has(part, what))
}
const isValue = (part: unknown): part is Value => typeof part === 'object' && part !== null && 'is' in part
const isPlace = (part: unknown): part is Place => typeof part === 'object' && part !== null && 'at' in part && !('is' in part)

/** A number as most languages write one that need not be whole. */
export function pointed(x: number): string {
  const text = String(x)
  return /[.e]/.test(text) ? text : `${text}.0`
}
