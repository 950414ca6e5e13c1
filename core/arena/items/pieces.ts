import { object } from 'yup'
import { nameText, point } from '../../document'
import { PIECE_SAYS, length, pieceFields, turn } from '../fields'
import { defineItem, writtenPlace } from './item'

export const pieceSchema = object({ name: nameText(), at: point().required(), up: length(0, 3).default(0), turn: turn(), ...pieceFields }).noUnknown()

/** A thing that lies loose or stands fast. */
export const pieces = defineItem({
  list: 'pieces', one: 'piece', most: 200, schema: pieceSchema,
  summary: 'A box or a cylinder, loose or fixed, alone or as a stack.',
  says: { name: 'Its own name; without one, its kind and a number.', at: 'Its middle.', up: 'How high its underside is above the deck.', turn: 'How far it is turned, right positive.', ...PIECE_SAYS },
  fresh: (x, y) => ({ kind: 'piece', shape: 'box', length: '8 cm', width: '8 cm', height: '8 cm', material: 'wood', at: writtenPlace(x, y) }),
})
