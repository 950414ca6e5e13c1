import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { DIAL_STEPS, dialAt, dialText } from '../../../app/features/bench/decide/dials'

/** What a slider writes into the program. */
describe('a dial', () => {
  const small = { from: 0.01, to: 0.2, scale: 1, unit: null }
  test('of a small range never writes what lies beyond it', () => {
    expect([0, 1, 100, DIAL_STEPS].map(step => dialText(small, dialAt(small, step)))).toEqual(['0.01', '0.0109', '0.105', '0.2'])
  })
  test('writes in its unit, and its ends exactly', () => {
    const dial = { from: 0.05, to: 0.6, scale: 0.01, unit: 'cm' }
    expect([0, 77, DIAL_STEPS].map(step => dialText(dial, dialAt(dial, step)))).toEqual(['5 cm', '26.2 cm', '60 cm'])
  })
  test('goes up with its slider, within its range, whatever the range', () => {
    fc.assert(fc.property(fc.double({ min: -50, max: 50, noNaN: true }), fc.double({ min: 0.001, max: 100, noNaN: true }), fc.constantFrom(1, 0.01, Math.PI / 180), (from, width, scale) => {
      const dial = { from, to: from + width, scale, unit: 'x' }
      const all = Array.from({ length: DIAL_STEPS + 1 }, (_, step) => dialAt(dial, step))
      expect(all.every(v => v >= dial.from && v <= dial.to)).toBe(true)
      expect(all.every((v, i) => i === 0 || v >= all[i - 1]!)).toBe(true)
    }), { numRuns: 200 })
  })
})
