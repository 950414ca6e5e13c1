import { turned } from '../geometry'
import { RandomStream } from '../random'
import { drawLanes, type DrawnLanes } from './lanes'
import { freeName, type Arena, type ArenaPiece, type Area, type Belt, type PieceNature, type PieceShape, type Scattered } from './arena'

/** A piece where it stands when a run begins. */
export interface PlacedPiece extends ArenaPiece {
  /** Seconds after which a feeder puts it on its belt; null for one that is there from the start. */
  readonly fed: number | null
}

/** What a seed makes of an arena: everything has its place, the robot its start. */
export interface Layout {
  /** The arena with walls, crates, areas and lamps where the seed puts them. */
  readonly arena: Arena
  readonly pieces: readonly PlacedPiece[]
  readonly start: { readonly x: number, readonly y: number, readonly heading: number }
  /** Pieces that found no room, by kind. */
  readonly leftOut: readonly string[]
  /** What else found none: where in the document it stands. */
  readonly noRoom: readonly string[]
}

/** How often a place is drawn for a piece before it is left out. */
const TRIES = 400

/** Lays out all that is scattered and the start. Each draws from a stream of its own kind. */
export function layOut(written: Arena, seed: number): Layout {
  const lanes = new Map(written.lanes.map(l => [l.name, drawLanes(l, seed)]))
  const start = startOf(written, seed, lanes)
  const names = new Set(written.pieces.map(p => p.name))
  const pieces: PlacedPiece[] = []
  for (const piece of written.pieces) pieces.push(...stacked({ ...piece, fed: null }, names))
  const leftOut: string[] = []
  const { arena, taken, noRoom } = putUp(walled(written, lanes), seed, start, pieces)
  arena.scatter.forEach((s, i) => {
    const stream = RandomStream.named(seed, `scatter/${s.kind}/${i}`)
    const radius = outerRadius(s.body)
    for (let n = 0; n < s.count; n++) {
      let placed = false
      for (let k = 0; k < TRIES && !placed; k++) {
        const { x, y } = inArea(s.area, stream)
        const turn = stream.between(-Math.PI, Math.PI)
        if (distance(x, y, start.x, start.y) < s.clear + radius) continue
        if (taken.some(t => nearness(t, x, y) < s.apart + radius)) continue
        if (pieces.some(p => distance(x, y, p.at[0], p.at[1]) < s.apart + radius + outerRadius(p.body))) continue
        const name = freeName(s.kind, names)
        names.add(name)
        pieces.push(...stacked({ ...natureOf(s), name, at: [x, y], up: 0, turn, fed: null }, names))
        placed = true
      }
      if (!placed) leftOut.push(s.kind)
    }
  })
  for (const belt of arena.belts) pieces.push(...fedPieces(belt, names, seed))
  return { arena, pieces, start, leftOut, noRoom }
}

function startOf({ start }: Arena, seed: number, lanes: ReadonlyMap<string, DrawnLanes>): Layout['start'] {
  if ('before' in start) return lanes.get(start.before)!.before
  const stream = RandomStream.named(seed, 'scatter/start')
  const place = 'at' in start ? { x: start.at[0], y: start.at[1] } : inArea(start.area, stream)
  return { ...place, heading: start.heading === 'any' ? stream.between(-Math.PI, Math.PI) : start.heading }
}

/** The arena with the walls of its lanes and the marked areas behind them. */
function walled(arena: Arena, lanes: ReadonlyMap<string, DrawnLanes>): Arena {
  if (lanes.size === 0) return arena
  return {
    ...arena,
    walls: [...arena.walls, ...[...lanes.values()].flatMap(l => l.walls)],
    areas: [...arena.areas, ...arena.lanes.map(l => ({ name: l.exit, ...lanes.get(l.name)!.exit, drawn: null }))],
  }
}

/** What takes room on the plan: a stretch from one point to another, and how far from it. */
interface Taken { readonly from: readonly [number, number], readonly to: readonly [number, number], readonly radius: number }

/** What the seed puts up keeps this clear of the start beyond its own size, metres, and this of other things. */
const CLEAR = 0.3
const APART = 0.1

