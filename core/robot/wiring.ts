import { array, lazy, mixed, object, type ObjectSchema } from 'yup'
import { nameText, plainNumber, text } from '../document'

/** How what is on a port is connected to a board. */
export interface PortWiring {
  /** Which of the ways that its device may be connected in, by its name. */
  readonly by: string
  /** The board's pin of each of its lines, by their names. */
  readonly pins: Readonly<Record<string, string>>
  /** The board's bus, and the part's address on it, where it is on one. */
  readonly bus?: string
  readonly address?: number
  /** Two resistors, kΩ, that bring a line's voltage down to what the board takes: from the line to the pin, and from the pin to ground. */
  readonly divider?: readonly [number, number]
  /** Of a voltage: what it means, by points, volts rising; in between it is straight. As documents write readings (`"12 cm"`). */
  readonly curve?: readonly { readonly volts: number, readonly reads: string }[]
  /** Of a motor's encoder, where that moves something between two ends: how many edges it counts from the one to the other. */
  readonly counts?: number
}

/** How a robot is connected to a board, port by port. */
export interface Wiring {
  readonly board: string
  readonly ports: Readonly<Record<string, PortWiring>>
  /** The document of a board of one's own, so that it travels with the robot; `core/hardware` reads it. */
  readonly 'own board'?: unknown
}

const names = (value: unknown): readonly string[] => typeof value === 'object' && value !== null ? Object.keys(value) : []
const rising = (points: unknown): boolean => !Array.isArray(points) || points.every((p: { volts?: unknown }, i) => i === 0 || Number(p.volts) > Number((points[i - 1] as { volts?: unknown }).volts))

const portSchema = object({
  by: text().max(40).required(),
  pins: lazy((value: unknown) => object(Object.fromEntries(names(value).map(line => [line, text().max(20).required()]))).default(() => ({}))),
  bus: text().max(20).default(undefined),
  address: plainNumber().integer('expected a whole number').min(0x08, 'allowed is from 8 (0x08) to 119 (0x77)').max(0x77, 'allowed is from 8 (0x08) to 119 (0x77)').default(undefined),
  divider: array(plainNumber().min(0.1).max(1000).required()).length(2, 'expected two resistors, kΩ: from the line to the pin, and from the pin to ground').default(undefined),
  curve: array(object({ volts: plainNumber().min(0).max(5.5).required(), reads: text().max(20).required() }).noUnknown()).min(2, 'a curve needs two points or more').max(40).test('rising', 'expected the points with rising volts', rising).default(undefined),
  counts: plainNumber().integer('expected a whole number of edges').min(4, 'allowed is 4 or more').max(1_000_000, 'allowed is 1,000,000 or less').default(undefined),
}).noUnknown()

/** As documents write it; whether board and robot have all that it names is looked at where both are known (`core/hardware`). */
export const wiringSchema = object({
  board: nameText().required(),
  ports: lazy((value: unknown) => object(Object.fromEntries(names(value).map(port => [port, portSchema]))).default(() => ({}))),
  'own board': mixed().default(undefined),
}).noUnknown() as unknown as ObjectSchema<Wiring & object>
