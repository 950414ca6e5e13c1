import { object } from 'yup'
import { extent, point } from '../../document'
import { turn } from '../fields'
import { defineItem, writtenPlace } from './item'

export const deckSchema = object({ at: point().required(), size: extent().required(), turn: turn() }).noUnknown()

/** What stands and rolls, stands and rolls on decks. */
export const decks = defineItem({
  list: 'decks', one: 'deck', most: 50, schema: deckSchema,
  summary: 'A floor above the water or the ground: what leaves it falls. Without any, the whole arena is one.',
  says: { at: 'Its middle.', size: 'How far it goes east and north.', turn: 'How far it is turned, right positive.' },
  fresh: (x, y) => ({ at: writtenPlace(x, y), size: ['80 cm', '60 cm'] }),
})
