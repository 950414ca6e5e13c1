import type { ObjectSchema } from 'yup'
import { nameText } from '../../document'

/** A place as documents write it. */
export type WrittenPlace = readonly [string, string]

/** A kind of thing that stands in an arena: its list in the document, its fields, and what they do. A new one is a file and a line in the list. */
export interface ArenaItem {
  /** The list of the document in which they stand. */
  readonly list: string
  /** What one of them is called. */
  readonly one: string
  /** What it is for, a line. */
  readonly summary: string
  /** How many an arena may have. */
  readonly most: number
  readonly schema: ObjectSchema<object>
  /** What each field does, by its name. */
  readonly says: Readonly<Record<string, string>>
  /** A new one around a place (metres), as documents write it; `name` is one that nobody has. */
  fresh(x: number, y: number, name: string): Readonly<Record<string, unknown>>
}

/** An item with the schema that says what it is written like; the list of items knows them as items of any fields. Each may belong to a group. */
export function defineItem(item: Omit<ArenaItem, 'schema'> & { readonly schema: unknown }): ArenaItem {
  return { ...item, schema: (item.schema as ObjectSchema<object>).shape({ group: nameText() }), says: { ...item.says, group: 'Things of one group are chosen together.' } }
}

/** A length (metres) as documents write it, to the millimetre. */
export const written = (x: number): string => `${Math.round(x * 1000) / 10} cm`
/** A place (metres) as documents write it. */
export const writtenPlace = (x: number, y: number): WrittenPlace => [written(x), written(y)]
