import type { ObjectSchema, SchemaDescription, SchemaFieldDescription, SchemaObjectDescription } from 'yup'
import { describeSettings, type SettingSpec } from '~~/core/devices'
import { writeQuantity } from '~/shown/quantities'
import type { Raw } from './things'

/** A field of a thing as the panel shows it: one value, a place or size of two lengths, an area, a truth, points, or parts with fields of their own: one, or a list of like ones. */
export type Field =
  | { readonly form: 'value', readonly spec: SettingSpec }
  | { readonly form: 'pair', readonly name: string, readonly says: string, readonly parts: readonly [string, string] }
  | { readonly form: 'area', readonly name: string, readonly says: string }
  | { readonly form: 'truth', readonly name: string, readonly says: string, readonly usual: boolean }
  | { readonly form: 'points', readonly name: string, readonly says: string }
  | { readonly form: 'part' | 'list', readonly name: string, readonly says: string, readonly fields: readonly Field[], readonly fresh: Raw }

/** What fields of parts do, and a new one of each. */
const PART_SAYS: Readonly<Record<string, string>> = {
  from: 'From when.', to: 'Until when.', at: 'From when.', level: 'How light it is from then on.',
  first: 'When the first comes.', every: 'After how long the next.', items: 'What comes.', count: 'How many of it.', kind: 'What it is called, for goals.',
}
const FRESH_ITEM: Raw = { kind: 'float', shape: 'cylinder', diameter: '5 cm', height: '6 cm', color: 'orange', count: 2 }
const FRESH: Readonly<Record<string, Raw>> = { on: { from: '0 s', to: '10 s' }, changes: { at: '10 s', level: '20 %' }, items: FRESH_ITEM, feeder: { items: [FRESH_ITEM] } }

/** The fields of a schema, in its order, with what each does. */
export function fieldsOf(schema: ObjectSchema<object>, says: Readonly<Record<string, string>>): readonly Field[] {
  const described = (schema.describe() as SchemaObjectDescription).fields
  const simple = new Map(describeSettings(schema, name => says[name] ?? '', writeQuantity).map(s => [s.name, s]))
  /** The schema of a part, or of one of a list of parts. */
  const inner = (name: string): ObjectSchema<object> => {
    const part = (schema.fields as Readonly<Record<string, unknown>>)[name] as ObjectSchema<object> | { readonly innerType: ObjectSchema<object> }
    return 'innerType' in part ? part.innerType : part
  }
  return Object.entries(described).map(([name, field]): Field => {
    const about = says[name] ?? ''
    switch (field.type) {
      case 'place': return { form: 'pair', name, says: about, parts: (field as SchemaDescription).tests.some(t => t.name === 'extent') ? ['east–west', 'south–north'] : ['east', 'north'] }
      case 'boolean': return { form: 'truth', name, says: about, usual: (field as SchemaDescription).default === true }
      case 'array': return innerType(field) === 'place' ? { form: 'points', name, says: about } : partOf('list', name, about, inner(name))
      case 'object': return name === 'area' ? { form: 'area', name, says: about } : partOf('part', name, about, inner(name))
      default: return { form: 'value', spec: simple.get(name)! }
    }
  })
}

/** A field of parts with fields of their own. */
export function partOf(form: 'part' | 'list', name: string, says: string, schema: ObjectSchema<object>): Extract<Field, { form: 'part' | 'list' }> {
  return { form, name, says, fields: fieldsOf(schema, PART_SAYS), fresh: FRESH[name] ?? {} }
}

/** Whether a field fits what is written beside it: of a box no diameter, of a cylinder no length, of a ball no height either. */
export function fits(field: Field, raw: Raw): boolean {
  const name = field.form === 'value' ? field.spec.name : field.name
  const shape = raw['shape']
  if (shape === 'cylinder' || shape === 'disc') return name !== 'length' && !(name === 'width' && shape === 'cylinder') && name !== 'size'
  if (shape === 'ball') return !['length', 'width', 'height', 'stack'].includes(name)
  return shape !== 'box' || name !== 'diameter'
}

/** Another shape needs other measures: what they were is taken as a beginning. `paint`: of a patch, which has a size instead of length and width. */
export function reshape(raw: Raw, paint: boolean): void {
  if (raw['shape'] === 'box' && raw['length'] === undefined && raw['size'] === undefined) {
    const d = raw['diameter'] ?? '10 cm'
    delete raw['diameter']
    Object.assign(raw, paint ? { size: [d, d] } : { length: d, width: d })
  } else if (raw['shape'] !== 'box') {
    raw['diameter'] ??= raw['length'] ?? (raw['size'] as unknown[] | undefined)?.[0] ?? '10 cm'
    delete raw['length']
    delete raw['width']
    delete raw['size']
  }
  if (paint) return
  if (raw['shape'] === 'ball') { delete raw['height']; delete raw['stack'] } else raw['height'] ??= '10 cm'
}

function innerType(field: SchemaFieldDescription): string | undefined { return ((field as { innerType?: SchemaFieldDescription }).innerType)?.type }
