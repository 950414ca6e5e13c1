import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { PLAIN_SURFACE, Ray, multiply, rotate, rotationMatrix, Scene, Solid, yawOf, yawQuaternion, type SolidShape } from '../../../core/geometry'

const surface = { ...PLAIN_SURFACE, friction: 1 }
/** A ray from a place along a way, and how far it reaches. */
const aim = (ray: Ray, ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, reach: number): Ray => Object.assign(ray.from(ox, oy, oz).along(dx, dy, dz), { reach })
const box = (x: number, y: number, z: number, yaw = 0) => new Solid('box', { shape: 'box', hx: 0.3, hy: 0.2, hz: 0.1 }, surface, { x, y, z }, yawQuaternion(yaw))

const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
const shape = fc.oneof(
  fc.record({ shape: fc.constant('box' as const), hx: number(0.05, 1), hy: number(0.05, 1), hz: number(0.05, 1) }),
  fc.record({ shape: fc.constant('cylinder' as const), radius: number(0.05, 1), hz: number(0.05, 1) }),
  number(0.05, 1).map(radius => ({ shape: 'ball' as const, radius, hz: radius })),
) as fc.Arbitrary<SolidShape>
const rotation = fc.tuple(number(-1, 1), number(-1, 1), number(-1, 1), number(-1, 1)).filter(q => Math.hypot(...q) > 0.1).map((q) => {
  const n = Math.hypot(...q)
  return { x: q[0] / n, y: q[1] / n, z: q[2] / n, w: q[3] / n }
})

/** Whether a point lies in or on the solid, worked out from its own frame. */
function inside(solid: Solid, x: number, y: number, z: number, slack: number): boolean {
  const p = solid.nearest(x, y, z)
  return Math.hypot(p.x - x, p.y - y, p.z - z) <= slack
}

describe('a ray meets a solid', () => {
  test('straight on, at a known distance with the normal of the face', () => {
    const h = new Ray()
    expect(box(2, 0.1, 0).cast(aim(h, 0, 0, 0, 1, 0, 0, 10))).toBe(true)
    expect(h.distance).toBeCloseTo(1.7, 12)
    expect([h.nx, h.ny, h.nz]).toEqual([-1, 0, 0])
  })
  test('turned by 90 deg its short side lies across', () => {
    const h = new Ray()
    expect(box(2, 0, 0, Math.PI / 2).cast(aim(h, 0, 0, 0, 1, 0, 0, 10))).toBe(true)
    expect(h.distance).toBeCloseTo(1.8, 12)
  })
  test('a ball beside its middle, with the normal from there', () => {
    const ball = new Solid('ball', { shape: 'ball', radius: 0.5, hz: 0.5 }, surface, { x: 2, y: 0.3, z: 0 }, yawQuaternion(1))
    const h = new Ray()
    expect(ball.cast(aim(h, 0, 0, 0, 1, 0, 0, 10))).toBe(true)
    expect(h.distance).toBeCloseTo(1.6, 12)
    expect([h.nx, h.ny, h.nz].map(n => Math.round(n * 1e9) / 1e9)).toEqual([-0.8, -0.6, 0])
    expect([ball.cast(aim(h, 0, -0.21, 0, 1, 0, 0, 10)), ball.cast(aim(h, 2, 0.3, 0, 1, 0, 0, 10)), ball.cast(aim(h, 0, 0, 0, 1, 0, 0, 1.5))]).toEqual([false, false, false])
  })
  test('a cylinder from the side and from above', () => {
    const post = new Solid('post', { shape: 'cylinder', radius: 0.25, hz: 0.5 }, surface, { x: 1, y: 2, z: 0.5 }, yawQuaternion(0.4))
    const h = new Ray()
    expect(post.cast(aim(h, 0, 2.15, 0.5, 1, 0, 0, 10))).toBe(true)
    expect(h.distance).toBeCloseTo(1 - Math.sqrt(0.25 * 0.25 - 0.15 * 0.15), 12)
    expect(post.cast(aim(h, 1.1, 2, 3, 0, 0, -1, 10))).toBe(true)
    expect([h.distance, h.nz]).toEqual([expect.closeTo(2, 12), 1])
    expect(post.cast(aim(h, 1.3, 2, 3, 0, 0, -1, 10))).toBe(false)
  })
  test('not beyond its limit, not behind, not from within', () => {
    const h = new Ray()
    expect(box(2, 0, 0).cast(aim(h, 0, 0, 0, 1, 0, 0, 1.6))).toBe(false)
    expect(box(-2, 0, 0).cast(aim(h, 0, 0, 0, 1, 0, 0, 10))).toBe(false)
    expect(box(0, 0, 0).cast(aim(h, 0, 0, 0, 1, 0, 0, 10))).toBe(false)
  })
  test('where it says it does: on the surface, its normal against the ray', () => {
    fc.assert(fc.property(shape, rotation, number(-2, 2), number(-2, 2), number(-2, 2), rotation, (s, q, x, y, z, way) => {
      const solid = new Solid('s', s, surface, { x, y, z }, q)
      const d = rotate(way, { x: 1, y: 0, z: 0 })
      const h = new Ray()
      if (!solid.cast(aim(h, 0, 0, 0, d.x, d.y, d.z, 10))) return
      const p = { x: d.x * h.distance, y: d.y * h.distance, z: d.z * h.distance }
      expect(inside(solid, p.x, p.y, p.z, 1e-6)).toBe(true)
      expect(Math.hypot(h.nx, h.ny, h.nz)).toBeCloseTo(1, 6)
      expect(d.x * h.nx + d.y * h.ny + d.z * h.nz).toBeLessThanOrEqual(1e-9)
    }), { numRuns: 2000 })
  })
  test('of several, the nearest: as asking each in turn', () => {
    fc.assert(fc.property(fc.array(fc.tuple(shape, rotation, number(-3, 3), number(-3, 3), number(-1, 1)), { minLength: 1, maxLength: 8 }), rotation, (all, way) => {
      const scene = new Scene()
      for (const [s, q, x, y, z] of all) scene.solids.push(new Solid('s', s, surface, { x, y, z }, q))
      const d = rotate(way, { x: 1, y: 0, z: 0 })
      const h = new Ray()
      const one = new Ray()
      const found = scene.cast(aim(h, 0, 0, 0, d.x, d.y, d.z, 10))
      const each = scene.solids.flatMap(s => s.cast(aim(one, 0, 0, 0, d.x, d.y, d.z, 10)) ? [one.distance] : [])
      expect(found).toBe(each.length > 0)
      if (found) expect(h.distance).toBeCloseTo(Math.min(...each), 9)
    }), { numRuns: 800 })
  })
})

