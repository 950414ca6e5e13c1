import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { NUMBER_FUNCTIONS, namedCells, namedValue } from '../../../core/program'
import { Vm } from '../../../core/vm'
import { column, compile, facts } from '../kit'

/** Readings over time, worked out a second time from the whole course, as docs/language.md says what they are. */

const DT = 0.02
const ticksOf = (seconds: number): number => Math.max(1, Math.ceil(seconds / DT - 1e-9))

/** A course of the sonar: what it reads in each tick, and whether it has looked anew. */
interface Course { readonly values: readonly number[], readonly looks: readonly boolean[] }
const courses = fc.array(fc.tuple(fc.oneof(fc.double({ min: 0.02, max: 2.5, noNaN: true }), fc.constant(Infinity)), fc.boolean()), { minLength: 1, maxLength: 120 }).map((all): Course => {
  const values: number[] = []
  for (const [x, looks] of all) values.push(looks || values.length === 0 ? x : values.at(-1)!)
  return { values, looks: all.map(([, looks], i) => looks || i === 0) }
})

/** What named values are worth in each tick of a course. */
function valuesOf(program: string, { values, looks }: Course, names: readonly string[]): number[][] {
  const compiled = compile(program)
  const vm = new Vm(compiled, facts, 1)
  const sonar = facts.devices.find(d => d.name === 'sonar')!
  const raw = new Float64Array(facts.readingCount)
  const count = new Float64Array(facts.readingCount)
  const named = namedCells(compiled)
  return values.map((x, tick) => {
    raw[column('sonar.distance')] = x
    if (looks[tick]!) count[sonar.first] = count[sonar.first]! + 1
    vm.run({ raw, looks: count, began: count, still: true })
    return names.map((name) => {
      const one = named.find(n => n.name === name)!
      return namedValue(one, vm.cells[one.cell]!, vm.tick, DT)
    })
  })
}

/** No echo counts as the device's greatest distance. */
const MOST = 2.5
const near = (x: number): number => x === Infinity ? MOST : x

describe('over any course', () => {
  test('mean, lowest and highest are those of the last ticks of their time, or of as many as there were', () => {
    fc.assert(fc.property(courses, fc.integer({ min: 1, max: 60 }), (course, length) => {
      const seconds = length / 50
      const program = `let mid = mean(sonar.distance, ${seconds} s)\nlet low = lowest(sonar.distance, ${seconds} s)\nlet high = highest(sonar.distance, ${seconds} s)\nwhen mid > low and high > mid -> halt\notherwise -> coast\n`
      valuesOf(program, course, ['mid', 'low', 'high']).forEach(([m, l, h], tick) => {
        const last = course.values.slice(Math.max(0, tick + 1 - ticksOf(seconds)), tick + 1).map(near)
        expect(m).toBeCloseTo(last.reduce((sum, x) => sum + x, 0) / last.length, 9)
        expect([l, h]).toEqual([Math.min(...last), Math.max(...last)])
      })
    }), { numRuns: 60 })
  })

  test('rate is the change between the last two looks over the time between them', () => {
    fc.assert(fc.property(courses, (course) => {
      valuesOf('let r = rate(sonar.distance)\nwhen r > 1 m/s -> halt\notherwise -> coast\n', course, ['r']).forEach(([r], tick) => {
        const looked = course.looks.flatMap((looks, i) => looks && i <= tick ? [i] : [])
        const [before, at] = [looked.at(-2), looked.at(-1)!]
        const wanted = before === undefined ? 0 : (near(course.values[at]!) - near(course.values[before]!)) / ((at - before) * DT)
        expect(r).toBeCloseTo(wanted, 6)
      })
    }), { numRuns: 60 })
  })

  test('total is the sum of the ticks since the run began; since counts from the last tick that was true', () => {
    fc.assert(fc.property(courses, (course) => {
      const program = 'let sum = total(sonar.distance)\nlet ago = since(sonar.distance < 1 m) * 1\nwhen sum > 3 m * 1 s or ago > 1 s -> halt\notherwise -> coast\n'
      let sum = 0
      valuesOf(program, course, ['sum', 'since(sonar.distance < 1 m)', 'ago']).forEach(([t, since, bounded], tick) => {
        sum += near(course.values[tick]!) * DT
        expect(t).toBeCloseTo(sum, 9)
        const last = course.values.findLastIndex((x, i) => i <= tick && x < 1)
        if (last === -1) expect(since).toBe(Infinity)
        else expect(since).toBeCloseTo((tick - last) * DT, 9)
        // In a value that was never true it counts as the time of the run.
        expect(bounded).toBeCloseTo(last === -1 ? tick * DT : (tick - last) * DT, 9)
      })
    }), { numRuns: 60 })
  })

  test('a dial changes the time while it runs, up to the end of its range', () => {
    const program = compile('dial span = 0.1 s from 0.02 s to 0.4 s\nlet mid = mean(sonar.distance, span)\nwhen mid > 1 m -> halt\notherwise -> coast\n')
    const vm = new Vm(program, facts, 1)
    const raw = new Float64Array(facts.readingCount)
    const cell = namedCells(program).find(n => n.name === 'mid')!.cell
    const means: number[] = []
    for (let tick = 0; tick < 40; tick++) {
      raw[column('sonar.distance')] = (tick + 1) / 100
      if (tick === 30) vm.setDial('span', 0.4)
      vm.run({ raw, looks: raw, began: raw, still: true })
      means.push(vm.cells[cell]!)
    }
    // Five ticks of a ramp, then twenty.
    expect(means[29]).toBeCloseTo(0.28, 9)
    expect(means[30]).toBeCloseTo(0.215, 9)
  })

  test('without a rule that asks, what is named is followed all the same: whoever has control', () => {
    const course: Course = { values: Array.from({ length: 20 }, (_, i) => i / 10), looks: Array.from({ length: 20 }, () => true) }
    const [first, , , last] = [0, 1, 2, 19].map(t => valuesOf('when bumper_left.pressed -> note "{mean(sonar.distance, 0.2 s)}"\notherwise -> coast\n', course, ['mean(sonar.distance, 0.2 s)'])[t]![0])
    expect([first, last]).toEqual([0, expect.closeTo(1.45, 9)])
  })
})

describe('functions', () => {
  const known: Readonly<Record<keyof typeof NUMBER_FUNCTIONS, (a: number, b: number, c: number) => number>> = {
    abs: Math.abs, min: (a, b) => Math.min(a, b), max: (a, b) => Math.max(a, b), clamp: (x, low, high) => Math.min(high, Math.max(low, x)), sign: Math.sign,
    sin: Math.sin, cos: Math.cos, asin: Math.asin, acos: Math.acos, atan: Math.atan, atan2: (y, x) => Math.atan2(y, x),
  }
  test.each(Object.entries(NUMBER_FUNCTIONS))('%s is what it is called', (name, { of }) => {
    fc.assert(fc.property(fc.double({ min: -1, max: 1, noNaN: true }).map(x => x + 0), fc.double({ min: -0.9, max: -0.1, noNaN: true }), fc.double({ min: 0.1, max: 0.9, noNaN: true }), (a, b, c) => {
      // The series are right to some units of the twelfth digit.
      expect(of(a, b, c)).toBeCloseTo(known[name as keyof typeof known](a, b, c), 10)
    }))
  })
})
