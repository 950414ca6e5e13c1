import { object } from 'yup'
import { extent, point, text } from '../../document'
import { color, length, turn } from '../fields'
import { defineItem, writtenPlace } from './item'
import type { Arena } from '../arena'

export const patchSchema = object({
  shape: text().oneOf(['box', 'disc'], 'allowed is box or disc').required(),
  at: point().required(), size: extent(), diameter: length(0.005, 20), turn: turn(), color: color().required(),
}).noUnknown()

/** Paint on the floor. */
export const patches = defineItem<Arena['patches'][number]>({
  list: 'patches', one: 'patch', most: 200, schema: patchSchema,
  summary: 'Painted floor, a box or a disc. Goals know it by its colour.',
  says: { shape: 'A box or a disc.', at: 'Its middle.', size: 'Of a box: how far it goes east and north.', diameter: 'Of a disc.', turn: 'How far it is turned, right positive.', color: 'Its paint.' },
  fresh: (x, y) => ({ shape: 'box', at: writtenPlace(x, y), size: ['30 cm', '30 cm'], color: 'yellow' }),
  figures: all => ({ paint: all.map(({ shape, at, size, turn, color }) => shape === 'disc' ? { shape, at, radius: size[0] / 2, color } : { shape, at, size, turn, color }) }),
})
