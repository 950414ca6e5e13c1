import { boolean, mixed, number, string, ValidationError, type Schema } from 'yup'
import { formatQuantity, kindName, kindOf, readQuantity, UNITS, sameKind, type KindName } from '../units'

/** One thing that is wrong with a document: where, what stands there, what is allowed. */
export interface Problem {
  readonly path: string
  readonly value: string
  readonly message: string
}

/**
 * A schema by what it reads, and by nothing else of it. Functions that take schemas ask for this: to hold all of one schema's type against
 * another's takes the compiler up to two seconds each time.
 */
export interface Reads<T> { readonly __outputType: T }
/** What a schema's documents are once they are read. */
export type ReadBy<S extends Reads<unknown>> = S['__outputType']

export type Read<T> =
  | { readonly ok: true, readonly value: T }
  | { readonly ok: false, readonly problems: readonly Problem[] }

/**
 * A quantity as documents write it ("12 cm"), read into SI units. Limits are in SI units
 * too and named in the unit that the reader used.
 */
export function quantity(kind: KindName, limits: { readonly min?: number, readonly max?: number } = {}) {
  return mixed<number>({ type: kindName(kindOf(kind)), check: (v): v is number => typeof v === 'number' && Number.isFinite(v) })
    .transform((_value: unknown, original: unknown) => {
      if (typeof original !== 'string') return original === undefined ? undefined : Number.NaN
      const read = readQuantity(original, kindOf(kind))
      return read.ok ? read.value : Number.NaN
    })
    .meta({ quantity: kind, ...limits })
    .test({
      name: 'quantity',
      skipAbsent: true,
      test(value, context) {
        // What was written was read by the transform above; a default is a number from the start.
        const original = (context as { originalValue?: unknown }).originalValue
        const read = typeof original === 'string' ? readQuantity(original, kindOf(kind)) : null
        const { min, max } = limits
        if ((min !== undefined && value! < min) || (max !== undefined && value! > max)) {
          const unit = (read?.ok === true ? read.unit : undefined) ?? UNITS.find(u => sameKind(u.kind, kindOf(kind)) && u.name !== '%')
          const show = (x: number) => unit === undefined ? String(x) : formatQuantity(x, unit)
          const bounds = min !== undefined && max !== undefined ? `from ${show(min)} to ${show(max)}`
            : min !== undefined ? `${show(min)} or more` : `${show(max!)} or less`
          return context.createError({ message: `allowed is ${bounds}` })
        }
        return true
      },
    })
    .typeError(({ originalValue }: { originalValue?: unknown }) => {
      if (typeof originalValue === 'string') {
        const read = readQuantity(originalValue, kindOf(kind))
        if (!read.ok) return read.reason
      }
      const example = UNITS.find(u => sameKind(u.kind, kindOf(kind)))?.name ?? ''
      return `expected a quantity (${kind}) with its unit in quotes, such as "12 ${example}"`
    })
}

/** A place on the plan: two lengths, east and north. */
export function point() {
  return mixed<readonly [number, number]>({
    type: 'place',
    check: (v): v is readonly [number, number] => Array.isArray(v) && v.length === 2 && v.every(x => typeof x === 'number' && Math.abs(x) <= 100),
  }).transform((_v: unknown, original: unknown) => {
    if (!Array.isArray(original) || original.length !== 2) return original
    return original.map(x => {
      const read = typeof x === 'string' ? readQuantity(x, kindOf('length')) : null
      return read?.ok === true ? read.value : Number.NaN
    })
  }).typeError('expected a place as two lengths within 100 m, such as ["1.2 m", "80 cm"]')
}

/** How large something is on the plan: two lengths above zero. */
export function extent() {
  return point().test({
    name: 'extent', skipAbsent: true, message: 'expected a size: two lengths above 0, such as ["40 cm", "30 cm"]',
    test: value => !(Array.isArray(value) && value.some(x => !(x > 0))),
  })
}

/** Text as it stands: a number is no text. (Yup would turn one into the other; its strict mode would lose defaults.) */
export function text() {
  return string().transform((_v: unknown, original: unknown) => original as string).typeError('expected a text in quotes')
}

/** A plain number as it stands. */
export function plainNumber() {
  return number().transform((_v: unknown, original: unknown) => original as number).typeError('expected a plain number without quotes')
}

/** true or false as it stands. */
export function truth() {
  return boolean().transform((_v: unknown, original: unknown) => original as boolean).typeError('expected true or false')
}

