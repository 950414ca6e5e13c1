import { RandomStream } from '../random'
import type { Area, Lanes, Wall } from './arena'
import type { Side } from './items/lanes'

/** Lanes as the seed draws them. Metres. */
export interface DrawnLanes {
  readonly walls: readonly Wall[]
  /** Where the robot stands before the way in, looking at it; heading right positive from east. */
  readonly before: { readonly x: number, readonly y: number, readonly heading: number }
  /** The floor behind the way out, as large as one lane is wide. */
  readonly exit: Area
}

/** Steps to the four neighbours of a lane, with the heading that leads there. */
const STEPS: Readonly<Record<Side, { readonly x: number, readonly y: number, readonly heading: number }>> = {
  west: { x: -1, y: 0, heading: -Math.PI }, east: { x: 1, y: 0, heading: 0 }, south: { x: 0, y: -1, heading: Math.PI / 2 }, north: { x: 0, y: 1, heading: -Math.PI / 2 },
}

/**
 * Draws lanes: a tree over all of them by a walk that turns back where it is caught (depth-first search with random
 * order), so that each can be reached from each in exactly one way; then a share of the walls left is taken out.
 */
export function drawLanes(lanes: Lanes, seed: number): DrawnLanes {
  const { columns, rows } = lanes
  const stream = RandomStream.named(seed, `lanes/${lanes.name}`)
  const pitch = lanes.width + lanes.thickness
  const west = lanes.at[0] - pitch * columns / 2
  const south = lanes.at[1] - pitch * rows / 2
  const middle = (c: number, r: number): { x: number, y: number } => ({ x: west + (c + 0.5) * pitch, y: south + (r + 0.5) * pitch })
  // Walls between lanes: east of (c, r) and north of (c, r). The outermost are there from -1 on.
  const eastOf = grid(columns + 1, rows)
  const northOf = grid(columns, rows + 1)
  const open = (c: number, r: number, to: Side): void => {
    if (to === 'east') eastOf[c + 1]![r] = false
    else if (to === 'west') eastOf[c]![r] = false
    else if (to === 'north') northOf[c]![r + 1] = false
    else northOf[c]![r] = false
  }
  const seen = new Set<number>([0])
  const way: (readonly [number, number])[] = [[0, 0]]
  while (way.length > 0) {
    const [c, r] = way.at(-1)!
    const next = (Object.entries(STEPS) as [Side, { x: number, y: number }][]).filter(([, s]) => {
      const [x, y] = [c + s.x, r + s.y]
      return x >= 0 && y >= 0 && x < columns && y < rows && !seen.has(x + y * columns)
    })
    if (next.length === 0) { way.pop(); continue }
    const [to, step] = next[Math.min(next.length - 1, Math.floor(stream.unit() * next.length))]!
    open(c, r, to)
    seen.add(c + step.x + (r + step.y) * columns)
    way.push([c + step.x, r + step.y])
  }
  // Each wall left inside is asked once, whether it stays or not: another share changes nothing else that is drawn.
  for (let c = 1; c < columns; c++) for (let r = 0; r < rows; r++) if (stream.unit() < lanes.open) eastOf[c]![r] = false
  for (let c = 0; c < columns; c++) for (let r = 1; r < rows; r++) if (stream.unit() < lanes.open) northOf[c]![r] = false
  const at = (side: Side): readonly [number, number] => {
    const along = Math.floor(stream.unit() * (side === 'west' || side === 'east' ? rows : columns))
    return side === 'west' ? [0, along] : side === 'east' ? [columns - 1, along] : side === 'south' ? [along, 0] : [along, rows - 1]
  }
  const enters = at(lanes.wayIn)
  open(...enters, lanes.wayIn)
  const leaves = at(lanes.wayOut)
  open(...leaves, lanes.wayOut)
  const outside = ([c, r]: readonly [number, number], side: Side): { x: number, y: number } => middle(c + STEPS[side].x, r + STEPS[side].y)
  const start = outside(enters, lanes.wayIn)
  const exit = outside(leaves, lanes.wayOut)
  return {
    walls: [
      ...eastOf.flatMap((column, c) => stretches(column).map(([from, to]) => wall(lanes, west + c * pitch, south + from * pitch, west + c * pitch, south + to * pitch))),
      ...Array.from({ length: rows + 1 }, (_, r) => r).flatMap(r => stretches(northOf.map(column => column[r]!)).map(([from, to]) => wall(lanes, west + from * pitch, south + r * pitch, west + to * pitch, south + r * pitch))),
    ],
    before: { ...start, heading: STEPS[lanes.wayIn].heading + (STEPS[lanes.wayIn].heading > 0 ? -Math.PI : Math.PI) },
    exit: { at: [exit.x, exit.y], size: [lanes.width, lanes.width] },
  }
}

/** Walls that all stand, by column and row. */
const grid = (columns: number, rows: number): boolean[][] => Array.from({ length: columns }, () => Array.from({ length: rows }, () => true))

/** Where walls stand without a gap: from which to which. */
function stretches(standing: readonly boolean[]): readonly (readonly [number, number])[] {
  const found: [number, number][] = []
  standing.forEach((stands, i) => {
    if (!stands) return
    const last = found.at(-1)
    if (last?.[1] === i) last[1] = i + 1
    else found.push([i, i + 1])
  })
  return found
}

/** A wall whose ends cover the corners. */
function wall(lanes: Lanes, ax: number, ay: number, bx: number, by: number): Wall {
  const half = lanes.thickness / 2
  const [dx, dy] = ay === by ? [half, 0] : [0, half]
  return { from: [ax - dx, ay - dy], to: [bx + dx, by + dy], height: lanes.height, thickness: lanes.thickness, echo: lanes.echo, color: lanes.color, drawn: null }
}
