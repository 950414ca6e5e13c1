import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { groundOf, type Ground } from '../../core/arena'
import { arenaWith } from './devices/around'

/** What a round spot of light throws back from a floor, against adding up thousands of points of it. */

/** The spot's light 2 (1 - r²) added up over points of rings, of equal light each. */
function summed(ground: Ground, x: number, y: number, radius: number): number[] {
  const into = [0, 0, 0, 0]
  const [rings, around] = [60, 120]
  for (let i = 0; i < rings; i++) {
    // The light within r is 2 r² - r⁴: the ring's middle share of it.
    const share = (i + 0.5) / rings
    const r = radius * Math.sqrt(1 - Math.sqrt(1 - share))
    for (let k = 0; k < around; k++) {
      const a = 2 * Math.PI * (k + (i % 2) / 2) / around
      const paint = ground.paintAt(x + r * Math.cos(a), y + r * Math.sin(a))
      if (paint === null) continue
      for (let c = 0; c < 3; c++) into[c]! += paint[c]! / (rings * around)
      into[3]! += 1 / (rings * around)
    }
  }
  return into
}

const spread = (ground: Ground, x: number, y: number, radius: number): number[] => {
  const into = new Float64Array(4)
  ground.spread(x, y, radius, 1, into)
  return [...into]
}
const worst = (a: readonly number[], b: readonly number[]): number => Math.max(...a.map((v, i) => Math.abs(v - b[i]!)))
const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })

describe('a spot of light on the floor', () => {
  test('across a straight edge of paint or deck is exact', () => {
    const ground = groundOf(arenaWith({ decks: [{ at: ['2 m', '1.5 m'], size: ['4 m', '3 m'] }], patches: [{ shape: 'box', at: ['1 m', '1.5 m'], size: ['1 m', '2 m'], color: 'black' }] }))
    fc.assert(fc.property(number(-0.03, 0.03), number(0.6, 2.4), number(0.004, 0.02), (off, y, radius) =>
      worst(spread(ground, 1.5 + off, y, radius), summed(ground, 1.5 + off, y, radius)) < 0.012), { numRuns: 60 })
    fc.assert(fc.property(number(-0.03, 0.03), number(0.004, 0.02), (off, radius) =>
      worst(spread(ground, 3.9 + off + 0.1, 1.5, radius), summed(ground, 3.9 + off + 0.1, 1.5, radius)) < 0.012), { numRuns: 60 })
  })
  test('across a turned edge too', () => {
    const ground = groundOf(arenaWith({ patches: [{ shape: 'box', at: ['2 m', '1.5 m'], size: ['60 cm', '60 cm'], turn: '30 deg', color: 'white' }] }))
    // Along the normal of its eastern side, which points 30 deg south of east.
    const [nx, ny] = [Math.cos(-Math.PI / 6), Math.sin(-Math.PI / 6)]
    fc.assert(fc.property(number(-0.02, 0.02), number(-0.2, 0.2), (off, along) => {
      const [x, y] = [2 + (0.3 + off) * nx - along * ny, 1.5 + (0.3 + off) * ny + along * nx]
      return worst(spread(ground, x, y, 0.01), summed(ground, x, y, 0.01)) < 0.012
    }), { numRuns: 60 })
  })
  test('on a line, narrower or wider than the spot, is within a hundredth or two', () => {
    fc.assert(fc.property(number(-0.04, 0.04), number(0.004, 0.06), (off, width) => {
      const ground = groundOf(arenaWith({ lines: [{ name: 'rope', points: [['20 cm', '1 m'], ['3.8 m', '1 m']], width: `${width} m`, color: 'black' }] }))
      return worst(spread(ground, 2, 1 + off, 0.012), summed(ground, 2, 1 + off, 0.012)) < 0.02
    }), { numRuns: 80 })
  })
  test('on a disc is within a few hundredths, and a disc smaller than the spot is no more than itself', () => {
    const ground = groundOf(arenaWith({ patches: [{ shape: 'disc', at: ['2 m', '1.5 m'], diameter: '10 cm', color: 'red' }, { shape: 'disc', at: ['3 m', '1.5 m'], diameter: '1 cm', color: 'red' }] }))
    fc.assert(fc.property(number(-0.07, 0.07), number(-0.07, 0.07), (dx, dy) =>
      worst(spread(ground, 2 + dx, 1.5 + dy, 0.01), summed(ground, 2 + dx, 1.5 + dy, 0.01)) < 0.05), { numRuns: 80 })
    expect(worst(spread(ground, 3, 1.5, 0.012), summed(ground, 3, 1.5, 0.012))).toBeLessThan(0.02)
  })
  test('never throws back more than what falls on it, wherever it is', () => {
    const ground = groundOf(arenaWith({
      decks: [{ at: ['1 m', '1 m'], size: ['1 m', '1 m'] }, { at: ['2 m', '1 m'], size: ['1 m', '60 cm'], turn: '20 deg' }],
      patches: [{ shape: 'box', at: ['1.4 m', '1 m'], size: ['40 cm', '40 cm'], color: 'white' }, { shape: 'disc', at: ['1.5 m', '1.1 m'], diameter: '20 cm', color: 'black' }],
      lines: [{ name: 'rope', points: [['60 cm', '60 cm'], ['1.4 m', '1.4 m'], ['2.4 m', '90 cm']], width: '3 cm', color: 'blue' }],
    }))
    fc.assert(fc.property(number(0, 3), number(0, 2), number(0.003, 0.05), (x, y, radius) => {
      const [r, g, b, lit] = spread(ground, x, y, radius) as [number, number, number, number]
      return lit >= 0 && lit <= 1 + 1e-9 && [r, g, b].every(c => c >= -1e-9 && c <= lit + 1e-9)
    }), { numRuns: 500 })
  })
  test('gives nothing beyond every deck, and all of a floor that fills it', () => {
    const ground = groundOf(arenaWith({ decks: [{ at: ['1 m', '1 m'], size: ['1 m', '1 m'] }] }))
    expect(spread(ground, 3, 3, 0.02)).toEqual([0, 0, 0, 0])
    expect(spread(ground, 1, 1, 0.02)[3]).toBeCloseTo(1, 9)
  })
})
