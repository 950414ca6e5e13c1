import fc from 'fast-check'
import { beforeAll, describe, expect, test } from 'vitest'
import { PLAIN_SURFACE, Solid, multiply, yawQuaternion, type Pose, type Quaternion, type SolidShape, type Vector } from '../../../core/geometry'
import { World, gap, loadPhysics } from '../../../core/physics'

/** How near two solids are, against what plane geometry and our own solids say. */

beforeAll(() => loadPhysics())

const at = (x: number, y: number, z: number, rotation: Quaternion = yawQuaternion(0)): Pose => ({ position: { x, y, z }, rotation })
const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
const shape = fc.oneof(
  fc.record({ shape: fc.constant('box' as const), hx: number(0.01, 0.3), hy: number(0.01, 0.3), hz: number(0.01, 0.3) }),
  fc.record({ shape: fc.constant('cylinder' as const), radius: number(0.01, 0.3), hz: number(0.01, 0.3) }),
) as fc.Arbitrary<SolidShape>
const tilt = (angle: number): Quaternion => ({ x: Math.sin(angle / 2), y: 0, z: 0, w: Math.cos(angle / 2) })
const pose = fc.tuple(number(-1, 1), number(-1, 1), number(-0.6, 0.6), number(-3, 3), number(-1.5, 1.5)).map(([x, y, z, yaw, roll]) => at(x, y, z, multiply(yawQuaternion(yaw), tilt(roll))))
const solid = (s: SolidShape, p: Pose): Solid => new Solid('it', s, PLAIN_SURFACE, p.position, p.rotation)
const far = (a: Vector, b: Vector): number => Math.hypot(a.x - b.x, a.y - b.y, a.z - b.z)

/** The distance of two solids by our own nearest points, each to the other, again and again: it comes near the true one from above. */
function approached(a: Solid, b: Solid): number {
  let p: Vector = { x: a.px, y: a.py, z: a.pz }
  let q: Vector = p
  for (let i = 0; i < 400; i++) {
    q = b.nearest(p.x, p.y, p.z)
    p = a.nearest(q.x, q.y, q.z)
  }
  return far(p, q)
}

describe('the gap between two solids', () => {
  test('of boxes face to face is what lies between, and points from the first to the second', () => {
    const cube: SolidShape = { shape: 'box', hx: 0.1, hy: 0.1, hz: 0.1 }
    const met = gap(cube, at(0, 0, 0), cube, at(0.25, 0.02, 0), 1)!
    expect(met.distance).toBeCloseTo(0.05, 6)
    expect(met.normal.x).toBeCloseTo(1, 6)
    expect(met.at.x).toBeCloseTo(0.125, 6)
  })
  test('of a box and a post beside it, and of one standing on it', () => {
    const box: SolidShape = { shape: 'box', hx: 0.1, hy: 0.1, hz: 0.05 }
    const post: SolidShape = { shape: 'cylinder', radius: 0.03, hz: 0.2 }
    expect(gap(box, at(0, 0, 0), post, at(0, 0.2, 0), 1)!.distance).toBeCloseTo(0.07, 4)
    const above = gap(box, at(0, 0, 0), post, at(0, 0, 0.26), 1)!
    expect([above.distance, above.normal.z]).toEqual([expect.closeTo(0.01, 4), expect.closeTo(1, 4)])
  })
  test('of solids inside of one another is below nothing, by how deep', () => {
    const cube: SolidShape = { shape: 'box', hx: 0.1, hy: 0.1, hz: 0.1 }
    expect(gap(cube, at(0, 0, 0), cube, at(0.19, 0, 0), 1)!.distance).toBeCloseTo(-0.01, 4)
  })
  test('is none beyond what is asked for', () => {
    const cube: SolidShape = { shape: 'box', hx: 0.1, hy: 0.1, hz: 0.1 }
    expect(gap(cube, at(0, 0, 0), cube, at(0.5, 0, 0), 0.29)).toBeNull()
    expect(gap(cube, at(0, 0, 0), cube, at(0.5, 0, 0), 0.31)!.distance).toBeCloseTo(0.3, 5)
  })
  // The library stops a little early at rims: what is asked is how often, and how much at most.
  const spread = (of: (a: SolidShape, p: Pose, b: SolidShape, q: Pose) => number | null, count: number): { readonly usual: number, readonly worst: number } => {
    const found = fc.sample(fc.tuple(shape, pose, shape, pose), { numRuns: count, seed: 7 }).flatMap(([a, p, b, q]) => of(a, p, b, q) ?? []).map(Math.abs).sort((x, y) => x - y)
    expect(found.length).toBeGreaterThan(count / 4)
    return { usual: found[Math.floor(found.length * 0.9)]!, worst: found.at(-1)! }
  }
  test('of any two solids anywhere is no more than that of our own nearest points', () => {
    const { usual, worst } = spread((a, p, b, q) => {
      const met = gap(a, p, b, q, 5)!
      return met.distance < 0.003 ? null : Math.max(0, met.distance - approached(solid(a, p), solid(b, q)))
    }, 600)
    expect(usual).toBeLessThan(1e-3)
    expect(worst).toBeLessThan(0.02)
  })
  test('is the same seen from either side, and wherever both are', () => {
    const { usual, worst } = spread((a, p, b, q) => {
      const one = gap(a, p, b, q, 5)!
      if (one.distance < 0.003) return null
      const shift = (r: Pose): Pose => ({ position: { x: r.position.x + 1.3, y: r.position.y - 0.7, z: r.position.z }, rotation: r.rotation })
      return Math.max(Math.abs(one.distance - gap(b, q, a, p, 5)!.distance), Math.abs(one.distance - gap(a, shift(p), b, shift(q), 5)!.distance))
    }, 1500)
    expect(usual).toBeLessThan(1e-4)
    expect(worst).toBeLessThan(0.02)
  })
})

