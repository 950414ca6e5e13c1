import { object } from 'yup'
import { extent, nameText, point } from '../../document'
import { DRAWN_SAYS, color, drawnFields, length, turn } from '../fields'
import { defineItem, writtenPlace } from './item'

export const crateSchema = object({
  name: nameText().required(), at: point(), size: extent().required(), turn: turn(), ...drawnFields,
  height: length(0.005, 2).default(0.08), wall: length(0.002, 0.1).default(0.01), color: color().default('grey'),
}).noUnknown()

/** A box without a lid. */
export const crates = defineItem({
  list: 'crates', one: 'crate', most: 20, schema: crateSchema,
  summary: 'A box without a lid that stands fast. Goals know it by name, or by its colour.',
  says: { name: 'Its name, for goals.', at: 'Its middle.', size: 'How far it goes east and north.', turn: 'How far it is turned, right positive.', height: 'How high its boards are.', wall: 'How thick they are.', color: 'Its paint.', ...DRAWN_SAYS },
  fresh: (x, y, name) => ({ name, at: writtenPlace(x, y), size: ['24 cm', '24 cm'] }),
})
