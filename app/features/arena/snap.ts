import type { Point } from './things'

/** Where a dragged place snaps to, and what it snapped to there. */
export interface Snapped { readonly at: Point, readonly to: 'end' | 'along' | 'grid' | null }

/**
 * Snaps a place: to the nearest end or middle of a thing within `reach`, else into line with one (each way by itself),
 * else to the grid. `reach`, `grid`: metres; a grid of 0 is none.
 */
export function snap(place: Point, marks: readonly Point[], reach: number, grid: number): Snapped {
  let best: Point | null = null
  let nearest = reach
  for (const mark of marks) {
    const d = Math.hypot(mark[0] - place[0], mark[1] - place[1])
    if (d <= nearest) { nearest = d; best = mark }
  }
  if (best !== null) return { at: best, to: 'end' }
  const line = (k: 0 | 1): number | null => {
    const close = marks.map(m => m[k]).filter(v => Math.abs(v - place[k]) <= reach / 2)
    return close.sort((a, b) => Math.abs(a - place[k]) - Math.abs(b - place[k]))[0] ?? null
  }
  const [x, y] = [line(0), line(1)]
  const onGrid = (v: number): number => grid > 0 ? Math.round(v / grid) * grid : v
  return { at: [x ?? onGrid(place[0]), y ?? onGrid(place[1])], to: x !== null || y !== null ? 'along' : grid > 0 ? 'grid' : null }
}
