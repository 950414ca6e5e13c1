import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { findUnit, formatQuantity, KINDS, kindName, overKind, readQuantity, timesKind, UNITS } from '../../core/units'

describe('kinds', () => {
  test('length over time is a speed, speed times time a length', () => {
    expect(overKind(KINDS.length, KINDS.time)).toEqual(KINDS.speed)
    expect(timesKind(KINDS.speed, KINDS.time)).toEqual(KINDS.length)
    expect(kindName(overKind(KINDS.angle, KINDS.length))).toBe('angle/length')
  })
  test('multiplying and dividing undo one another', () => {
    const kind = fc.constantFrom(...Object.values(KINDS))
    fc.assert(fc.property(kind, kind, (a, b) => kindName(overKind(timesKind(a, b), b)) === kindName(a)))
  })
})

describe('quantities in documents', () => {
  test.each([['12 cm', 0.12], ['-3.5 mm', -0.0035], ['1.2m', 1.2], ['2 in', 0.0508], ['.5 m', 0.5]])('%s', (text, metres) => {
    const read = readQuantity(text, KINDS.length)
    expect(read.ok && read.value).toBeCloseTo(metres, 12)
  })
  test.each([
    ['12', 'no unit'], ['12 kg', 'unit of mass'], ['12 parsec', 'not a unit'], ['twelve', 'expected a length'],
  ])('%s is refused and says why', (text, why) => {
    const read = readQuantity(text, KINDS.length)
    expect(read.ok).toBe(false)
    expect(!read.ok && read.reason).toContain(why)
  })
  test('what is written is read back within its digits', () => {
    fc.assert(fc.property(fc.constantFrom(...UNITS), fc.double({ min: 0.5, max: 999, noNaN: true }), (unit, x) => {
      const read = readQuantity(formatQuantity(x * unit.scale, unit, 6), unit.kind)
      return read.ok && Math.abs(read.value / unit.scale - x) < 0.001
    }))
  })
  test('figures have the digits that are useful', () => {
    const cm = findUnit('cm')!
    expect(formatQuantity(0.342, cm)).toBe('34.2 cm')
    expect(formatQuantity(2.5, cm)).toBe('250 cm')
    expect(formatQuantity(0.4, cm)).toBe('40 cm')
    expect(formatQuantity(-0.0000001, cm)).toBe('0 cm')
  })
  test('a gain is a unit over a unit', () => {
    expect(findUnit('cm/s per cm')).toMatchObject({ scale: 1 })
    expect(findUnit('deg/s per cm')!.scale).toBeCloseTo(Math.PI / 180 / 0.01, 12)
    expect(findUnit('cm per')).toBeUndefined()
  })
})
