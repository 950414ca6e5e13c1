import { array, mixed, object } from 'yup'
import { documentText, extent, nameText, plainNumber, point, readDocument, readPart, text, type Problem, type Read } from '../document'
import type { ColorName } from '../colors'
import { areaSchema, color, drawnOf, natureOf, seconds, share, turn, type RawDrawn, type RawNature } from './fields'
import { ITEMS } from './items'
import type { Side } from './items/lanes'
import type { Echo } from './materials'

export const ARENA_VERSION = 1
/** How many pieces a feeder may bring, and how many may stand in an arena. */
const MOST_FED = 60
const MOST_PIECES = 400

/** From when on it is how light. */
export const lightChangeSchema = object({ at: seconds().required(), level: share(0.6) }).noUnknown()

export const arenaSchema = object({
  mindpath: text().oneOf(['arena'], 'expected "arena": this is another kind of document').required(),
  version: plainNumber().oneOf([ARENA_VERSION], `allowed is ${ARENA_VERSION}`).required(),
  name: nameText().required(),
  about: documentText(),
  size: extent().required(),
  surround: text().oneOf(['water', 'ground'], 'allowed is water or ground').default('ground'),
  floor: object({ friction: plainNumber().min(0.01).max(3).default(0.9), color: color().default('grey') }).noUnknown().default({}),
  ...Object.fromEntries(ITEMS.map(item => [item.list, array(item.schema).max(item.most).default([])])),
  light: object({
    level: share(0.6),
    changes: array(lightChangeSchema).max(40).default([]),
  }).noUnknown().default({}),
  hush: share(0.02),
  // A place, or an area to be drawn from: read below.
  start: mixed().required(),
}).noUnknown().required()

const startBefore = object({ before: nameText().required() }).noUnknown()
/** Where the robot starts: a place or an area, and which way it faces, which the seed may say. */
const startSchema = ({ area, heading, before }: { readonly area?: unknown, readonly heading?: unknown, readonly before?: unknown }) => before !== undefined
  ? startBefore
  : object({ ...area === undefined ? { at: point().required() } : { area: areaSchema.required() }, heading: heading === 'any' ? text().required() : turn() }).noUnknown()

export type PieceShape =
  | { readonly shape: 'box', readonly length: number, readonly width: number, readonly height: number }
  | { readonly shape: 'cylinder', readonly diameter: number, readonly height: number }
  /** As high as it is wide. */
  | { readonly shape: 'ball', readonly diameter: number, readonly height: number }

