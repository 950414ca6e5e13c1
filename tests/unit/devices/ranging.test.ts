import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { PLAIN_SURFACE, Ray, Scene, Solid, yawQuaternion, type Quaternion } from '../../../core/geometry'
import { RandomStream } from '../../../core/random'
import { DEG, arenaWith, bodyAt, look, make, surroundings } from './around'

/** What looks along a ray or a cone, against thousands of rays in random scenes; and what it says of noise. */

const tilt = (angle: number): Quaternion => ({ x: 0, y: Math.sin(angle / 2), z: 0, w: Math.cos(angle / 2) })

/** Things about (1, 1), none nearer than 15 cm. */
function scene(r: RandomStream): Solid[] {
  return Array.from({ length: 6 }, (_, i) => {
    const [angle, far] = [r.between(-Math.PI, Math.PI), r.between(0.45, 1.6)]
    const size = r.between(0.03, 0.2)
    const shape = r.unit() < 0.5 ? { shape: 'box' as const, hx: size, hy: r.between(0.02, 0.2), hz: r.between(0.05, 0.3) } : { shape: 'cylinder' as const, radius: size, hz: r.between(0.05, 0.3) }
    return new Solid(`it${i}`, shape, PLAIN_SURFACE, { x: 1 + far * Math.cos(angle), y: 1 + far * Math.sin(angle), z: shape.hz }, yawQuaternion(r.between(-3, 3)))
  })
}

/** The nearest and the farthest that any of many rays of a cone meets, from (1, 1) at 10 cm height; `fine` times as many across and around. */
function extremes(solids: readonly Solid[], yaw: number, half: number, range: number, fine = 1): readonly [number, number] {
  const s = new Scene()
  s.solids.push(...solids)
  const ray = new Ray().from(1, 1, 0.1)
  ray.reach = range
  let best = Infinity
  let worst = 0
  for (let ring = 0; ring <= 40 * fine; ring++) {
    const a = half * ring / 40 / fine
    const around = ring === 0 ? 1 : 90 * fine
    for (let k = 0; k < around; k++) {
      const b = 2 * Math.PI * k / around
      const [u, v, w] = [Math.cos(a), Math.sin(a) * Math.cos(b), Math.sin(a) * Math.sin(b)]
      if (s.cast(ray.along(u * Math.cos(yaw) - v * Math.sin(yaw), u * Math.sin(yaw) + v * Math.cos(yaw), w))) {
        best = Math.min(best, ray.distance)
        worst = Math.max(worst, ray.distance)
      } else worst = Infinity
    }
  }
  return [best, worst]
}
const nearest = (...[solids, yaw, half, range, fine]: Parameters<typeof extremes>): number => extremes(solids, yaw, half, range, fine)[0]

describe('a sonar', () => {
  test('hears the nearest thing of its cone, in any scene', () => {
    fc.assert(fc.property(fc.integer({ min: 0, max: 1e6 }), fc.double({ min: -3, max: 3, noNaN: true }), fc.integer({ min: 10, max: 60 }), (seed, yaw, cone) => {
      const solids = scene(RandomStream.named(seed, 'scene'))
      const { distance, sees } = look('sonar', { solids, body: bodyAt(1, 1, 0.1, yawQuaternion(yaw)) }, { settings: { range: '2 m', cone: `${cone} deg` } }) as { distance: number, sees: number }
      const wide = nearest(solids, yaw, cone * DEG / 2, 2)
      expect(sees).toBe(distance === Infinity ? 0 : 1)
      // A sliver at the cone's rim may slip through its fan, and nothing outside of the cone is heard.
      if (distance === Infinity) expect(nearest(solids, yaw, cone * DEG / 2 - 0.03, 2)).toBe(Infinity)
      else {
        // Between two rays a slanting side may come nearer: where it does, many more rays are asked.
        if (distance <= wide - 0.004) expect(distance).toBeGreaterThan(nearest(solids, yaw, cone * DEG / 2, 2, 10) - 0.01)
        expect(distance).toBeLessThan(Math.min(nearest(solids, yaw, cone * DEG / 2 - 0.05, 2), 2) + 0.02)
      }
    }), { numRuns: 150 })
  })
  test('is deaf to all but what stands in its cone: turned away, it hears nothing', () => {
    const post = new Solid('post', { shape: 'cylinder', radius: 0.05, hz: 0.3 }, PLAIN_SURFACE, { x: 1.6, y: 1, z: 0.3 }, yawQuaternion(0))
    const heard = (yaw: number): number => look('sonar', { solids: [post], body: bodyAt(1, 1, 0.1, yawQuaternion(yaw * DEG)) }, { settings: { cone: '20 deg' } })['sees']!
    // 5 cm at 60 cm reach 4.8 deg to either side.
    expect([0, 10, 14, 16, 30, 180].map(heard)).toEqual([1, 1, 1, 0, 0, 0])
  })
})

