import { sin, cos } from '../maths'
import { RandomStream } from '../random'
import { freeName, type Arena, type ArenaPiece, type Area, type PieceShape } from './arena'

/** A piece where it stands when a run begins. */
export type PlacedPiece = ArenaPiece

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
  const pieces: PlacedPiece[] = [...arena.pieces]
  const names = new Set(pieces.map(p => p.name))
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
        pieces.push({ name, kind: s.kind, body: s.body, mass: s.mass, fixed: s.fixed, color: s.color, friction: s.friction, echo: s.echo, at: [x, y], turn })
        placed = true
      }
      if (!placed) leftOut.push(s.kind)
    }
  })
  return { pieces, start, leftOut }
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
