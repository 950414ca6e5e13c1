import { atan2 } from '../../maths'

/** What a drawn figure is on the plan. Metres. */

export type Point = readonly [number, number]
/** A run of straight stretches; a closed one ends where it begins, without saying that point twice. */
export interface Stroke { readonly points: readonly Point[], readonly closed: boolean }
/** A rectangle by its middle, size and turn (radians, right positive), or a disc. */
export type Plain = { readonly shape: 'box', readonly at: Point, readonly size: Point, readonly turn: number } | { readonly shape: 'disc', readonly at: Point, readonly diameter: number }

/** Corners of a rectangle may be off a right angle by as much (cosine), sides of it by as much of their length. */
const SQUARE = 0.01
/** Points of a disc may be off its radius by as much of it. */
const ROUND = 0.02
/** Fewer points make no disc. */
const LEAST = 10

/** How far two points are apart. */
export function distance(a: Point, b: Point): number {
  const [dx, dy] = [a[0] - b[0], a[1] - b[1]]
  return Math.sqrt(dx * dx + dy * dy)
}

/** The rectangle or disc that a closed stroke is; null when it is neither. */
export function plainOf({ points, closed }: Stroke): Plain | null {
  if (!closed) return null
  const corners = withoutStraight(points)
  return corners.length === 4 ? boxOf(corners as unknown as readonly [Point, Point, Point, Point]) : discOf(points)
}

function boxOf([a, b, c, d]: readonly [Point, Point, Point, Point]): Plain | null {
  const [long, wide] = [distance(a, b), distance(b, c)]
  const skew = Math.abs((b[0] - a[0]) * (c[0] - b[0]) + (b[1] - a[1]) * (c[1] - b[1])) / (long * wide)
  if (skew > SQUARE || Math.abs(distance(c, d) - long) > SQUARE * long || Math.abs(distance(d, a) - wide) > SQUARE * wide) return null
  const at: Point = [(a[0] + c[0]) / 2, (a[1] + c[1]) / 2]
  // Sides that lie nearly east or north need no turn: a quarter of one changes their places.
  const turn = -atan2(b[1] - a[1], b[0] - a[0])
  const quarters = Math.round(turn / (Math.PI / 2))
  const rest = turn - quarters * Math.PI / 2
  return { shape: 'box', at, size: quarters % 2 === 0 ? [long, wide] : [wide, long], turn: Math.abs(rest) < 1e-6 ? 0 : rest }
}

function discOf(points: readonly Point[]): Plain | null {
  if (points.length < LEAST) return null
  const [west, east] = [Math.min(...points.map(p => p[0])), Math.max(...points.map(p => p[0]))]
  const [south, north] = [Math.min(...points.map(p => p[1])), Math.max(...points.map(p => p[1]))]
  const at: Point = [(west + east) / 2, (south + north) / 2]
  const radius = (east - west + north - south) / 4
  return points.every(p => Math.abs(distance(p, at) - radius) < ROUND * radius) ? { shape: 'disc', at, diameter: 2 * radius } : null
}

/** Without the points that lie on the way between their neighbours. */
function withoutStraight(points: readonly Point[]): readonly Point[] {
  const n = points.length
  return points.filter((p, i) => {
    const [a, b] = [points[(i + n - 1) % n]!, points[(i + 1) % n]!]
    const long = distance(a, b)
    return long === 0 || Math.abs((b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0])) / long > 1e-4
  })
}

/** A run of points with as few of them as stay within a tolerance (metres) of all (Ramer 1972, Douglas and Peucker 1973). */
export function simplified(points: readonly Point[], tolerance: number): readonly Point[] {
  if (points.length < 3) return points
  const [a, b] = [points[0]!, points.at(-1)!]
  const long = distance(a, b)
  let [farthest, far] = [0, -1]
  for (let i = 1; i < points.length - 1; i++) {
    const p = points[i]!
    const off = long < 1e-9 ? distance(a, p) : Math.abs((b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0])) / long
    if (off > far) [farthest, far] = [i, off]
  }
  if (far <= tolerance) return [a, b]
  return [...simplified(points.slice(0, farthest + 1), tolerance).slice(0, -1), ...simplified(points.slice(farthest), tolerance)]
}
