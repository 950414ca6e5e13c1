import { array, object } from 'yup'
import { nameText, point } from '../../document'
import { DRAWN_SAYS, areaSchema, length, seconds, share } from '../fields'
import { defineItem, writtenPlace } from './item'
import type { Arena } from '../arena'

export const lampSchema = object({
  name: nameText().required(), at: point(), area: areaSchema.default(undefined), up: length(0, 5).default(0.3), brightness: share(0.5),
  on: array(object({ from: seconds().required(), to: seconds(36000).required() }).noUnknown()).max(40).default([]),
}).noUnknown()

/** A lamp, always on or by a timetable. */
export const lamps = defineItem<Arena['lamps'][number]>({
  list: 'lamps', one: 'lamp', most: 20, schema: lampSchema,
  summary: 'A lamp, always on or by a timetable.',
  says: { name: 'Its name.', at: 'Where it hangs.', area: DRAWN_SAYS.area, up: 'How high it hangs.', brightness: 'How bright it is at half a metre.', on: 'From when to when it is on; without any it always is.' },
  fresh: (x, y, name) => ({ name, at: writtenPlace(x, y) }),
  figures: all => ({ lights: all.map(({ name, at, up, on }) => ({ name, at, up, on })) }),
})
