import { object } from 'yup'
import { extent, point } from '../../document'
import { turn } from '../fields'
import { defineItem, writtenPlace } from './item'
import type { Arena } from '../arena'
import { GROUND } from '../figure'

export const deckSchema = object({ at: point().required(), size: extent().required(), turn: turn() }).noUnknown()

/** How thick a deck is, and how wide its planks are, metres. */
const THICKNESS = 0.3
const PLANKS = 0.2

/** What stands and rolls, stands and rolls on decks. */
export const decks = defineItem<Arena['decks'][number]>({
  list: 'decks', one: 'deck', most: 50, schema: deckSchema,
  summary: 'A floor above the water or the ground: what leaves it falls. Without any, the whole arena is one.',
  says: { at: 'Its middle.', size: 'How far it goes east and north.', turn: 'How far it is turned, right positive.' },
  fresh: (x, y) => ({ at: writtenPlace(x, y), size: ['80 cm', '60 cm'] }),
  figures: (all, { floor: { color, friction } }) => ({
    floor: all.map(({ at, size, turn }) => ({ shape: 'box', at, size, turn, color })),
    ground: all.map(({ at, size, turn }, i) => ({
      id: `${GROUND}${i}`, shape: { shape: 'box', hx: size[0] / 2, hy: size[1] / 2, hz: THICKNESS / 2 }, at, middle: -THICKNESS / 2, yaw: -turn,
      color, tint: 'deck', friction, echo: 'smooth', seams: PLANKS,
    })),
  }),
})