export interface PieceNature {
  readonly kind: string
  readonly body: PieceShape
  readonly mass: number
  readonly fixed: boolean
  readonly color: ColorName
  readonly friction: number
  readonly echo: Echo
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
  readonly echo: Echo
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

/** Walled lanes, drawn by the seed. */
export interface Lanes {
  readonly name: string
  /** Their middle. */
  readonly at: readonly [number, number]
  readonly columns: number
  readonly rows: number
  /** Between the walls. */
  readonly width: number
  readonly height: number
  readonly thickness: number
  readonly echo: Echo
  readonly color: ColorName
  readonly wayIn: Side
  readonly wayOut: Side
  /** Share of the inner walls that are left out. */
  readonly open: number
  /** Name of the marked area behind the way out. */
  readonly exit: string
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
  readonly lanes: readonly Lanes[]
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
  readonly start: (({ readonly at: readonly [number, number] } | { readonly area: Area }) & { readonly heading: number | 'any' }) | { readonly before: string }
}

type Placed<T extends { readonly at: readonly [number, number] }> = Omit<T, 'at' | 'drawn'> & { at?: readonly [number, number] }

/** Reads an arena document: one that can be built, or everything that is wrong with it. */
export function readArena(value: unknown): Read<Arena> {
  const read = readDocument<Record<string, unknown>>(arenaSchema, value)
  if (!read.ok) return read
  const raw = read.value as unknown as Omit<Arena, 'pieces' | 'scatter' | 'patches' | 'belts' | 'noises' | 'walls' | 'lanes' | 'areas' | 'crates' | 'lamps'> & {
    lanes: (Omit<Lanes, 'wayIn' | 'wayOut'> & { 'way in': Side, 'way out': Side })[]
    walls: (Omit<Wall, 'drawn'> & RawDrawn)[]
    areas: (Placed<Arena['areas'][number]> & RawDrawn)[]
    crates: (Placed<Crate> & RawDrawn)[]
    lamps: (Placed<Arena['lamps'][number]> & RawDrawn)[]
    belts: (Omit<Belt, 'motor' | 'feeder'> & { motor?: string, feeder?: { first: number, every: number, items: (RawNature & { count: number })[] } })[]
    noises: (Omit<Arena['noises'][number], 'every'> & { every?: number })[]
    pieces: (RawNature & Omit<ArenaPiece, keyof PieceNature | 'name'> & { name?: string })[]
    scatter: (RawNature & Omit<Arena['scatter'][number], keyof PieceNature>)[]
    patches: (Arena['patches'][number] & { diameter?: number })[]
  }
  const problems: Problem[] = []
  const names = new Set<string>()
  const pieces = raw.pieces.map((p, i): ArenaPiece => {
    const name = p.name ?? freeName(p.kind, names)
    if (names.has(name)) problems.push({ path: `pieces[${i}].name`, value: JSON.stringify(name), message: 'this name is taken; each piece has its own' })
    names.add(name)
    return { ...natureOf(p, `pieces[${i}]`, problems), name, at: p.at, up: p.up, turn: p.turn }
  })
  const scatter = raw.scatter.map((s, i) => ({
    ...natureOf(s, `scatter[${i}]`, problems), count: s.count, area: s.area, apart: s.apart, clear: s.clear,
  }))
  const belts = raw.belts.map((b, i): Belt => ({
    name: b.name, at: b.at, size: b.size, turn: b.turn, height: b.height, speed: b.speed, motor: b.motor ?? null,
    feeder: b.feeder === undefined ? null : {
      first: b.feeder.first, every: b.feeder.every,
      items: b.feeder.items.map((item, k) => ({ ...natureOf(item, `belts[${i}].feeder.items[${k}]`, problems), count: item.count })),
    },
  }))
  raw.belts.forEach((b, i) => {
    const all = b.feeder?.items.reduce((sum, item) => sum + item.count, 0) ?? 0
    if (all > MOST_FED) problems.push({ path: `belts[${i}].feeder.items`, value: `${all} pieces`, message: `allowed are up to ${MOST_FED} pieces of one feeder` })
  })
  const standing = raw.pieces.reduce((sum, p) => sum + p.stack, 0) + raw.scatter.reduce((sum, p) => sum + p.count * p.stack, 0)
  if (standing > MOST_PIECES) problems.push({ path: 'pieces', value: `${standing} with all that is scattered and stacked`, message: `allowed are up to ${MOST_PIECES}` })
  const named = new Map<string, string>()
  for (const [list, things] of Object.entries({ lines: raw.lines, areas: raw.areas, lanes: raw.lanes, exits: raw.lanes.map(l => ({ name: l.exit })), crates: raw.crates, belts: raw.belts, lamps: raw.lamps, visitors: raw.visitors })) {
    things.forEach((thing, i) => {
      const other = named.get(thing.name) ?? (names.has(thing.name) ? 'a piece' : undefined)
      if (other !== undefined) problems.push({ path: list === 'exits' ? `lanes[${i}].exit` : `${list}[${i}].name`, value: JSON.stringify(thing.name), message: `${other} has this name already; each thing has its own` })
      named.set(thing.name, list === 'exits' ? `lanes[${i}].exit` : `${list}[${i}]`)
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
  const lanes = raw.lanes.map(({ 'way in': wayIn, 'way out': wayOut, ...rest }): Lanes => ({ ...rest, wayIn, wayOut }))
  const start = readPart<object>(startSchema(raw.start ?? {}), raw.start, 'start', problems)
  if (start !== null && 'before' in start && !lanes.some(l => l.name === start.before)) problems.push({ path: 'start.before', value: JSON.stringify(start.before), message: lanes.length === 0 ? 'the arena has no walled lanes' : `allowed is one of the lanes: ${lanes.map(l => l.name).join(', ')}` })
  if (problems.length > 0 || start === null) return { ok: false, problems }
  return {
    ok: true,
    value: {
      // Things that are read as they are written need no more.
      ...Object.fromEntries(ITEMS.map(({ list }) => [list, read.value[list]])),
      name: raw.name, about: raw.about ?? '', size: raw.size, surround: raw.surround, floor: raw.floor,
      decks: raw.decks.length > 0 ? raw.decks : [{ at: [raw.size[0] / 2, raw.size[1] / 2], size: raw.size, turn: 0 }],
      walls, lanes, patches, lines: raw.lines, areas, pieces, crates, belts, light: raw.light, lamps,
      hush: raw.hush, noises: raw.noises.map(n => ({ at: n.at, first: n.first, every: n.every ?? null, lasts: n.lasts, loudness: n.loudness })), visitors: raw.visitors, scatter, start: start as Arena['start'],
    },
  }
}

/** `crate_1`, `crate_2`, …: the first that nobody has. */
export function freeName(kind: string, taken: ReadonlySet<string>): string {
  for (let n = 1; ; n++) if (!taken.has(`${kind}_${n}`)) return `${kind}_${n}`
}