describe('the nearest point of a solid', () => {
  test('is on its side of a box', () => {
    const p = box(1, 0, 0).nearest(3, 0.1, 0.5)
    expect([p.x, p.y, p.z]).toEqual([expect.closeTo(1.3, 12), expect.closeTo(0.1, 12), expect.closeTo(0.1, 12)])
  })
  test('is no farther than any point that a ray meets', () => {
    fc.assert(fc.property(shape, rotation, number(1, 3), number(-1, 1), rotation, (s, q, x, y, way) => {
      const solid = new Solid('s', s, surface, { x: x + 2, y, z: 0 }, q)
      const d = rotate(way, { x: 1, y: 0, z: 0 })
      const h = new Ray()
      const p = solid.nearest(0, 0, 0)
      if (solid.cast(aim(h, 0, 0, 0, d.x, d.y, d.z, 20))) expect(Math.hypot(p.x, p.y, p.z)).toBeLessThanOrEqual(h.distance + 1e-9)
    }), { numRuns: 1000 })
  })
})

describe('rotations', () => {
  test('a yaw turns forward to the left, counter-clockwise from above', () => {
    const v = rotate(yawQuaternion(Math.PI / 2), { x: 2, y: 0, z: 1 })
    expect([v.x, v.y, v.z]).toEqual([expect.closeTo(0, 12), expect.closeTo(2, 12), 1])
    expect(yawOf(yawQuaternion(-2.1))).toBeCloseTo(-2.1, 12)
  })
  test('a product turns by the second, then by the first; its matrix does the same', () => {
    fc.assert(fc.property(rotation, rotation, number(-2, 2), number(-2, 2), number(-2, 2), (a, b, x, y, z) => {
      const both = multiply(a, b)
      const one = rotate(a, rotate(b, { x, y, z }))
      const two = rotate(both, { x, y, z })
      const m = new Float64Array(9)
      rotationMatrix(both, m)
      for (const [p, q] of [[one.x, two.x], [one.y, two.y], [one.z, two.z], [m[0]! * x + m[1]! * y + m[2]! * z, two.x], [m[6]! * x + m[7]! * y + m[8]! * z, two.z]]) {
        expect(Math.abs(p! - q!)).toBeLessThan(1e-9)
      }
    }), { numRuns: 500 })
  })
})
