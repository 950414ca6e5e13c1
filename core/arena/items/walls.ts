import { object } from 'yup'
import { point } from '../../document'
import { DRAWN_SAYS, color, drawnFields, echo, length } from '../fields'
import { defineItem, writtenPlace } from './item'

export const wallSchema = object({
  from: point().required(), to: point().required(),
  height: length(0.01, 3).default(0.2), thickness: length(0.005, 2).default(0.04), echo: echo().default('rough'), color: color().default('grey'),
  // With an area, `from` and `to` say how long it is and how it lies.
  ...drawnFields,
}).noUnknown()

/** Upright and straight, from one point to another. */
export const walls = defineItem({
  list: 'walls', one: 'wall', most: 200, schema: wallSchema,
  summary: 'Stands straight and fast from one point to another.',
  says: { from: 'Where it begins.', to: 'Where it ends.', height: 'How high it is.', thickness: 'How thick it is.', echo: 'What it does to sound.', color: 'Its paint.', ...DRAWN_SAYS },
  fresh: (x, y) => ({ from: writtenPlace(x - 0.25, y), to: writtenPlace(x + 0.25, y) }),
})
