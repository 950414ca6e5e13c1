import { describe, expect, test } from 'vitest'
import { RandomStream } from '../../core/random'
import { binomialBelow, differenceOf, medianOf, pairedDifference, pairsMore, signTest, spreadOf, wilson } from '../../core/statistics'

describe('the share with its interval', () => {
  // Newcombe, "Two-sided confidence intervals for the single proportion", Statistics in Medicine 17, 1998, table I, method 3.
  test.each([[81, 263, 0.2553, 0.3662], [15, 148, 0.0624, 0.1605], [0, 20, 0, 0.1611], [1, 29, 0.0061, 0.1718]])('%d of %d is as published: %d to %d', (met, of, low, high) => {
    const found = wilson(met, of)
    expect([Number(found.low.toFixed(4)), Number(found.high.toFixed(4))]).toEqual([low, high])
    expect(found.value).toBe(met / of)
  })
  test('of nothing may be anything; all of all reaches 1, none of all 0', () => {
    expect(wilson(0, 0)).toEqual({ value: 0, low: 0, high: 1 })
    expect(wilson(7, 7).high).toBe(1)
    expect(wilson(0, 7).low).toBe(0)
  })
  test('holds the truth in about 95 of 100 samples of coins', () => {
    const stream = RandomStream.named(1, 'coins')
    for (const p of [0.05, 0.3, 0.5, 0.9]) {
      for (const n of [20, 100]) {
        let held = 0
        for (let i = 0; i < 2000; i++) {
          let heads = 0
          for (let k = 0; k < n; k++) if (stream.chance(p)) heads++
          const { low, high } = wilson(heads, n)
          if (low <= p && p <= high) held++
        }
        expect(held / 2000, `${p}, ${n}`).toBeGreaterThan(0.91)
        expect(held / 2000, `${p}, ${n}`).toBeLessThan(0.99)
      }
    }
  })
})

describe('two that have nothing to do with one another', () => {
  // Newcombe, "Interval estimation for the difference between independent proportions", Statistics in Medicine 17, 1998, table II, method 10.
  test.each([[[48, 80], [56, 70], 0.0524, 0.3339], [[3, 10], [9, 10], 0.1705, 0.8090]] as const)('%j and %j differ as published: %d to %d', (first, second, low, high) => {
    const found = differenceOf({ met: first[0], runs: first[1] }, { met: second[0], runs: second[1] })
    expect([Number(found.low.toFixed(4)), Number(found.high.toFixed(4))]).toEqual([low, high])
  })
})

describe('two with the same seeds', () => {
  // Newcombe, "Improved confidence intervals … paired data", Statistics in Medicine 17, 1998, table II, method 10.
  test('the difference is as published, either way round', () => {
    const found = pairedDifference({ both: 36, onlyA: 2, onlyB: 12, neither: 0 })
    expect([found.value, Number(found.low.toFixed(4)), Number(found.high.toFixed(4))]).toEqual([0.2, 0.0569, 0.3404])
    const turned = pairedDifference({ both: 36, onlyA: 12, onlyB: 2, neither: 0 })
    expect([turned.value, turned.low, turned.high]).toEqual([-found.value, -found.high, -found.low])
  })
  test('of no pairs may be anything', () => {
    expect(pairedDifference({ both: 0, onlyA: 0, onlyB: 0, neither: 0 })).toEqual({ value: 0, low: -1, high: 1 })
    expect(pairsMore({ both: 9, onlyA: 0, onlyB: 0, neither: 0 })).toBeNull()
  })
  test('the exact sign test: known tails of the binomial', () => {
    expect(signTest(9, 1)).toBeCloseTo(2 * 11 / 1024, 12)
    expect(signTest(2, 12)).toBeCloseTo(2 * 106 / 16384, 12)
    expect([signTest(5, 5), signTest(0, 0), signTest(3, 3)]).toEqual([1, 1, 1])
    expect(signTest(0, 6)).toBeCloseTo(1 / 32, 12)
    expect(binomialBelow(5, 5)).toBeCloseTo(1, 12)
    // Thousands of throws: the normal approximation with its correction for continuity is near.
    expect(signTest(4900, 5100)).toBeCloseTo(0.0466, 3)
  })
  test('finds a difference that is not there in no more than one of twenty', () => {
    const stream = RandomStream.named(2, 'coins')
    let alarms = 0
    for (let i = 0; i < 2000; i++) {
      let [a, b] = [0, 0]
      for (let k = 0; k < 60; k++) {
        const [x, y] = [stream.chance(0.7), stream.chance(0.7)]
        if (x && !y) a++
        if (y && !x) b++
      }
      if (signTest(a, b) < 0.05) alarms++
    }
    expect(alarms / 2000).toBeLessThanOrEqual(0.05)
    expect(alarms / 2000).toBeGreaterThan(0.01)
  })
  test('with as many seeds more as it says, it tells four times in five', () => {
    const stream = RandomStream.named(3, 'coins')
    const more = pairsMore({ both: 60, onlyA: 10, onlyB: 20, neither: 10 })!
    let told = 0
    for (let i = 0; i < 400; i++) {
      let [a, b] = [0, 0]
      for (let k = 0; k < 100 + more; k++) { const x = stream.unit(); if (x < 0.1) a++; else if (x < 0.3) b++ }
      if (signTest(a, b) < 0.05) told++
    }
    expect(told / 400).toBeGreaterThan(0.7)
    expect(told / 400).toBeLessThan(0.9)
  })
})

describe('values', () => {
  test('their quartiles; of nothing none', () => {
    expect(spreadOf([5, 1, 4, 2, 3])).toEqual({ n: 5, least: 1, lower: 2, median: 3, upper: 4, most: 5 })
    expect(spreadOf([])).toBeNull()
  })
  test('the median has an interval from six values on, of the ranks that the binomial says', () => {
    expect(medianOf([1, 2, 3, 4, 5])).toBeNull()
    expect(medianOf([6, 5, 4, 3, 2, 1])).toEqual({ value: 3.5, low: 1, high: 6 })
    expect(medianOf([10, 9, 8, 7, 6, 5, 4, 3, 2, 1])).toEqual({ value: 5.5, low: 2, high: 9 })
  })
  test('which holds the true one in at least 95 of 100 samples, also of a skewed kind', () => {
    const stream = RandomStream.named(4, 'coins')
    let held = 0
    for (let i = 0; i < 2000; i++) {
      const { low, high } = medianOf(Array.from({ length: 25 }, () => 1 / (1 - stream.unit())))!
      if (low <= 2 && 2 <= high) held++
    }
    expect(held / 2000).toBeGreaterThan(0.94)
  })
})
