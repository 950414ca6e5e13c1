import type { SolidShape } from '~~/core/geometry'

/** Corners around a cylinder's rim. */
const ROUND = 28

/**
 * The outline on the plan of a solid, seen straight from above: the convex hull of its corners
 * (Andrew's monotone chain, 1979). `at` is where its pose stands in the row: x y z and a quaternion.
 */
export function shadowOf(shape: SolidShape, row: ArrayLike<number>, at: number): readonly (readonly [number, number])[] {
  const [px, py] = [row[at]!, row[at + 1]!]
  const [x, y, z, w] = [row[at + 3]!, row[at + 4]!, row[at + 5]!, row[at + 6]!]
  const points: [number, number][] = []
  const corner = (a: number, b: number, c: number): void => {
    points.push([
      px + (1 - 2 * (y * y + z * z)) * a + 2 * (x * y - z * w) * b + 2 * (x * z + y * w) * c,
      py + 2 * (x * y + z * w) * a + (1 - 2 * (x * x + z * z)) * b + 2 * (y * z - x * w) * c,
    ])
  }
  for (const side of [-1, 1]) {
    if (shape.shape === 'box') for (const [a, b] of [[-1, -1], [1, -1], [1, 1], [-1, 1]] as const) corner(a * shape.hx, b * shape.hy, side * shape.hz)
    else for (let i = 0; i < ROUND; i++) corner(shape.radius * Math.cos(2 * Math.PI * i / ROUND), shape.radius * Math.sin(2 * Math.PI * i / ROUND), side * shape.hz)
  }
  points.sort((a, b) => a[0] - b[0] || a[1] - b[1])
  const half = (list: readonly [number, number][]): [number, number][] => {
    const hull: [number, number][] = []
    for (const p of list) {
      while (hull.length >= 2 && cross(hull[hull.length - 2]!, hull[hull.length - 1]!, p) <= 0) hull.pop()
      hull.push(p)
    }
    hull.pop()
    return hull
  }
  return [...half(points), ...half([...points].reverse())]
}

function cross(o: readonly [number, number], a: readonly [number, number], b: readonly [number, number]): number {
  return (a[0] - o[0]) * (b[1] - o[1]) - (a[1] - o[1]) * (b[0] - o[0])
}