/** Walls, crates, areas and lamps where the seed puts them, and the room that drawn walls and crates take. */
function putUp(arena: Arena, seed: number, start: Layout['start'], pieces: readonly PlacedPiece[]): { arena: Arena, taken: readonly Taken[], noRoom: readonly string[] } {
  const standing: Taken[] = [
    ...arena.walls.flatMap(w => w.drawn === null ? [{ from: w.from, to: w.to, radius: w.thickness / 2 }] : []),
    ...arena.crates.flatMap(c => c.drawn === null ? [round(c.at, c.size)] : []),
    ...arena.belts.map(b => round(b.at, b.size)),
    ...pieces.map(p => ({ from: p.at, to: p.at, radius: outerRadius(p.body) })),
  ]
  const taken: Taken[] = []
  const noRoom: string[] = []
  const fits = (t: Taken, others: readonly Taken[]): boolean => nearness(t, start.x, start.y) > CLEAR && others.every(o => between(t, o) > APART)
  /** Draws until it fits; what never does is left out. */
  const put = <T extends Scattered>(thing: T, stream: RandomStream, path: string, at: (x: number, y: number, spin: number) => { made: T, room: Taken }, keep: (room: Taken) => boolean, takes: Taken[]): readonly T[] => {
    if (thing.drawn === null) return [thing]
    for (let k = 0; k < TRIES; k++) {
      const { x, y } = inArea(thing.drawn.area, stream)
      const { made, room } = at(x, y, thing.drawn.anyTurn ? stream.between(-Math.PI, Math.PI) : 0)
      if (!keep(room)) continue
      takes.push(room)
      return [made]
    }
    noRoom.push(path)
    return []
  }
  const walls = arena.walls.flatMap((wall, i) => put(wall, RandomStream.named(seed, `scatter/wall/${i}`), `walls[${i}]`, (x, y, spin) => {
    const half = turned((wall.to[0] - wall.from[0]) / 2, (wall.to[1] - wall.from[1]) / 2, spin)
    const from = [x - half.x, y - half.y] as const
    const to = [x + half.x, y + half.y] as const
    return { made: { ...wall, from, to }, room: { from, to, radius: wall.thickness / 2 } }
  }, room => fits(room, [...standing, ...taken]), taken))
  const crates = arena.crates.flatMap((crate, i) => put(crate, RandomStream.named(seed, `scatter/crate/${crate.name}`), `crates[${i}]`, (x, y, spin) => {
    return { made: { ...crate, at: [x, y] as const, turn: crate.turn + spin }, room: round([x, y], crate.size) }
  }, room => fits(room, [...standing, ...taken]), taken))
  const marked: Taken[] = arena.areas.flatMap(a => a.drawn === null ? [round(a.at, a.size)] : [])
  const areas = arena.areas.flatMap((area, i) => put(area, RandomStream.named(seed, `scatter/area/${area.name}`), `areas[${i}]`, (x, y) => {
    return { made: { ...area, at: [x, y] as const }, room: round([x, y], area.size) }
  }, room => marked.every(o => between(room, o) > 0), marked))
  const lamps = arena.lamps.flatMap((lamp, i) => put(lamp, RandomStream.named(seed, `scatter/lamp/${lamp.name}`), `lamps[${i}]`, (x, y) => {
    return { made: { ...lamp, at: [x, y] as const }, room: round([x, y], [0, 0]) }
  }, () => true, []))
  return { arena: { ...arena, walls, crates, areas, lamps }, taken, noRoom }
}

/** The circle that holds a box however it is turned. */
function round(at: readonly [number, number], size: readonly [number, number]): Taken {
  return { from: at, to: at, radius: Math.sqrt(size[0] * size[0] + size[1] * size[1]) / 2 }
}

/** Metres from a point to the edge of what is taken; below 0 inside. */
function nearness({ from, to, radius }: Taken, x: number, y: number): number {
  const dx = to[0] - from[0]
  const dy = to[1] - from[1]
  const long = dx * dx + dy * dy
  const share = long === 0 ? 0 : Math.min(1, Math.max(0, ((x - from[0]) * dx + (y - from[1]) * dy) / long))
  return distance(x, y, from[0] + share * dx, from[1] + share * dy) - radius
}

/** Metres between the edges of two: of stretches that cross, below 0. */
function between(a: Taken, b: Taken): number {
  if (crosses(a, b)) return -1
  return Math.min(
    nearness(a, b.from[0], b.from[1]) - b.radius, nearness(a, b.to[0], b.to[1]) - b.radius,
    nearness(b, a.from[0], a.from[1]) - a.radius, nearness(b, a.to[0], a.to[1]) - a.radius,
  )
}

function crosses(a: Taken, b: Taken): boolean {
  const side = (t: Taken, p: readonly [number, number]): number => (t.to[0] - t.from[0]) * (p[1] - t.from[1]) - (t.to[1] - t.from[1]) * (p[0] - t.from[0])
  return side(a, b.from) * side(a, b.to) < 0 && side(b, a.from) * side(b, a.to) < 0
}

function natureOf(p: PieceNature): PieceNature {
  return { kind: p.kind, body: p.body, mass: p.mass, fixed: p.fixed, color: p.color, friction: p.friction, echo: p.echo, steel: p.steel, tag: p.tag, stack: p.stack }
}

/** The pieces of a stack, from below; a plain piece alone. */
function stacked(piece: PlacedPiece, names: Set<string>): PlacedPiece[] {
  const out = [piece]
  for (let n = 1; n < piece.stack; n++) {
    const name = freeName(piece.kind, names)
    names.add(name)
    out.push({ ...piece, name, up: piece.up + n * piece.body.height })
  }
  return out
}

/** What a feeder will put on its belt, in the order that the seed gives (Fisher and Yates). */
function fedPieces(belt: Belt, names: Set<string>, seed: number): PlacedPiece[] {
  if (belt.feeder === null) return []
  const { first, every, items } = belt.feeder
  const stream = RandomStream.named(seed, `feeder/${belt.name}`)
  const order = items.flatMap(item => Array.from({ length: item.count }, () => item))
  for (let i = order.length - 1; i > 0; i--) {
    const k = Math.floor(stream.unit() * (i + 1));
    [order[i], order[k]] = [order[k]!, order[i]!]
  }
  // Just inside the end that the belt comes from.
  const along = Math.sign(belt.speed || 1) * -(belt.size[0] / 2 - 0.04)
  const offset = turned(along, 0, belt.turn)
  return order.map((item, i) => {
    const name = freeName(item.kind, names)
    names.add(name)
    return { ...natureOf(item), name, fixed: false, at: [belt.at[0] + offset.x, belt.at[1] + offset.y], up: belt.height, turn: belt.turn, fed: first + i * every }
  })
}

function inArea(area: Area, stream: RandomStream): { x: number, y: number } {
  return {
    x: area.at[0] + (stream.unit() - 0.5) * area.size[0],
    y: area.at[1] + (stream.unit() - 0.5) * area.size[1],
  }
}

function distance(ax: number, ay: number, bx: number, by: number): number {
  return Math.sqrt((ax - bx) * (ax - bx) + (ay - by) * (ay - by))
}

/** Radius of the circle on the plan that holds the shape. */
export function outerRadius(body: PieceShape): number {
  return body.shape === 'box' ? Math.sqrt(body.length * body.length + body.width * body.width) / 2 : body.diameter / 2
}