describe('a time-of-flight sensor', () => {
  test('of one ray tells what that ray meets', () => {
    fc.assert(fc.property(fc.integer({ min: 0, max: 1e6 }), fc.double({ min: -3, max: 3, noNaN: true }), (seed, yaw) => {
      const solids = scene(RandomStream.named(seed, 'scene'))
      const { distance } = look('tof', { solids, body: bodyAt(1, 1, 0.1, yawQuaternion(yaw)) }, { settings: { range: '2 m', cone: '1 deg' } }) as { distance: number }
      const ray = nearest(solids, yaw, 0, 2)
      const [least, most] = extremes(solids, yaw, 0.5 * DEG, 2)
      // At an edge half of it goes past.
      if (ray === Infinity && least === Infinity) expect(distance).toBe(Infinity)
      else if (Math.abs(most - least) < 0.02) expect(Math.abs(distance - ray)).toBeLessThan(0.02)
    }), { numRuns: 150 })
  })
  test('tilted down sees the floor where geometry says', () => {
    fc.assert(fc.property(fc.integer({ min: 20, max: 80 }), fc.double({ min: 0.03, max: 0.3, noNaN: true }), (down, up) => {
      const { distance } = look('tof', { body: bodyAt(1, 1, up, tilt(down * DEG)) }, { settings: { range: '2 m', cone: '1 deg' } }) as { distance: number }
      const way = up / Math.sin(down * DEG)
      if (way > 1.9) return
      expect(distance).toBeCloseTo(Math.max(0.01, way), 2)
    }), { numRuns: 100 })
  })
  test('over the rim of a deck sees no floor', () => {
    const arena = arenaWith({ decks: [{ at: ['50 cm', '1 m'], size: ['1 m', '2 m'] }], surround: 'water' })
    const sees = (x: number): number => look('tof', { arena, body: bodyAt(x, 1, 0.1, tilt(90 * DEG)) }, { settings: { range: '40 cm', cone: '1 deg' } })['sees']!
    expect([sees(0.5), sees(0.98), sees(1.05)]).toEqual([1, 1, 0])
  })
})

describe('a beacon', () => {
  test('tells place and heading, and of any place how far and where', () => {
    fc.assert(fc.property(fc.double({ min: 0.2, max: 3.8, noNaN: true }), fc.double({ min: 0.2, max: 2.8, noNaN: true }), fc.double({ min: -3.1, max: 3.1, noNaN: true }), (x, y, yaw) => {
      const read = look('beacon', { body: bodyAt(x, y, 0.1, yawQuaternion(yaw)) })
      expect(read['x']).toBeCloseTo(x, 6)
      expect(read['y']).toBeCloseTo(y, 6)
      // Right positive, as everywhere.
      expect(Math.cos(read['heading']! + yaw)).toBeCloseTo(1, 6)
    }), { numRuns: 60 })
  })
})

describe('a light gate', () => {
  test('is blocked by what crosses its beam and by nothing beside it', () => {
    fc.assert(fc.property(fc.double({ min: -0.1, max: 0.25, noNaN: true }), fc.double({ min: -0.06, max: 0.06, noNaN: true }), (along, off) => {
      const post = new Solid('post', { shape: 'cylinder', radius: 0.02, hz: 0.2 }, PLAIN_SURFACE, { x: 1 + along, y: 1 + off, z: 0.1 }, yawQuaternion(0))
      const blocked = look('gate', { solids: [post], body: bodyAt(1, 1, 0.1) }, { settings: { span: '15 cm' } })['blocked']
      // The way of the ray through the disc.
      const half = Math.sqrt(Math.max(0, 0.0004 - off * off))
      const [from, to] = [along - half, along + half]
      if (Math.abs(off) > 0.0195 && Math.abs(off) < 0.0205) return
      if (Math.abs(from - 0.15) < 1e-3 || Math.abs(to) < 1e-3 || Math.abs(from) < 1e-3) return
      const wanted = Math.abs(off) < 0.02 && from < 0.15 && from > 0
      // A ray that begins inside of a thing meets nothing of it.
      if (from < 0 && to > 0) return
      expect(blocked).toBe(wanted ? 1 : 0)
    }), { numRuns: 300 })
  })
})

describe('noise', () => {
  test.each([['sonar', 'distance'], ['tof', 'distance'], ['gyro', 'rate'], ['light', 'level']] as const)('of a %s grows with realism, and is none at ideal', (kind, reading) => {
    const wall = new Solid('wall', { shape: 'box', hx: 0.02, hy: 0.5, hz: 0.5 }, PLAIN_SURFACE, { x: 1.5, y: 1, z: 0.5 }, yawQuaternion(0))
    const deviation = (realism: 'ideal' | 'typical' | 'rough'): number => {
      const model = make(kind, { realism, seed: 3 })
      const around = surroundings({ solids: [wall], body: bodyAt(1, 1, 0.1) })
      const into = new Float64Array(8)
      const at = kind === 'gyro' ? 2 : 0
      const all: number[] = []
      for (let i = 0; i < 400; i++) {
        model.look(around, into)
        if (Number.isFinite(into[at]!)) all.push(into[at]!)
      }
      const mean = all.reduce((s, v) => s + v, 0) / all.length
      return Math.sqrt(all.reduce((s, v) => s + (v - mean) ** 2, 0) / all.length)
    }
    const [ideal, typical, rough] = [deviation('ideal'), deviation('typical'), deviation('rough')]
    expect([reading, ideal < 1e-9, typical > 1e-6, rough > 1.5 * typical]).toEqual([reading, true, true, true])
  })
  test('of two devices, and of two seeds, is not the same; of one it is', () => {
    const wall = new Solid('wall', { shape: 'box', hx: 0.02, hy: 0.5, hz: 0.5 }, PLAIN_SURFACE, { x: 1.5, y: 1, z: 0.5 }, yawQuaternion(0))
    const heard = (seed: number): number[] => {
      const model = make('sonar', { realism: 'rough', seed })
      const into = new Float64Array(2)
      return Array.from({ length: 20 }, () => { model.look(surroundings({ solids: [wall], body: bodyAt(1, 1, 0.1) }), into); return into[0]! })
    }
    expect(heard(1)).toEqual(heard(1))
    expect(heard(1)).not.toEqual(heard(2))
  })
})
