import { sin, cos } from '../maths'
import { RandomStream } from '../random'
import { freeName, type Arena, type ArenaPiece, type Area, type Belt, type PieceNature, type PieceShape } from './arena'

/** A piece where it stands when a run begins. */
export interface PlacedPiece extends ArenaPiece {
  /** Seconds after which a feeder puts it on its belt; null for one that is there from the start. */
  readonly fed: number | null
}

/** What a seed makes of an arena: every piece has its place, the robot its start. */
export interface Layout {
  readonly pieces: readonly PlacedPiece[]
  readonly start: { readonly x: number, readonly y: number, readonly heading: number }
  /** Pieces that found no room, by kind. */
  readonly leftOut: readonly string[]
}

/** How often a place is drawn for a piece before it is left out. */
const TRIES = 400

/** Lays out scattered pieces and the start. Each draws from a stream of its own kind. */
export function layOut(arena: Arena, seed: number): Layout {
  const starts = RandomStream.named(seed, 'scatter/start')
  const start = 'area' in arena.start
    ? { ...inArea(arena.start.area, starts), heading: arena.start.heading === 'any' ? starts.between(-Math.PI, Math.PI) : arena.start.heading }
    : { x: arena.start.at[0], y: arena.start.at[1], heading: arena.start.heading }
  const names = new Set(arena.pieces.map(p => p.name))
  const pieces: PlacedPiece[] = []
  for (const piece of arena.pieces) pieces.push(...stacked({ ...piece, fed: null }, names))
  const leftOut: string[] = []
  arena.scatter.forEach((s, i) => {
    const stream = RandomStream.named(seed, `scatter/${s.kind}/${i}`)
    const radius = outerRadius(s.body)
    for (let n = 0; n < s.count; n++) {
      let placed = false
      for (let k = 0; k < TRIES && !placed; k++) {
        const { x, y } = inArea(s.area, stream)
        const turn = stream.between(-Math.PI, Math.PI)
        if (distance(x, y, start.x, start.y) < s.clear + radius) continue
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
  return { pieces, start, leftOut }
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

/** A point of a turned frame on the plan (turn right positive). */
export function turned(x: number, y: number, turn: number): { x: number, y: number } {
  const c = cos(-turn)
  const s = sin(-turn)
  return { x: c * x - s * y, y: s * x + c * y }
}
