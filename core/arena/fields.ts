import { object } from 'yup'
import { COLORS } from '../colors'
import { extent, nameText, plainNumber, point, quantity, text, truth, type Problem } from '../document'
import type { Area, PieceNature, PieceShape, Scattered } from './arena'
import { ECHOES, MATERIALS, MATERIAL_NAMES, type Material } from './materials'

/** Fields that several items share, and how what was written is read. */

const DEG = Math.PI / 180
/** How many different square tags there are. */
export const TAGS = 16

export const color = () => text().oneOf([...COLORS], `allowed is one of ${COLORS.join(', ')}`)
export const echo = () => text().oneOf([...ECHOES], `allowed is one of ${ECHOES.join(', ')}`)
export const turn = () => quantity('angle', { min: -360 * DEG, max: 360 * DEG }).default(0)
export const length = (min: number, max: number) => quantity('length', { min, max })
export const share = (value: number) => quantity('number', { min: 0, max: 4 }).default(value)
export const seconds = (max = 3600) => quantity('time', { min: 0, max })

export const areaSchema = object({ at: point().required(), size: extent().required() }).noUnknown()
/** Where the seed puts something: its middle is drawn from an area, and where `any turn` is set, its turn too. */
export const drawnFields = { 'area': areaSchema.default(undefined), 'any turn': truth().default(false) }

export const pieceFields = {
  kind: nameText().required(),
  shape: text().oneOf(['box', 'cylinder', 'ball'], 'allowed is box, cylinder or ball').required(),
  length: length(0.005, 10), width: length(0.005, 10), diameter: length(0.005, 10), height: length(0.002, 5),
  material: text().oneOf([...MATERIAL_NAMES], `allowed is one of ${MATERIAL_NAMES.join(', ')}`),
  mass: quantity('mass', { min: 0.001, max: 200 }),
  fixed: truth().default(false),
  color: color(),
  friction: plainNumber().min(0).max(3),
  echo: echo(),
  steel: truth(),
  tag: plainNumber().integer().min(0).max(TAGS - 1),
  stack: plainNumber().integer().min(1).max(12).default(1),
}

/** What the fields of a piece do. */
export const PIECE_SAYS = {
  'kind': 'What it is called together with its like, for goals.',
  'shape': 'A box, a cylinder that stands upright, or a ball.',
  'length': 'Of a box: along its own east.',
  'width': 'Of a box: along its own north.',
  'diameter': 'Of a cylinder or a ball.',
  'height': 'Of a box or a cylinder: from its underside to its top.',
  'material': 'Gives weight, friction, colour, echo and steel where they are not written.',
  'mass': 'What it weighs; without it, as its material does, or 200 g.',
  'fixed': 'Whether it stands fast.',
  'color': 'Its paint.',
  'friction': 'Coefficient of friction; without it, that of its material, or 0.5.',
  'echo': 'What its faces do to sound.',
  'steel': 'Whether a magnet holds it.',
  'tag': 'Number of the square tag printed on its upright faces.',
  'stack': 'How many stand on one another.',
} as const

/** What the fields of things that the seed may place do. */
export const DRAWN_SAYS = {
  'area': 'Where the seed draws its middle from, instead of a place.',
  'any turn': 'Whether the seed turns it, too.',
} as const

export interface RawDrawn { area?: Area, 'any turn'?: boolean }

export function drawnOf(raw: RawDrawn): Scattered['drawn'] {
  return raw.area === undefined ? null : { area: raw.area, anyTurn: raw['any turn'] ?? false }
}

/** A piece's nature as it is written: what its material says may be left out. */
export interface RawNature {
  readonly kind: string
  readonly shape: 'box' | 'cylinder' | 'ball'
  readonly length?: number
  readonly width?: number
  readonly diameter?: number
  readonly height?: number
  readonly material?: keyof typeof MATERIALS
  readonly mass?: number
  readonly fixed: boolean
  readonly color?: PieceNature['color']
  readonly friction?: number
  readonly echo?: PieceNature['echo']
  readonly steel?: boolean
  readonly tag?: number
  readonly stack: number
}

/** A piece's body; `missing` tells of a size that is not there, and gives one to go on with. */
function bodyOf(p: RawNature, missing: (field: string, example: string) => number): PieceShape {
  if (p.shape === 'box') return { shape: 'box', length: p.length ?? missing('length', '10 cm'), width: p.width ?? missing('width', '10 cm'), height: p.height ?? missing('height', '10 cm') }
  const diameter = p.diameter ?? missing('diameter', '10 cm')
  return { shape: p.shape, diameter, height: p.shape === 'ball' ? diameter : p.height ?? missing('height', '10 cm') }
}

/** What a piece has of its own where neither it nor a material says, kilograms and a coefficient. */
const USUAL = { mass: 0.2, friction: 0.5, echo: 'rough', color: 'grey', steel: false } as const
/** The lightest and the heaviest that a material makes of a size: what may be written, kilograms. */
const [LIGHTEST, HEAVIEST] = [0.001, 200]

/** The nature of a piece; what its shape misses goes into the problems. */
export function natureOf(p: RawNature, path: string, problems: Problem[]): PieceNature {
  const missing = (field: string, example: string): number => {
    problems.push({ path: `${path}.${field}`, value: 'nothing', message: `a ${p.shape} needs its ${field}, such as "${example}"` })
    return 1
  }
  const body = bodyOf(p, missing)
  if (p.shape === 'ball' && p.stack > 1) problems.push({ path: `${path}.stack`, value: String(p.stack), message: 'balls do not stand on one another; allowed is 1' })
  const made: Material | null = p.material === undefined ? null : MATERIALS[p.material]
  const volume = body.shape === 'box' ? body.length * body.width * body.height : Math.PI / (body.shape === 'ball' ? 6 : 4) * body.diameter * body.diameter * body.height
  return {
    kind: p.kind, body, fixed: p.fixed, tag: p.tag ?? null, stack: p.stack,
    mass: p.mass ?? (made === null ? USUAL.mass : Math.min(HEAVIEST, Math.max(LIGHTEST, made.density * volume))),
    color: p.color ?? made?.color ?? USUAL.color,
    friction: p.friction ?? made?.friction ?? USUAL.friction,
    echo: p.echo ?? made?.echo ?? USUAL.echo,
    steel: p.steel ?? made?.steel ?? USUAL.steel,
  }
}
