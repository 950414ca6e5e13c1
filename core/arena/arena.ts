import { array, mixed, object } from 'yup'
import { documentText, nameText, plainNumber, point, quantity, readDocument, readPart, text, truth, type Problem, type Read } from '../document'
import { COLORS } from '../colors'

export const ARENA_VERSION = 1
const DEG = Math.PI / 180
const ECHOES = ['smooth', 'rough', 'soft'] as const

const color = () => text().oneOf([...COLORS], `allowed is one of ${COLORS.join(', ')}`)
const echo = () => text().oneOf([...ECHOES], `allowed is one of ${ECHOES.join(', ')}`)
const turn = () => quantity('angle', { min: -360 * DEG, max: 360 * DEG }).default(0)
const length = (min: number, max: number) => quantity('length', { min, max })

const shapeFields = {
  shape: text().oneOf(['box', 'cylinder'], 'allowed is box or cylinder').required(),
  length: length(0.005, 10), width: length(0.005, 10), diameter: length(0.005, 10), height: length(0.002, 5).required(),
}
const pieceFields = {
  kind: nameText().required(),
  ...shapeFields,
  mass: quantity('mass', { min: 0.001, max: 200 }).default(0.2),
  fixed: truth().default(false),
  color: color().default('grey'),
  friction: plainNumber().min(0).max(3).default(0.5),
  echo: echo().default('rough'),
}

const areaSchema = object({ at: point().required(), size: point().required() }).noUnknown()

const arenaSchema = object({
  mindpath: text().oneOf(['arena'], 'expected "arena": this is another kind of document').required(),
  version: plainNumber().oneOf([ARENA_VERSION], `allowed is ${ARENA_VERSION}`).required(),
  name: nameText().required(),
  about: documentText(),
  size: point().required(),
  surround: text().oneOf(['water', 'ground'], 'allowed is water or ground').default('ground'),
  floor: object({ friction: plainNumber().min(0.01).max(3).default(0.9), color: color().default('grey') }).noUnknown().default({}),
  decks: array(object({ at: point().required(), size: point().required(), turn: turn() }).noUnknown()).max(50).default([]),
  walls: array(object({
    from: point().required(), to: point().required(),
    height: length(0.01, 3).default(0.2), thickness: length(0.005, 2).default(0.04), echo: echo().default('rough'), color: color().default('grey'),
  }).noUnknown()).max(200).default([]),
  patches: array(object({
    shape: text().oneOf(['box', 'disc'], 'allowed is box or disc').required(),
    at: point().required(), size: point(), diameter: length(0.005, 20), turn: turn(), color: color().required(),
  }).noUnknown()).max(200).default([]),
  pieces: array(object({ name: nameText(), at: point().required(), turn: turn(), ...pieceFields }).noUnknown()).max(200).default([]),
  scatter: array(object({
    ...pieceFields, count: plainNumber().integer().min(1).max(200).required(),
    area: areaSchema.required(), apart: length(0, 5).default(0.1),
    clear: length(0, 5).default(0.3),
  }).noUnknown()).max(20).default([]),
  // A place, or an area to be drawn from: read below.
  start: mixed().required(),
}).noUnknown().required()

const startAt = object({ at: point().required(), heading: turn() }).noUnknown()
const startIn = object({ area: areaSchema.required(), heading: turn() }).noUnknown()
const startAnyHeading = object({ area: areaSchema.required(), heading: text().required() }).noUnknown()

export type PieceShape =
  | { readonly shape: 'box', readonly length: number, readonly width: number, readonly height: number }
  | { readonly shape: 'cylinder', readonly diameter: number, readonly height: number }

interface PieceNature {
  readonly kind: string
  readonly body: PieceShape
  readonly mass: number
  readonly fixed: boolean
  readonly color: string
  readonly friction: number
  readonly echo: (typeof ECHOES)[number]
}

export interface ArenaPiece extends PieceNature {
  readonly name: string
  readonly at: readonly [number, number]
  readonly turn: number
}

export interface Area { readonly at: readonly [number, number], readonly size: readonly [number, number] }

