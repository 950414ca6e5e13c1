import type { SchemaDescription, SchemaFieldDescription, SchemaObjectDescription } from 'yup'
import type { ObjectSchema } from 'yup'
import { describeSettings, type SettingSpec } from '~~/core/devices'
import { writeQuantity } from '~/shown/quantities'

/** A field of a thing as the panel shows it: one value, a place or size of two lengths, an area, a truth, or a list that is written as the document has it. */
export type Field =
  | { readonly form: 'value', readonly spec: SettingSpec }
  | { readonly form: 'pair', readonly name: string, readonly says: string, readonly parts: readonly [string, string] }
  | { readonly form: 'area', readonly name: string, readonly says: string }
  | { readonly form: 'truth', readonly name: string, readonly says: string, readonly usual: boolean }
  | { readonly form: 'points', readonly name: string, readonly says: string }
  | { readonly form: 'json', readonly name: string, readonly says: string }

/** The fields of a schema, in its order, with what each does. */
export function fieldsOf(schema: ObjectSchema<object>, says: Readonly<Record<string, string>>): readonly Field[] {
  const described = (schema.describe() as SchemaObjectDescription).fields
  const simple = new Map(describeSettings(schema, name => says[name] ?? '', writeQuantity).map(s => [s.name, s]))
  return Object.entries(described).map(([name, field]): Field => {
    const about = says[name] ?? ''
    switch (field.type) {
      case 'place': return { form: 'pair', name, says: about, parts: (field as SchemaDescription).tests.some(t => t.name === 'extent') ? ['east–west', 'south–north'] : ['east', 'north'] }
      case 'boolean': return { form: 'truth', name, says: about, usual: (field as SchemaDescription).default === true }
      case 'array': return { form: innerType(field) === 'place' ? 'points' : 'json', name, says: about }
      case 'object': return name === 'area' ? { form: 'area', name, says: about } : { form: 'json', name, says: about }
      default: return { form: 'value', spec: simple.get(name)! }
    }
  })
}

function innerType(field: SchemaFieldDescription): string | undefined { return ((field as { innerType?: SchemaFieldDescription }).innerType)?.type }
