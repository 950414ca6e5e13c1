import { object } from 'yup'
import { extent, nameText, point } from '../../document'
import { DRAWN_SAYS, areaSchema } from '../fields'
import { defineItem, writtenPlace } from './item'
import type { Arena } from '../arena'

export const markedSchema = object({ name: nameText().required(), at: point(), size: extent().required(), area: areaSchema.default(undefined) }).noUnknown()

/** A marked area, for goals: the robot sees nothing of it. */
export const areas = defineItem<Arena['areas'][number]>({
  list: 'areas', one: 'area', most: 40, schema: markedSchema,
  summary: 'A marked area for goals. It looks like nothing.',
  says: { name: 'Its name, for goals.', at: 'Its middle.', size: 'How far it goes east and north.', area: DRAWN_SAYS.area },
  fresh: (x, y, name) => ({ name, at: writtenPlace(x, y), size: ['40 cm', '40 cm'] }),
  figures: all => ({ marks: all.map(({ name, at, size }) => ({ name, at, size })) }),
})