describe('a body', () => {
  const fresh = (): World => new World(0.01)
  const cube: SolidShape = { shape: 'box', hx: 0.05, hy: 0.05, hz: 0.05 }
  test('struck off its middle gets the spin and the speed that its moments say', () => {
    const w = fresh()
    const body = w.addLoose('it', cube, at(0, 0, 1), 0.5, 0.3)
    w.strikeAt(body, { x: 0.06, y: 0, z: 0 }, { x: 0, y: 0.05, z: 1 })
    const [v, s] = [w.velocityOf(body), w.spinOf(body)]
    expect(v.x).toBeCloseTo(0.06 / 0.3, 5)
    // m a² / 6 for a cube of edge a.
    expect(s.z).toBeCloseTo(-0.06 * 0.05 / (0.3 * 0.01 / 6), 2)
    w.free()
  })
  test('pushed for a step is as fast as one struck with the same impulse', () => {
    const speed = (push: (w: World, b: number) => void): number => {
      const w = fresh()
      const b = w.addLoose('it', cube, at(0, 0, 5), 0.5, 0.3)
      push(w, b)
      w.step()
      const { x } = w.velocityOf(b)
      w.free()
      return x
    }
    expect(speed((w, b) => w.push(b, { x: 0.03, y: 0, z: 0 }, { x: 0, y: 0, z: 0 }))).toBeCloseTo(speed((w, b) => w.strike(b, { x: 0.03, y: 0, z: 0 }, { x: 0, y: 0, z: 0 })), 5)
  })
  test('falls as free fall does, and comes to rest on what is fixed', () => {
    const w = fresh()
    w.addFixed('floor', { shape: 'box', hx: 1, hy: 1, hz: 0.1 }, at(0, 0, -0.1), 0.5)
    const b = w.addLoose('it', cube, at(0, 0, 0.55), 0.5, 0.3)
    let t = 0
    while (w.readPose(b).position.z > 0.06 && t < 100) { w.step(); t++ }
    // 0.49 m take sqrt(2 * 0.49 / 9.81) s.
    expect(t * 0.01).toBeCloseTo(Math.sqrt(2 * 0.49 / 9.81), 1)
    for (let i = 0; i < 200; i++) w.step()
    expect(w.readPose(b).position.z).toBeCloseTo(0.05, 2)
    expect(Math.abs(w.velocityOf(b).z)).toBeLessThan(0.01)
    w.free()
  })
  test('held weightless stays where it is', () => {
    const w = fresh()
    const b = w.addLoose('it', cube, at(0, 0, 1), 0.5, 0.3)
    w.setWeightless(b, true)
    for (let i = 0; i < 50; i++) w.step()
    expect(w.readPose(b).position.z).toBeCloseTo(1, 6)
    w.free()
  })
  test('on a snapshot goes on to the same bits', () => {
    const w = fresh()
    w.addFixed('floor', { shape: 'box', hx: 1, hy: 1, hz: 0.1 }, at(0, 0, -0.1), 0.5)
    const all = [0.2, 0.35, 0.5].map((z, i) => w.addLoose(`it${i}`, cube, at(i * 0.02, 0, z, yawQuaternion(i)), 0.5, 0.3))
    for (let i = 0; i < 20; i++) w.step()
    const kept = w.snapshot()
    const run = (): string => { for (let i = 0; i < 60; i++) w.step(); return JSON.stringify(all.map(b => w.readPose(b))) }
    const first = run()
    w.restore(kept)
    expect(run()).toBe(first)
    w.free()
  })
})
