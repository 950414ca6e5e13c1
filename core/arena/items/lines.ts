import { array, object } from 'yup'
import { nameText, point } from '../../document'
import { color, length } from '../fields'
import { defineItem, writtenPlace } from './item'
import type { Arena } from '../arena'

export const lineSchema = object({
  name: nameText().required(), points: array(point().required()).min(2, 'a line needs two points or more').max(200).required(),
  width: length(0.002, 0.5).default(0.02), color: color().default('black'),
}).noUnknown()

/** A painted line. */
export const lines = defineItem<Arena['lines'][number]>({
  list: 'lines', one: 'line', most: 40, schema: lineSchema,
  summary: 'A painted line from point to point.',
  says: { name: 'Its name, for goals.', points: 'The points that it goes through.', width: 'How wide the paint is.', color: 'Its paint.' },
  fresh: (x, y, name) => ({ name, points: [writtenPlace(x - 0.3, y), writtenPlace(x + 0.3, y)] }),
  figures: all => ({ paint: all.map(({ points, width, color }) => ({ shape: 'way', points, width, color })) }),
})
