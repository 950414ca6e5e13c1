import { ITEMS, type Arena } from '../arena'
import { turned } from '../geometry'

/** So far east and north (metres), turned so much to the right (radians). */
export interface Shift { readonly east: number, readonly north: number, readonly turn: number }

/** A thing of an arena, with what says where it is: its middle, its ends, or the points that it goes through; or the area that the seed draws from. */
interface Thing {
  readonly name?: string
  readonly at?: Place
  readonly turn?: number
  readonly from?: Place
  readonly to?: Place
  readonly points?: readonly Place[]
  readonly path?: readonly Place[]
  readonly area?: { readonly at: Place }
  readonly drawn?: { readonly area: { readonly at: Place } } | null
}
type Place = readonly [number, number]

const LISTS = ITEMS.map(item => item.list)
const thingsOf = (arena: Arena, list: string): readonly Thing[] => (arena as unknown as Readonly<Record<string, readonly Thing[]>>)[list]!

/** What a thing is called when it is moved: its own name, or its place in the document (`walls[2]`). */
const nameOf = (thing: Thing, list: string, i: number): string => thing.name ?? `${list}[${i}]`
const turns = (thing: Thing): boolean => thing.turn !== undefined || thing.from !== undefined || thing.points !== undefined || thing.path !== undefined

/** What may stand elsewhere in an arena, by name, those first that have one of their own; and whether it turns, too. */
export const movableIn = (arena: Arena): ReadonlyMap<string, { readonly turns: boolean }> => {
  const all = LISTS.flatMap(list => thingsOf(arena, list).map((thing, i) => ({ thing, name: nameOf(thing, list, i) })))
  const [named, others] = [all.filter(({ thing }) => thing.name !== undefined), all.filter(({ thing }) => thing.name === undefined)]
  return new Map([...named, ...others].map(({ thing, name }) => [name, { turns: turns(thing) }]))
}

/** How many names an error gives. */
const FEW = 12
/** Why a thing cannot stand elsewhere in an arena, or cannot be turned there; null where it can. */
export function unmovable(arena: Arena, name: string, turned = false): string | null {
  const movable = movableIn(arena)
  const thing = movable.get(name)
  const names = [...movable.keys()]
  if (thing === undefined) return `the arena has nothing of this name that can be moved; it has ${names.slice(0, FEW).join(', ') || 'none'}${names.length > FEW ? ` and ${names.length - FEW} more` : ''}`
  return turned && !thing.turns ? 'this does not turn' : null
}

/** An arena with things elsewhere, by their names. */
export const movedArena = (arena: Arena, moved: Readonly<Record<string, Shift>>): Arena => Object.keys(moved).length === 0 ? arena : {
  ...arena, ...Object.fromEntries(LISTS.map(list => [list, thingsOf(arena, list).map((thing, i) => {
    const shift = moved[nameOf(thing, list, i)]
    return shift === undefined ? thing : { ...thing, ...placeOf(thing, shift) }
  })])),
}

/** Where a thing is when it is moved, of what says where it is. What has ends or points turns about their middle; one whose place the seed draws has the area that it is drawn from elsewhere. */
function placeOf(thing: Thing, { east, north, turn }: Shift): Omit<Thing, 'name'> {
  const there = ([x, y]: Place): Place => [x + east, y + north]
  const about = (points: readonly Place[]): readonly Place[] => {
    const [x, y] = [0, 1].map(i => (Math.min(...points.map(p => p[i]!)) + Math.max(...points.map(p => p[i]!))) / 2) as [number, number]
    return points.map((p) => {
      if (turn === 0) return there(p)
      const by = turned(p[0] - x, p[1] - y, turn)
      return there([x + by.x, y + by.y])
    })
  }
  const { at, from, to, points, path, area, drawn } = thing
  return {
    ...at === undefined ? {} : { at: there(at) },
    ...thing.turn === undefined ? {} : { turn: thing.turn + turn },
    ...from === undefined || to === undefined ? {} : ((ends): Thing => ({ from: ends[0]!, to: ends[1]! }))(about([from, to])),
    ...points === undefined ? {} : { points: about(points) },
    ...path === undefined ? {} : { path: about(path) },
    ...area === undefined ? {} : { area: { ...area, at: there(area.at) } },
    ...drawn == null ? {} : { drawn: { ...drawn, area: { ...drawn.area, at: there(drawn.area.at) } } },
  }
}

/** A place as documents write it, to the bit. */
const written = ([x, y]: Place): readonly [string, string] => [`${x} m`, `${y} m`]

/** An arena's document with things elsewhere, by their names: those lists of it that have one. `arena`: what was read of it. */
export function movedDocument(document: Readonly<Record<string, unknown>>, arena: Arena, moved: Readonly<Record<string, Shift>>): Readonly<Record<string, unknown>> {
  return Object.fromEntries(LISTS.flatMap((list) => {
    const things = thingsOf(arena, list)
    if (!things.some((thing, i) => nameOf(thing, list, i) in moved)) return []
    return [[list, things.map((thing, i) => {
      const raw = (document[list] as readonly { readonly area?: object }[])[i]!
      const shift = moved[nameOf(thing, list, i)]
      if (shift === undefined) return raw
      const { at, from, to, points, path, area, turn, drawn } = placeOf(thing, shift)
      const drawnFrom = area ?? drawn?.area
      return {
        // Each is called as it was: names that were given by counting stay.
        ...raw, ...thing.name === undefined ? {} : { name: thing.name },
        ...drawnFrom !== undefined ? { area: { ...raw.area, at: written(drawnFrom.at) } } : at !== undefined ? { at: written(at) } : {},
        ...from === undefined || to === undefined ? {} : { from: written(from), to: written(to) },
        ...points === undefined ? {} : { points: points.map(written) },
        ...path === undefined ? {} : { path: path.map(written) },
        ...turn === undefined || turn === 0 ? {} : { turn: `${turn * 180 / Math.PI} deg` },
      }
    })]]
  }))
}
