import { object } from 'yup'
import { turned } from '../../geometry'
import { extent, nameText, point } from '../../document'
import { DRAWN_SAYS, color, drawnFields, length, turn } from '../fields'
import { defineItem, writtenPlace } from './item'
import type { Crate } from '../arena'
import { PART_OF, type SolidFigure } from '../figure'

export const crateSchema = object({
  name: nameText().required(), at: point(), size: extent().required(), turn: turn(), ...drawnFields,
  height: length(0.005, 2).default(0.08), wall: length(0.002, 0.1).default(0.01), color: color().default('grey'),
}).noUnknown()

const FRICTION = 0.6

/** A bottom and four sides. */
function boards({ name, at, size: [long, wide], turn, wall, height, color }: Crate): readonly SolidFigure[] {
  const board = (n: number, x: number, y: number, middle: number, hx: number, hy: number, hz: number): SolidFigure => {
    const place = turned(x, y, turn)
    return {
      id: `${name}${PART_OF}${n}`, shape: { shape: 'box', hx, hy, hz }, at: [at[0] + place.x, at[1] + place.y], middle, yaw: -turn,
      color, tint: `paint-${color}`, friction: FRICTION, echo: 'rough', hollow: n === 0,
    }
  }
  return [
    board(0, 0, 0, wall / 2, long / 2, wide / 2, wall / 2),
    board(1, (long - wall) / 2, 0, height / 2, wall / 2, wide / 2, height / 2),
    board(2, (wall - long) / 2, 0, height / 2, wall / 2, wide / 2, height / 2),
    board(3, 0, (wide - wall) / 2, height / 2, long / 2 - wall, wall / 2, height / 2),
    board(4, 0, (wall - wide) / 2, height / 2, long / 2 - wall, wall / 2, height / 2),
  ]
}

/** A box without a lid. */
export const crates = defineItem<Crate>({
  list: 'crates', one: 'crate', most: 20, schema: crateSchema,
  summary: 'A box without a lid that stands fast. Goals know it by name, or by its colour.',
  says: { name: 'Its name, for goals.', at: 'Its middle.', size: 'How far it goes east and north.', turn: 'How far it is turned, right positive.', height: 'How high its boards are.', wall: 'How thick they are.', color: 'Its paint.', ...DRAWN_SAYS },
  fresh: (x, y, name) => ({ name, at: writtenPlace(x, y), size: ['24 cm', '24 cm'] }),
  figures: all => ({ fixed: all.flatMap(boards) }),
})
