import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { acos, asin, atan2, cos, exp, log, sin, tan, wrapAngle } from '../../core/maths'
import { RandomStream } from '../../core/random'

/** Twice the distance between neighbouring numbers of that size. */
const near = (a: number, b: number, scale = 1): boolean => Math.abs(a - b) <= 4.5e-16 * Math.max(scale, Math.abs(b))
const angle = fc.double({ min: -1e6, max: 1e6, noNaN: true })

describe('functions of our own agree with the true values', () => {
  test('sine and cosine', () => {
    fc.assert(fc.property(angle, x => near(sin(x), Math.sin(x)) && near(cos(x), Math.cos(x))), { numRuns: 20_000 })
  })
  test('known angles', () => {
    expect(sin(Math.PI / 6)).toBeCloseTo(0.5, 15)
    expect(cos(2 * Math.PI / 3)).toBeCloseTo(-0.5, 15)
    expect(tan(Math.PI / 4)).toBeCloseTo(1, 15)
    expect(sin(Infinity)).toBeNaN()
  })
  test('arctangent in every quadrant', () => {
    const c = fc.double({ min: -1e3, max: 1e3, noNaN: true })
    fc.assert(fc.property(c, c, (y, x) => x === 0 && y === 0 ? atan2(y, x) === 0 : near(atan2(y, x), Math.atan2(y, x), 1) || Math.abs(Math.abs(Math.atan2(y, x)) - Math.PI) < 1e-15), { numRuns: 20_000 })
    expect(atan2(1, -1)).toBeCloseTo(3 * Math.PI / 4, 15)
    expect(atan2(-3, 0)).toBe(-Math.PI / 2)
  })
  test('arcsine and arccosine are clamped', () => {
    expect(asin(0.5)).toBeCloseTo(Math.PI / 6, 15)
    expect(acos(-0.5)).toBeCloseTo(2 * Math.PI / 3, 15)
    expect(acos(1.0000001)).toBe(0)
  })
  test('exponential and logarithm undo one another', () => {
    fc.assert(fc.property(fc.double({ min: -700, max: 700, noNaN: true }), x => Math.abs(exp(x) - Math.exp(x)) <= 8e-16 * Math.exp(x)), { numRuns: 5000 })
    fc.assert(fc.property(fc.double({ min: 1e-300, max: 1e300, noNaN: true }), x => near(log(x), Math.log(x))), { numRuns: 5000 })
    expect(log(0)).toBe(-Infinity)
    expect(exp(-800)).toBe(0)
  })
  test('an angle wraps into one turn and keeps its direction', () => {
    fc.assert(fc.property(fc.double({ min: -1e4, max: 1e4, noNaN: true }), (x) => {
      const w = wrapAngle(x)
      return w > -Math.PI - 1e-9 && w <= Math.PI + 1e-9 && Math.abs(Math.sin(w) - Math.sin(x)) < 1e-9
    }))
  })
})

describe('random streams', () => {
  const draw = (seed: number, name: string, n: number) => {
    const stream = RandomStream.named(seed, name)
    return Array.from({ length: n }, () => stream.unit())
  }
  test('the same name and seed give the same numbers, others do not', () => {
    expect(draw(7, 'noise/sonar', 5)).toEqual(draw(7, 'noise/sonar', 5))
    expect(draw(7, 'noise/sonar', 5)).not.toEqual(draw(8, 'noise/sonar', 5))
    expect(draw(7, 'noise/sonar', 5)).not.toEqual(draw(7, 'noise/gyro', 5))
  })
  test('a stream goes on from its snapshot', () => {
    const stream = RandomStream.named(3, 'x')
    stream.bits()
    const saved = stream.snapshot()
    const next = [stream.normal(), stream.unit()]
    stream.restore(saved)
    expect([stream.normal(), stream.unit()]).toEqual(next)
  })
  test('normal draws have mean 0 and deviation 1', () => {
    const stream = RandomStream.named(11, 'normal')
    const all = Array.from({ length: 20_000 }, () => stream.normal())
    const mean = all.reduce((a, b) => a + b) / all.length
    const deviation = Math.sqrt(all.reduce((a, b) => a + (b - mean) ** 2, 0) / all.length)
    // Three standard errors of each.
    expect(Math.abs(mean)).toBeLessThan(3 / Math.sqrt(all.length))
    expect(Math.abs(deviation - 1)).toBeLessThan(3 / Math.sqrt(2 * all.length))
  })
  test('units fill their range evenly', () => {
    const counts = new Array<number>(8).fill(0)
    for (const u of draw(5, 'even', 8000)) counts[Math.floor(u * 8)]!++
    for (const c of counts) expect(Math.abs(c - 1000)).toBeLessThan(4 * Math.sqrt(1000))
  })
})
