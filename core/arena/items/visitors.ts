import { array, object } from 'yup'
import { nameText, point, quantity, truth } from '../../document'
import { color, echo, length, seconds } from '../fields'
import { defineItem, writtenPlace } from './item'
import type { Visitor } from '../arena'

export const visitorSchema = object({
  name: nameText().required(), kind: nameText().default('visitor'), path: array(point().required()).min(2, 'a path needs two points or more').max(60).required(),
  speed: quantity('speed', { min: 0.005, max: 2 }).default(0.2), diameter: length(0.02, 1).default(0.12), height: length(0.02, 2).default(0.3),
  color: color().default('blue'), echo: echo().default('rough'), begins: seconds().default(0), returns: truth().default(true),
}).noUnknown()

const FRICTION = 0.5

/** Somebody who walks a path and yields to nothing. */
export const visitors = defineItem<Visitor>({
  list: 'visitors', one: 'visitor', most: 10, schema: visitorSchema,
  summary: 'Somebody who walks a path and yields to nothing.',
  says: {
    name: 'Its name.', kind: 'What it is called together with its like, for goals.', path: 'The points that it walks through.', speed: 'How fast it walks.', diameter: 'How wide it is.', height: 'How high it is.',
    color: 'Its paint.', echo: 'What it does to sound.', begins: 'When it sets out.', returns: 'Whether it walks back and forth for ever; else it stays at the end.',
  },
  fresh: (x, y, name) => ({ name, path: [writtenPlace(x - 0.3, y), writtenPlace(x + 0.3, y)] }),
  figures: all => ({
    walking: all.map(({ name, kind, path, diameter, height, color, echo }) => ({
      id: name, kind, shape: { shape: 'cylinder', radius: diameter / 2, hz: height / 2 }, at: path[0]!, middle: height / 2, yaw: 0, color, tint: `paint-${color}`, friction: FRICTION, echo,
    })),
  }),
})
