import { object } from 'yup'
import { nameText, point, quantity } from '../../document'
import { seconds, share } from '../fields'
import { defineItem, writtenPlace } from './item'

export const noiseSchema = object({
  name: nameText(), at: point().required(), first: seconds().default(0), every: quantity('time', { min: 0.1, max: 3600 }),
  lasts: quantity('time', { min: 0.02, max: 3600 }).default(0.2), loudness: share(0.7),
}).noUnknown()

/** A sound from a place, once or again and again. */
export const noises = defineItem({
  list: 'noises', one: 'noise', most: 40, schema: noiseSchema,
  summary: 'A sound from a place, once or again and again.',
  says: { name: 'Its name.', at: 'Where it comes from.', first: 'When it is heard first.', every: 'How long from one to the next; without it, it is heard once.', lasts: 'How long it lasts.', loudness: 'How loud it is at half a metre.' },
  fresh: (x, y) => ({ at: writtenPlace(x, y), every: '10 s' }),
})
