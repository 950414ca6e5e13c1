import type { Value } from '../../program'
import { COMPARED, NOT, SUM, TIGHT, Values, plain, pointed, type Written } from '../values'

/** Expressions in Python. */
export class PythonValues extends Values {
  protected readonly signs = { and: 'and', or: 'or', not: 'not ', true: 'True', false: 'False', abs: 'abs', random: 'random' }
  protected readonly notBinds = NOT

  later(v: Value): string { return `lambda: ${this.text(v)}` }
  quoted(text: string): string { return quoted(text) }
  float(x: number): string { return float(x) }

  protected asked(v: Extract<Value, { is: 'asked' }>): Written {
    return this.call('asked', this.text(v.of), tuple(v.among.map(a => `(${float(a.value)}, ${this.words.reading(a.name)})`)), v.none === 'far' ? 'INF' : '0.0')
  }

  protected between(v: Extract<Value, { is: 'between' }>): Written {
    return plain(v.high)
      ? { text: `${this.inside(v.low, SUM)} <= ${this.inside(v.value, SUM)} <= ${this.inside(v.high, SUM)}`, binds: COMPARED }
      : this.call('is_between', this.text(v.value), this.text(v.low), this.text(v.high))
  }

  protected among(v: Extract<Value, { is: 'one of' }>): Written {
    return { text: `${this.inside(v.value, SUM)} ${v.negated ? 'not in' : 'in'} (${v.options.map(o => this.text(o)).join(', ')})`, binds: COMPARED }
  }

  protected all(v: Extract<Value, { is: 'and' | 'or' }>): Written { return this.call(v.is === 'and' ? 'all_of' : 'any_of', ...v.parts.map(p => this.text(p))) }

  protected joined(v: Extract<Value, { is: 'joined' }>): Written {
    return { text: v.parts.length === 0 ? '""' : v.parts.map(p => this.inside(p, SUM)).join(' + '), binds: v.parts.length > 1 ? SUM : TIGHT }
  }

  protected named(x: string): Written { return this.call('color_name', x, 'COLORS') }

  protected time(v: Value): string { return plain(v) ? this.text(v) : this.later(v) }
}

/** A number with a point: whole numbers of Python's own would grow without end. */
export function float(x: number): string {
  if (x === Infinity) return 'INF'
  if (x === -Infinity) return '-INF'
  return pointed(x)
}

/** Several values in one; one alone needs its comma. */
export const tuple = (all: readonly string[]): string => `(${all.join(', ')}${all.length === 1 ? ',' : ''})`

export const quoted = (text: string): string => `"${[...text].map((c) => {
  const code = c.codePointAt(0)!
  if (c === '"' || c === '\\') return `\\${c}`
  if (code >= 32 && code < 127) return c
  return code > 0xffff ? `\\U${code.toString(16).padStart(8, '0')}` : `\\u${code.toString(16).padStart(4, '0')}`
}).join('')}"`
