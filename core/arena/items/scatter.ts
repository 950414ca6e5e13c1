import { object } from 'yup'
import { plainNumber } from '../../document'
import { PIECE_SAYS, areaSchema, length, pieceFields } from '../fields'
import { defineItem, writtenPlace } from './item'

export const scatterSchema = object({
  ...pieceFields, count: plainNumber().integer().min(1).max(200).required(),
  area: areaSchema.required(), apart: length(0, 5).default(0.1), clear: length(0, 5).default(0.3),
}).noUnknown()

/** Pieces of a kind that the seed puts about an area. */
export const scatter = defineItem({
  list: 'scatter', one: 'scatter area', most: 20, schema: scatterSchema,
  summary: 'Pieces that the seed puts about an area.',
  says: { ...PIECE_SAYS, count: 'How many there are.', area: 'Where their middles are drawn from.', apart: 'How far they keep from one another and from what stands there.', clear: 'How far they keep from the robot\'s start.' },
  fresh: (x, y) => ({ kind: 'piece', shape: 'cylinder', diameter: '8 cm', height: '10 cm', material: 'wood', count: 5, area: { at: writtenPlace(x, y), size: ['80 cm', '60 cm'] } }),
})
