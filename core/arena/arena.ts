import { array, mixed, object } from 'yup'
import { documentText, extent, nameText, plainNumber, point, quantity, readDocument, readPart, text, truth, type Problem, type Read } from '../document'
import { COLORS, type ColorName } from '../colors'

export const ARENA_VERSION = 1
const DEG = Math.PI / 180
/** How many pieces a feeder may bring, and how many may stand in an arena. */
const MOST_FED = 60
const MOST_PIECES = 400
/** How many different square tags there are. */
export const TAGS = 16
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
  steel: truth().default(false),
  tag: plainNumber().integer().min(0).max(TAGS - 1),
  // How many stand on one another.
  stack: plainNumber().integer().min(1).max(12).default(1),
}

const share = (value: number) => quantity('number', { min: 0, max: 4 }).default(value)
const seconds = (max = 3600) => quantity('time', { min: 0, max })

const areaSchema = object({ at: point().required(), size: extent().required() }).noUnknown()
/** Where the seed puts something: its middle is drawn from an area, and where `any turn` is set, its turn too. */
const drawnFields = { area: areaSchema.default(undefined), 'any turn': truth().default(false) }

export const arenaSchema = object({
  mindpath: text().oneOf(['arena'], 'expected "arena": this is another kind of document').required(),
  version: plainNumber().oneOf([ARENA_VERSION], `allowed is ${ARENA_VERSION}`).required(),
  name: nameText().required(),
  about: documentText(),
  size: extent().required(),
  surround: text().oneOf(['water', 'ground'], 'allowed is water or ground').default('ground'),
  floor: object({ friction: plainNumber().min(0.01).max(3).default(0.9), color: color().default('grey') }).noUnknown().default({}),
  decks: array(object({ at: point().required(), size: extent().required(), turn: turn() }).noUnknown()).max(50).default([]),
  walls: array(object({
    from: point().required(), to: point().required(),
    height: length(0.01, 3).default(0.2), thickness: length(0.005, 2).default(0.04), echo: echo().default('rough'), color: color().default('grey'),
    // With an area, \`from\` and \`to\` say how long it is and how it lies.
    ...drawnFields,
  }).noUnknown()).max(200).default([]),
  patches: array(object({
    shape: text().oneOf(['box', 'disc'], 'allowed is box or disc').required(),
    at: point().required(), size: extent(), diameter: length(0.005, 20), turn: turn(), color: color().required(),
  }).noUnknown()).max(200).default([]),
  lines: array(object({
    name: nameText().required(), points: array(point().required()).min(2, 'a line needs two points or more').max(200).required(),
    width: length(0.002, 0.5).default(0.02), color: color().default('black'),
  }).noUnknown()).max(40).default([]),
  areas: array(object({ name: nameText().required(), at: point(), size: extent().required(), area: areaSchema.default(undefined) }).noUnknown()).max(40).default([]),
  pieces: array(object({ name: nameText(), at: point().required(), up: length(0, 3).default(0), turn: turn(), ...pieceFields }).noUnknown()).max(200).default([]),
  crates: array(object({
    name: nameText().required(), at: point(), size: extent().required(), turn: turn(), ...drawnFields,
    height: length(0.005, 2).default(0.08), wall: length(0.002, 0.1).default(0.01), color: color().default('grey'),
  }).noUnknown()).max(20).default([]),
  belts: array(object({
    name: nameText().required(), at: point().required(), size: extent().required(), turn: turn(),
    height: length(0.005, 2).default(0.06), speed: quantity('speed', { min: -1, max: 1 }).default(0.06),
    // A motor of the robot that runs it; without one it always runs.
    motor: nameText(),
    feeder: object({
      first: seconds().default(1), every: quantity('time', { min: 0.2, max: 3600 }).default(8),
      items: array(object({ ...pieceFields, count: plainNumber().integer().min(1).max(50).default(1) }).noUnknown()).min(1).max(12).required(),
    }).noUnknown().default(undefined),
  }).noUnknown()).max(8).default([]),
  light: object({
    level: share(0.6),
    changes: array(object({ at: seconds().required(), level: share(0.6) }).noUnknown()).max(40).default([]),
  }).noUnknown().default({}),
  lamps: array(object({
    name: nameText().required(), at: point(), area: areaSchema.default(undefined), up: length(0, 5).default(0.3), brightness: share(0.5),
    on: array(object({ from: seconds().required(), to: seconds(36000).required() }).noUnknown()).max(40).default([]),
  }).noUnknown()).max(20).default([]),
  hush: share(0.02),
  noises: array(object({
    name: nameText(), at: point().required(), first: seconds().default(0), every: quantity('time', { min: 0.1, max: 3600 }),
    lasts: quantity('time', { min: 0.02, max: 3600 }).default(0.2), loudness: share(0.7),
  }).noUnknown()).max(40).default([]),
  visitors: array(object({
    name: nameText().required(), kind: nameText().default('visitor'), path: array(point().required()).min(2, 'a path needs two points or more').max(60).required(),
    speed: quantity('speed', { min: 0.005, max: 2 }).default(0.2), diameter: length(0.02, 1).default(0.12), height: length(0.02, 2).default(0.3),
    color: color().default('blue'), echo: echo().default('rough'), begins: seconds().default(0), returns: truth().default(true),
  }).noUnknown()).max(10).default([]),
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

export interface PieceNature {
  readonly kind: string
  readonly body: PieceShape
  readonly mass: number
  readonly fixed: boolean
  readonly color: ColorName
  readonly friction: number
  readonly echo: (typeof ECHOES)[number]
  readonly steel: boolean
  /** Number of the square tag printed on its upright faces; null for none. */
  readonly tag: number | null
  /** How many stand on one another; each becomes a piece of its own. */
  readonly stack: number
}

export interface ArenaPiece extends PieceNature {
  readonly name: string
  readonly at: readonly [number, number]
  /** Height of its underside. */
  readonly up: number
  readonly turn: number
}

/** A box without a lid. */
export interface Crate extends Area, Scattered { readonly name: string, readonly turn: number, readonly height: number, readonly wall: number, readonly color: ColorName }

export interface Belt extends Area {
  readonly name: string
  readonly turn: number
  readonly height: number
  /** Metres a second of its surface, along its length. */
  readonly speed: number
  /** The robot's motor that runs it; null for one that always runs. */
  readonly motor: string | null
  readonly feeder: { readonly first: number, readonly every: number, readonly items: readonly (PieceNature & { readonly count: number })[] } | null
}

/** Somebody who walks a path and yields to nothing. */
export interface Visitor {
  readonly name: string
  readonly kind: string
  readonly path: readonly (readonly [number, number])[]
  readonly speed: number
  readonly diameter: number
  readonly height: number
  readonly color: ColorName
  readonly echo: (typeof ECHOES)[number]
  readonly begins: number
  /** Back and forth for ever; else it stays at the end. */
  readonly returns: boolean
}

/** Whether the seed draws its place: the area that its middle is drawn from, null for what stands where it is written; and whether its turn is drawn too. */
export interface Scattered { readonly drawn: { readonly area: Area, readonly anyTurn: boolean } | null }

export interface Area { readonly at: readonly [number, number], readonly size: readonly [number, number] }

export interface Wall extends Scattered {
  readonly from: readonly [number, number]
  readonly to: readonly [number, number]
  readonly height: number
  readonly thickness: number
  readonly echo: PieceNature['echo']
  readonly color: ColorName
}

/** An arena that can be built. Metres; x east, y north, from the south-west corner; `turn` and `heading` right positive. */
export interface Arena {
  readonly name: string
  readonly about: string
  readonly size: readonly [number, number]
  readonly surround: 'water' | 'ground'
  readonly floor: { readonly friction: number, readonly color: ColorName }
  readonly decks: readonly (Area & { readonly turn: number })[]
  readonly walls: readonly Wall[]
  readonly patches: readonly { readonly shape: 'box' | 'disc', readonly at: readonly [number, number], readonly size: readonly [number, number], readonly turn: number, readonly color: ColorName }[]
  readonly lines: readonly { readonly name: string, readonly points: readonly (readonly [number, number])[], readonly width: number, readonly color: ColorName }[]
  /** Marked areas, for tasks: they look like nothing. */
  readonly areas: readonly (Area & Scattered & { readonly name: string })[]
  readonly crates: readonly Crate[]
  readonly belts: readonly Belt[]
  readonly light: { readonly level: number, readonly changes: readonly { readonly at: number, readonly level: number }[] }
  readonly lamps: readonly (Scattered & { readonly name: string, readonly at: readonly [number, number], readonly up: number, readonly brightness: number, readonly on: readonly { readonly from: number, readonly to: number }[] })[]
  /** How loud it is when nothing sounds. */
  readonly hush: number
  readonly noises: readonly { readonly at: readonly [number, number], readonly first: number, readonly every: number | null, readonly lasts: number, readonly loudness: number }[]
  readonly visitors: readonly Visitor[]
  readonly pieces: readonly ArenaPiece[]
  readonly scatter: readonly (PieceNature & { readonly count: number, readonly area: Area, readonly apart: number, readonly clear: number })[]
  readonly start: { readonly at: readonly [number, number], readonly heading: number } | { readonly area: Area, readonly heading: number | 'any' }
}

interface RawDrawn { area?: Area, 'any turn'?: boolean }
type Placed<T extends { readonly at: readonly [number, number] }> = Omit<T, 'at' | 'drawn'> & { at?: readonly [number, number] }
type RawShape = { shape: 'box' | 'cylinder', length?: number, width?: number, diameter?: number, height: number }

/** Reads an arena document: one that can be built, or everything that is wrong with it. */
export function readArena(value: unknown): Read<Arena> {
  const read = readDocument<Record<string, unknown>>(arenaSchema, value)
  if (!read.ok) return read
  const raw = read.value as unknown as Omit<Arena, 'pieces' | 'scatter' | 'patches' | 'belts' | 'noises' | 'walls' | 'areas' | 'crates' | 'lamps'> & {
    walls: (Omit<Wall, 'drawn'> & RawDrawn)[]
    areas: (Placed<Arena['areas'][number]> & RawDrawn)[]
    crates: (Placed<Crate> & RawDrawn)[]
    lamps: (Placed<Arena['lamps'][number]> & RawDrawn)[]
    belts: (Omit<Belt, 'motor' | 'feeder'> & { motor?: string, feeder?: { first: number, every: number, items: (RawShape & Omit<PieceNature, 'body'> & { count: number })[] } })[]
    noises: (Omit<Arena['noises'][number], 'every'> & { every?: number })[]
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
    return { ...nature(p, `pieces[${i}]`, problems), name, at: p.at, up: p.up, turn: p.turn }
  })
  const scatter = raw.scatter.map((s, i) => ({
    ...nature(s, `scatter[${i}]`, problems), count: s.count, area: s.area, apart: s.apart, clear: s.clear,
  }))
  const belts = raw.belts.map((b, i): Belt => ({
    name: b.name, at: b.at, size: b.size, turn: b.turn, height: b.height, speed: b.speed, motor: b.motor ?? null,
    feeder: b.feeder === undefined ? null : {
      first: b.feeder.first, every: b.feeder.every,
      items: b.feeder.items.map((item, k) => ({ ...nature(item, `belts[${i}].feeder.items[${k}]`, problems), count: item.count })),
    },
  }))
  raw.belts.forEach((b, i) => {
    const all = b.feeder?.items.reduce((sum, item) => sum + item.count, 0) ?? 0
    if (all > MOST_FED) problems.push({ path: `belts[${i}].feeder.items`, value: `${all} pieces`, message: `allowed are up to ${MOST_FED} pieces of one feeder` })
  })
  const standing = raw.pieces.reduce((sum, p) => sum + p.stack, 0) + raw.scatter.reduce((sum, p) => sum + p.count * p.stack, 0)
  if (standing > MOST_PIECES) problems.push({ path: 'pieces', value: `${standing} with all that is scattered and stacked`, message: `allowed are up to ${MOST_PIECES}` })
  const named = new Map<string, string>()
  for (const [list, things] of Object.entries({ lines: raw.lines, areas: raw.areas, crates: raw.crates, belts: raw.belts, lamps: raw.lamps, visitors: raw.visitors })) {
    things.forEach((thing, i) => {
      const other = named.get(thing.name) ?? (names.has(thing.name) ? 'a piece' : undefined)
      if (other !== undefined) problems.push({ path: `${list}[${i}].name`, value: JSON.stringify(thing.name), message: `${other} has this name already; each thing has its own` })
      named.set(thing.name, `${list}[${i}]`)
    })
  }
  const patches = raw.patches.map((p, i) => {
    if (p.shape === 'disc' && p.diameter === undefined) problems.push({ path: `patches[${i}].diameter`, value: 'nothing', message: 'a disc needs its diameter, such as "20 cm"' })
    if (p.shape === 'box' && p.size === undefined) problems.push({ path: `patches[${i}].size`, value: 'nothing', message: 'a box needs its size, such as ["1 m", "20 cm"]' })
    const d = p.diameter ?? 0
    return { shape: p.shape, at: p.at, size: p.shape === 'disc' ? [d, d] as const : p.size, turn: p.turn, color: p.color }
  })
  const placed = <T extends { at?: readonly [number, number], area?: Area }>(list: string, things: readonly T[]) => things.map((thing, i) => {
    const { area, ...rest } = thing
    if ((thing.at === undefined) === (area === undefined)) problems.push({ path: `${list}[${i}].at`, value: thing.at === undefined ? 'nothing' : `${thing.at[0]} m, ${thing.at[1]} m`, message: 'it needs one of the two: its place (at), or the area that the seed draws its place from' })
    return { ...rest, at: thing.at ?? area?.at ?? [0, 0] as const, drawn: drawnOf(thing) }
  })
  const areas = placed('areas', raw.areas)
  const crates = placed('crates', raw.crates)
  const lamps = placed('lamps', raw.lamps)
  const walls = raw.walls.map(({ area, 'any turn': any, ...wall }) => ({ ...wall, drawn: drawnOf({ area, 'any turn': any }) }))
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
      walls, patches, lines: raw.lines, areas, pieces, crates, belts, light: raw.light, lamps,
      hush: raw.hush, noises: raw.noises.map(n => ({ at: n.at, first: n.first, every: n.every ?? null, lasts: n.lasts, loudness: n.loudness })), visitors: raw.visitors, scatter, start: start as Arena['start'],
    },
  }
}