/** An arena that can be built. Metres; x east, y north, from the south-west corner; `turn` and `heading` right positive. */
export interface Arena {
  readonly name: string
  readonly about: string
  readonly size: readonly [number, number]
  readonly surround: 'water' | 'ground'
  readonly floor: { readonly friction: number, readonly color: string }
  readonly decks: readonly (Area & { readonly turn: number })[]
  readonly walls: readonly {
    readonly from: readonly [number, number], readonly to: readonly [number, number]
    readonly height: number, readonly thickness: number, readonly echo: PieceNature['echo'], readonly color: string
  }[]
  readonly patches: readonly { readonly shape: 'box' | 'disc', readonly at: readonly [number, number], readonly size: readonly [number, number], readonly turn: number, readonly color: string }[]
  readonly pieces: readonly ArenaPiece[]
  readonly scatter: readonly (PieceNature & { readonly count: number, readonly area: Area, readonly apart: number, readonly clear: number })[]
  readonly start: { readonly at: readonly [number, number], readonly heading: number } | { readonly area: Area, readonly heading: number | 'any' }
}

type RawShape = { shape: 'box' | 'cylinder', length?: number, width?: number, diameter?: number, height: number }

/** Reads an arena document: one that can be built, or everything that is wrong with it. */
export function readArena(value: unknown): Read<Arena> {
  const read = readDocument<Record<string, unknown>>(arenaSchema as never, value)
  if (!read.ok) return read
  const raw = read.value as unknown as Omit<Arena, 'pieces' | 'scatter' | 'patches'> & {
    pieces: (RawShape & Omit<ArenaPiece, 'body'>)[]
    scatter: (RawShape & Omit<Arena['scatter'][number], 'body'>)[]
    patches: (Arena['patches'][number] & { diameter?: number })[]
  }
  const problems: Problem[] = []
  const names = new Set<string>()
  const pieces = raw.pieces.map((p, i): ArenaPiece => {
    const name = p.name ?? freeName(p.kind, names)
    if (names.has(name)) problems.push({ path: `pieces[${i}].name`, value: JSON.stringify(name), message: 'this name is taken; each piece has its own' })
    names.add(name)
    return { ...nature(p, `pieces[${i}]`, problems), name, at: p.at, turn: p.turn }
  })
  const scatter = raw.scatter.map((s, i) => ({
    ...nature(s, `scatter[${i}]`, problems), count: s.count, area: s.area, apart: s.apart, clear: s.clear,
  }))
  const patches = raw.patches.map((p, i) => {
    if (p.shape === 'disc' && p.diameter === undefined) problems.push({ path: `patches[${i}].diameter`, value: 'nothing', message: 'a disc needs its diameter, such as "20 cm"' })
    if (p.shape === 'box' && p.size === undefined) problems.push({ path: `patches[${i}].size`, value: 'nothing', message: 'a box needs its size, such as ["1 m", "20 cm"]' })
    const d = p.diameter ?? 0
    return { shape: p.shape, at: p.at, size: p.shape === 'disc' ? [d, d] as const : p.size, turn: p.turn, color: p.color }
  })
  raw.size.forEach((s, i) => {
    if (s < 0.3 || s > 50) problems.push({ path: `size[${i}]`, value: `${s} m`, message: 'allowed is from 30 cm to 50 m' })
  })
  const given = raw.start as { area?: unknown, heading?: unknown }
  const start = readPart<object>(given?.area === undefined ? startAt : given.heading === 'any' ? startAnyHeading : startIn, raw.start, 'start', problems)
  if (problems.length > 0 || start === null) return { ok: false, problems }
  return {
    ok: true,
    value: {
      name: raw.name, about: raw.about ?? '', size: raw.size, surround: raw.surround, floor: raw.floor,
      decks: raw.decks.length > 0 ? raw.decks : [{ at: [raw.size[0] / 2, raw.size[1] / 2], size: raw.size, turn: 0 }],
      walls: raw.walls, patches, pieces, scatter, start: start as Arena['start'],
    },
  }
}

function nature(p: RawShape & Omit<PieceNature, 'body'>, path: string, problems: Problem[]): PieceNature {
  const missing = (field: string, example: string): number => {
    problems.push({ path: `${path}.${field}`, value: 'nothing', message: `a ${p.shape} needs its ${field}, such as "${example}"` })
    return 1
  }
  const body: PieceShape = p.shape === 'box'
    ? { shape: 'box', length: p.length ?? missing('length', '10 cm'), width: p.width ?? missing('width', '10 cm'), height: p.height }
    : { shape: 'cylinder', diameter: p.diameter ?? missing('diameter', '10 cm'), height: p.height }
  return { kind: p.kind, body, mass: p.mass, fixed: p.fixed, color: p.color, friction: p.friction, echo: p.echo }
}

/** `crate_1`, `crate_2`, …: the first that nobody has. */
export function freeName(kind: string, taken: ReadonlySet<string>): string {
  for (let n = 1; ; n++) if (!taken.has(`${kind}_${n}`)) return `${kind}_${n}`
}
