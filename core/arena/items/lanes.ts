import { object } from 'yup'
import { nameText, plainNumber, point, quantity, text } from '../../document'
import { color, echo, length } from '../fields'
import { defineItem, writtenPlace } from './item'

export const SIDES = ['west', 'east', 'south', 'north'] as const
export type Side = (typeof SIDES)[number]

const side = (usual: Side) => text().oneOf([...SIDES], `allowed is one of ${SIDES.join(', ')}`).default(usual)
/** Lanes a side, at least and at most. */
const cells = () => plainNumber().integer().min(1).max(12)

export const lanesSchema = object({
  'name': nameText().required(), 'at': point().required(),
  'columns': cells().default(4), 'rows': cells().default(3),
  'width': length(0.15, 3).default(0.45),
  'height': length(0.01, 3).default(0.2), 'thickness': length(0.005, 0.5).default(0.03), 'echo': echo().default('rough'), 'color': color().default('grey'),
  'way in': side('west'), 'way out': side('east'),
  'open': quantity('number', { min: 0, max: 1 }).default(0),
  'exit': nameText().default('exit'),
}).noUnknown()

/** Walled lanes that the seed draws. */
export const lanes = defineItem({
  list: 'lanes', one: 'walled lanes', most: 4, schema: lanesSchema,
  summary: 'Walled lanes, drawn by the seed, with one way in and one way out.',
  says: {
    'name': 'Its name; a start may lie before it.', 'at': 'Its middle.', 'columns': 'How many lanes lie side by side, west to east.', 'rows': 'How many lie side by side, south to north.',
    'width': 'How wide a lane is between its walls.', 'height': 'How high the walls are.', 'thickness': 'How thick they are.', 'echo': 'What they do to sound.', 'color': 'Their paint.',
    'way in': 'The side of the way in; the seed draws where on it.', 'way out': 'The side of the way out; the seed draws where on it.',
    'open': 'Share of the inner walls that are left out, so that there are ways round.', 'exit': 'Name of the marked area behind the way out, for goals.',
  },
  // Each has a way out of its own.
  fresh: (x, y, name) => ({ name, at: writtenPlace(x, y), columns: 3, rows: 2, exit: `${name}_exit` }),
})
