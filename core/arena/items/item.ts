import type { ObjectSchema } from 'yup'
import { nameText } from '../../document'
import type { Arena } from '../arena'
import type { Figures } from '../figure'

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
  /** What its things are made of and look like, in the order of their list, where the seed puts them. Left out where there is nothing to see or to bump into, or where layouts make other things of them. */
  figures?(this: void, things: readonly unknown[], arena: Arena): Partial<Figures>
}

/**
 * An item with the schema that says what it is written like, and figures of things as arenas have them once they were read; the list of
 * items knows them as items of any fields. Each may belong to a group.
 */
export function defineItem<Thing>(item: Omit<ArenaItem, 'schema' | 'figures'> & { readonly schema: unknown, readonly figures?: (this: void, things: readonly Thing[], arena: Arena) => Partial<Figures> }): ArenaItem {
  return { ...item as Omit<typeof item, 'figures'> & Pick<ArenaItem, 'figures'>, schema: (item.schema as ObjectSchema<object>).shape({ group: nameText() }), says: { ...item.says, group: 'Things of one group are chosen together.' } }
}

/** A length (metres) as documents write it, to the millimetre. */
export const written = (x: number): string => `${Math.round(x * 1000) / 10} cm`
/** A place (metres) as documents write it. */
export const writtenPlace = (x: number, y: number): WrittenPlace => [written(x), written(y)]
