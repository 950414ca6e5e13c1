import type { Point } from './things'

/** Where a dragged place snaps to, and what it snapped to there. */
export interface Snapped { readonly at: Point, readonly to: 'end' | 'edge' | 'along' | 'grid' | null }

/**
 * Snaps a place: to the nearest end or middle of a thing within `reach`, else onto an edge (a wall, a line, a side) that is
 * nearer than half of it, by steps of the grid from where that begins, else into line with a thing (each way by itself),
 * else to the grid. `reach`, `grid`: metres; a grid of 0 is none.
 */
export function snap(place: Point, marks: readonly Point[], reach: number, grid: number, edges: readonly (readonly [Point, Point])[] = []): Snapped {
  let best: Point | null = null
  let nearest = reach
  for (const mark of marks) {
    const d = Math.hypot(mark[0] - place[0], mark[1] - place[1])
    if (d <= nearest) { nearest = d; best = mark }
  }
  if (best !== null) return { at: best, to: 'end' }
  const edge = onEdge(place, edges, reach / 2, grid)
  if (edge !== null) return { at: edge, to: 'edge' }
  const line = (k: 0 | 1): number | null => {
    const close = marks.map(m => m[k]).filter(v => Math.abs(v - place[k]) <= reach / 2)
    return close.sort((a, b) => Math.abs(a - place[k]) - Math.abs(b - place[k]))[0] ?? null
  }
  const [x, y] = [line(0), line(1)]
  const onGrid = (v: number): number => grid > 0 ? Math.round(v / grid) * grid : v
  return { at: [x ?? onGrid(place[0]), y ?? onGrid(place[1])], to: x !== null || y !== null ? 'along' : grid > 0 ? 'grid' : null }
}

/** The place on the nearest edge within `reach`; null where none is so near. */
function onEdge(place: Point, edges: readonly (readonly [Point, Point])[], reach: number, grid: number): Point | null {
  let best: Point | null = null
  let nearest = reach
  for (const [a, b] of edges) {
    const long = Math.hypot(b[0] - a[0], b[1] - a[1])
    if (long < 1e-9) continue
    const [ux, uy] = [(b[0] - a[0]) / long, (b[1] - a[1]) / long]
    const [dx, dy] = [place[0] - a[0], place[1] - a[1]]
    const along = dx * ux + dy * uy
    const off = Math.abs(dx * uy - dy * ux)
    if (along < 0 || along > long || off > nearest) continue
    nearest = off
    const at = Math.min(long, grid > 0 ? Math.round(along / grid) * grid : along)
    best = [a[0] + at * ux, a[1] + at * uy]
  }
  return best
}
