import { array, object } from 'yup'
import { extent, nameText, plainNumber, point, quantity } from '../../document'
import { length, pieceFields, seconds, turn } from '../fields'
import { defineItem, writtenPlace } from './item'
import type { Belt } from '../arena'

export const beltSchema = object({
  name: nameText().required(), at: point().required(), size: extent().required(), turn: turn(),
  height: length(0.005, 2).default(0.06), speed: quantity('speed', { min: -1, max: 1 }).default(0.06),
  // A motor of the robot that runs it; without one it always runs.
  motor: nameText(),
  feeder: object({
    first: seconds().default(1), every: quantity('time', { min: 0.2, max: 3600 }).default(8),
    items: array(object({ ...pieceFields, count: plainNumber().integer().min(1).max(50).default(1) }).noUnknown()).min(1).max(12).required(),
  }).noUnknown().default(undefined),
}).noUnknown()

const FRICTION = 1.1

/** Carries what lies on it; a feeder puts things on it in an order that the seed draws. */
export const belts = defineItem<Belt>({
  list: 'belts', one: 'belt', most: 8, schema: beltSchema,
  summary: 'Carries what lies on it along its length. A feeder puts pieces on it, in an order that the seed draws.',
  says: {
    name: 'Its name.', at: 'Its middle.', size: 'How long and how wide it is.', turn: 'How far it is turned, right positive.', height: 'How high its surface is.',
    speed: 'How fast its surface moves; below 0 backwards.', motor: 'The motor of the robot that runs it; without one it always runs.',
    feeder: 'What it is fed: when the first comes, every how long the next, and which pieces, how many of each.',
  },
  fresh: (x, y, name) => ({ name, at: writtenPlace(x, y), size: ['60 cm', '12 cm'] }),
  figures: all => ({
    fixed: all.map(({ name, at, size, turn, height, speed }) => ({
      id: name, shape: { shape: 'box', hx: size[0] / 2, hy: size[1] / 2, hz: height / 2 }, at, middle: height / 2, yaw: -turn,
      color: 'black', tint: 'paint-black', friction: FRICTION, echo: 'rough', runs: speed,
    })),
  }),
})