/** A name that programs and documents use: a letter, then letters, digits and underscores. */
export function nameText() {
  return text().matches(/^[A-Za-z][A-Za-z0-9_]{0,31}$/, 'expected a name of letters, digits and _, beginning with a letter, at most 32 long')
}

/** Free text in a document. */
export function documentText(longest = 200) {
  return text().max(longest, `expected at most ${longest} characters`)
}

/** How deep documents may nest, and how many values they may hold: far more than any that people write. */
const DEEPEST = 24
const MOST_VALUES = 200_000

/** What no document may hold, whatever its schema: nesting without end, and names that JavaScript keeps for itself. null when all is well. */
function strange(value: unknown): Problem | null {
  const open: { readonly at: unknown, readonly path: string, readonly depth: number }[] = [{ at: value, path: '', depth: 0 }]
  for (let seen = 0, next = open.pop(); next !== undefined; next = open.pop()) {
    const { at, path, depth } = next
    if (++seen > MOST_VALUES) return { path: 'the document', value: `more than ${MOST_VALUES} values`, message: `allowed are up to ${MOST_VALUES}` }
    if (typeof at !== 'object' || at === null) continue
    if (depth > DEEPEST) return { path: path.slice(0, 60), value: `nested ${depth} deep and deeper`, message: `allowed is up to ${DEEPEST} deep` }
    for (const [key, part] of Object.entries(at)) {
      const where = Array.isArray(at) ? `${path}[${key}]` : path === '' ? key : `${path}.${key}`
      if (!Array.isArray(at) && key in Object.prototype) return { path: path === '' ? 'the document' : path, value: JSON.stringify(key), message: 'this word is reserved and names no field; choose another' }
      open.push({ at: part, path: where, depth: depth + 1 })
    }
  }
  return null
}

/** Checks a value, any JSON, against a schema. All problems at once, each with its path. */
export function readDocument<T>(schema: Schema, value: unknown): Read<T> {
  const foreign = strange(value)
  if (foreign !== null) return { ok: false, problems: [foreign] }
  try {
    return { ok: true, value: schema.validateSync(value, { abortEarly: false, stripUnknown: false }) as T }
  } catch (error) {
    if (!(error instanceof ValidationError)) throw error
    const inner = error.inner.length > 0 ? error.inner : [error]
    const problems = inner.map(e => ({
      path: e.path === undefined || e.path === '' ? 'the document' : e.path.replaceAll(/\["([^"]*)"\]/g, '.$1'),
      value: shown(e.params?.['originalValue'] ?? e.value),
      message: plainly(e.message),
    }))
    const seen = new Set<string>()
    return { ok: false, problems: problems.filter(p => !seen.has(`${p.path} ${p.message}`) && seen.add(`${p.path} ${p.message}`)) }
  }
}

const EXPECTED: Readonly<Record<string, string>> = { object: 'fields in braces', array: 'a list in square brackets', string: 'a text in quotes', number: 'a plain number', boolean: 'true or false' }

/** The schema library's own sentences, said as ours are. */
function plainly(message: string): string {
  return message
    .replace(/^.*? is a required field$/, 'is missing')
    .replace(/^.*? field has unspecified keys: (.*)$/, 'does not know $1')
    .replace(/^.*? cannot be null$/s, 'stands empty (null); expected a value, or that it is left out')
    .replace(/^.*? must be an? `(\w+)` type[\s\S]*$/, (_all, type: string) => `expected ${EXPECTED[type] ?? `a ${type}`}`)
    .replace(/^.*? must be at most (\d+) characters$/, 'expected at most $1 characters')
    .replace(/^.*? field must have less than or equal to (\d+) items$/, 'allowed are up to $1')
    .replace(/^.*? must be (greater|less) than or equal to (\S+)$/, (_all, which: string, bound: string) => `allowed is ${bound} or ${which === 'greater' ? 'more' : 'less'}`)
    .replace(/^.*? must be an integer$/, 'expected a whole number')
}

/** Reads a part of a document whose schema depends on another part; problems get the part's path. null when there are any. */
export function readPart<T>(schema: Schema, value: unknown, path: string, problems: Problem[]): T | null {
  const read = readDocument<T>(schema, value ?? {})
  if (read.ok) return read.value
  for (const p of read.problems) problems.push({ ...p, path: p.path === 'the document' ? path : `${path}.${p.path}` })
  return null
}

function shown(value: unknown): string {
  const text = typeof value === 'number' && Number.isNaN(value) ? 'no number' : JSON.stringify(value) ?? 'nothing'
  return text.length > 60 ? `${text.slice(0, 57)}...` : text
}
