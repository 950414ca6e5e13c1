import { object } from 'yup'
import { point } from '../../document'
import { DRAWN_SAYS, color, drawnFields, echo, length } from '../fields'
import { defineItem, writtenPlace } from './item'
import { atan2 } from '../../maths'
import type { Wall } from '../arena'
import { WALL } from '../figure'

export const wallSchema = object({
  from: point().required(), to: point().required(),
  height: length(0.01, 3).default(0.2), thickness: length(0.005, 2).default(0.04), echo: echo().default('rough'), color: color().default('grey'),
  // With an area, `from` and `to` say how long it is and how it lies.
  ...drawnFields,
}).noUnknown()

const FRICTION = 0.6

/** Upright and straight, from one point to another. */
export const walls = defineItem<Wall>({
  list: 'walls', one: 'wall', most: 200, schema: wallSchema,
  summary: 'Stands straight and fast from one point to another.',
  says: { from: 'Where it begins.', to: 'Where it ends.', height: 'How high it is.', thickness: 'How thick it is.', echo: 'What it does to sound.', color: 'Its paint.', ...DRAWN_SAYS },
  fresh: (x, y) => ({ from: writtenPlace(x - 0.25, y), to: writtenPlace(x + 0.25, y) }),
  figures: all => ({
    fixed: all.map(({ from, to, height, thickness, color, echo }, i) => {
      const dx = to[0] - from[0]
      const dy = to[1] - from[1]
      return {
        id: `${WALL}${i}`, shape: { shape: 'box', hx: Math.max(0.001, Math.sqrt(dx * dx + dy * dy) / 2), hy: thickness / 2, hz: height / 2 }, at: [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2],
        middle: height / 2, yaw: atan2(dy, dx), color, tint: color === 'grey' ? 'wall' : `paint-${color}`, friction: FRICTION, echo,
      }
    }),
  }),
})