function drawnOf(raw: RawDrawn): Scattered['drawn'] {
  return raw.area === undefined ? null : { area: raw.area, anyTurn: raw['any turn'] ?? false }
}

function nature(p: RawShape & Omit<PieceNature, 'body'>, path: string, problems: Problem[]): PieceNature {
  const missing = (field: string, example: string): number => {
    problems.push({ path: `${path}.${field}`, value: 'nothing', message: `a ${p.shape} needs its ${field}, such as "${example}"` })
    return 1
  }
  const body: PieceShape = p.shape === 'box'
    ? { shape: 'box', length: p.length ?? missing('length', '10 cm'), width: p.width ?? missing('width', '10 cm'), height: p.height }
    : { shape: 'cylinder', diameter: p.diameter ?? missing('diameter', '10 cm'), height: p.height }
  return { kind: p.kind, body, mass: p.mass, fixed: p.fixed, color: p.color, friction: p.friction, echo: p.echo, steel: p.steel, tag: p.tag ?? null, stack: p.stack }
}

/** `crate_1`, `crate_2`, …: the first that nobody has. */
export function freeName(kind: string, taken: ReadonlySet<string>): string {
  for (let n = 1; ; n++) if (!taken.has(`${kind}_${n}`)) return `${kind}_${n}`
}
