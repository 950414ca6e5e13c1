import type { Value } from '../../program'
import { COMPARED, SIGN, TIGHT, Values, acts, mayFail, pointed, type Written } from '../values'

/** Names of parts that are worked out one after another; no reading is called so. */
const PART = 'part__'

/** Expressions in C++. */
export class CppValues extends Values {
  protected readonly signs = { and: '&&', or: '||', not: '!', true: 'true', false: 'false', abs: 'fabs', random: 'drawn' }
  protected readonly notBinds = SIGN

  later(v: Value): string { return `[] { return ${this.text(v)}; }` }
  quoted(text: string): string { return `F(${quoted(text)})` }
  float(x: number): string { return float(x) }

  /** A text, written where texts are: as an expression that gives it. */
  said(v: Value): string {
    const parts = v.is === 'joined' ? v.parts : [v]
    const written = parts.filter(p => p.is !== 'text' || p.text !== '').map(p => this.inside(p, TIGHT))
    if (parts.filter(p => acts(p) || mayFail(p)).length < 2) return ['TEXT', ...written].join(' << ')
    // In the order in which they stand.
    return `[]() -> Text& { TEXT; ${written.map(w => `text << ${w};`).join(' ')} return text; }()`
  }

  protected override write(v: Value): Written {
    if (v.is === 'reading' && v.name.startsWith(PART)) return { text: v.name, binds: TIGHT }
    // What is left to the compiler in C++, and is not in a program: which of two parts is worked out first.
    const parts = operandsOf(v)
    if (parts.filter(p => acts(p) || mayFail(p)).length < 2) return super.write(v)
    const whole = super.write(withParts(v, parts.map((_, i) => `${PART}${i}`))).text
    return { text: `[] { ${parts.map((p, i) => `const Number ${PART}${i} = ${this.text(p)};`).join(' ')} return ${whole}; }()`, binds: TIGHT }
  }

  protected asked(v: Extract<Value, { is: 'asked' }>): Written {
    return this.call('asked', this.text(v.of), v.none === 'far' ? 'INFINITY' : '0.0', ...v.among.flatMap(a => [float(a.value), this.words.reading(a.name)]))
  }

  protected between(v: Extract<Value, { is: 'between' }>): Written { return this.call('is_between', this.text(v.value), this.text(v.low), this.text(v.high)) }

  protected among(v: Extract<Value, { is: 'one of' }>): Written {
    const { text } = this.call('among', this.text(v.value), ...v.options.map(o => this.text(o)))
    return { text: v.negated ? `!${text}` : text, binds: v.negated ? SIGN : TIGHT }
  }

  protected all(v: Extract<Value, { is: 'and' | 'or' }>): Written {
    const names = v.parts.map((_, i) => `${PART}${i}`)
    return { text: `[] { ${v.parts.map((p, i) => `const bool ${names[i]!} = ${this.text(p)};`).join(' ')} return ${names.join(` ${this.signs[v.is]} `)}; }()`, binds: TIGHT }
  }

  protected joined(v: Extract<Value, { is: 'joined' }>): Written { return { text: this.said(v), binds: COMPARED } }

  protected named(x: string): Written { return this.call('color_name', x) }

  protected time(v: Value): string { return this.later(v) }
}

/** Parts that stand beside one another, where more than one may do something. */
function operandsOf(v: Value): readonly Value[] {
  switch (v.is) {
    case '+': case '-': case '*': case '/': case '<': case '>': case '<=': case '>=': return [v.left, v.right]
    case 'between': return [v.value, v.low, v.high]
    case 'one of': return [v.value, ...v.options]
    case 'random': return [v.low, v.high]
    case 'computed': return v.given
    default: return 'given' in v ? v.given : []
  }
}

/** The same, of parts that have names. */
function withParts(v: Value, names: readonly string[]): Value {
  const parts = names.map((name): Value => ({ is: 'reading', name, most: null, range: null }))
  switch (v.is) {
    case '+': case '-': case '*': case '/': case '<': case '>': case '<=': case '>=': return { ...v, left: parts[0]!, right: parts[1]! }
    case 'between': return { ...v, value: parts[0]!, low: parts[1]!, high: parts[2]! }
    case 'one of': return { ...v, value: parts[0]!, options: parts.slice(1) }
    case 'random': return { ...v, low: parts[0]!, high: parts[1]! }
    default: return { ...v, given: parts } as Value
  }
}

export function float(x: number): string {
  if (x === Infinity) return 'INFINITY'
  if (x === -Infinity) return '-INFINITY'
  return pointed(x)
}

/** As C++ has it, letters of other scripts as they are. */
export const quoted = (text: string): string => `"${[...text].map((c) => {
  if (c === '"' || c === '\\') return `\\${c}`
  const code = c.codePointAt(0)!
  return code < 32 ? `\\${code.toString(8).padStart(3, '0')}` : c
}).join('')}"`
