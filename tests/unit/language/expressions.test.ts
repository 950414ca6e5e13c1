import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { RandomStream } from '../../../core/random'
import { Vm } from '../../../core/vm'
import { column, compile, codesOf, facts } from '../kit'

/** What expressions are worth, worked out a second time in SI units, and what may stand beside what. */

/** Exponents of length, time and angle. */
type Kind = readonly [number, number, number]
interface Made { readonly text: string, readonly kind: Kind, readonly value: number }

const UNITS: readonly (readonly [string, Kind, number])[] = [
  ['mm', [1, 0, 0], 0.001], ['cm', [1, 0, 0], 0.01], ['m', [1, 0, 0], 1], ['in', [1, 0, 0], 0.0254],
  ['s', [0, 1, 0], 1], ['ms', [0, 1, 0], 0.001], ['min', [0, 1, 0], 60],
  ['deg', [0, 0, 1], Math.PI / 180], ['turn', [0, 0, 1], 2 * Math.PI],
  ['cm/s', [1, -1, 0], 0.01], ['m/s', [1, -1, 0], 1], ['in/s', [1, -1, 0], 0.0254],
  ['deg/s', [0, -1, 1], Math.PI / 180], ['rpm', [0, -1, 1], 2 * Math.PI / 60],
]
const READINGS: readonly (readonly [string, Kind, number])[] = [
  ['sonar.distance', [1, 0, 0], 0.83], ['gyro.heading', [0, 0, 1], 0.4], ['wheels.speed', [1, -1, 0], -0.17], ['gyro.turned', [0, 0, 1], -5.5],
]
const PLAIN: Kind = [0, 0, 0]
const same = (a: Kind, b: Kind): boolean => a.every((x, i) => x === b[i])
const plus = (a: Kind, b: Kind, sign: number): Kind => [a[0] + sign * b[0], a[1] + sign * b[1], a[2] + sign * b[2]]
/** Kinds that the language has names for; others cannot be written down as a memory. */
const NAMED: readonly Kind[] = [PLAIN, [1, 0, 0], [0, 1, 0], [0, 0, 1], [1, -1, 0], [0, -1, 1]]
const isNamed = (k: Kind): boolean => NAMED.some(n => same(n, k))

const pick = <T>(r: RandomStream, all: readonly T[]): T => all[Math.floor(r.unit() * all.length)]!
const figure = (r: RandomStream): number => Math.round((r.unit() * 40 + 0.5) * 100) / 100

/** A random expression of a kind. */
function make(r: RandomStream, kind: Kind, deep: number): Made {
  const roll = r.unit()
  if (deep > 0 && roll < 0.3) {
    const [a, b] = [make(r, kind, deep - 1), make(r, kind, deep - 1)]
    const minus = r.unit() < 0.5
    return { text: `(${a.text} ${minus ? '-' : '+'} ${b.text})`, kind, value: minus ? a.value - b.value : a.value + b.value }
  }
  if (deep > 0 && roll < 0.45) {
    const [a, b] = [make(r, kind, deep - 1), make(r, PLAIN, deep - 1)]
    return { text: `(${a.text} * ${b.text})`, kind, value: a.value * b.value }
  }
  if (deep > 0 && roll < 0.55) {
    const other = pick(r, NAMED)
    const dividend = plus(kind, other, 1)
    if (isNamed(dividend)) {
      const [a, b] = [make(r, dividend, deep - 1), make(r, other, 0)]
      if (Math.abs(b.value) > 1e-3) return { text: `(${a.text} / ${b.text})`, kind, value: a.value / b.value }
    }
  }
  if (deep > 0 && roll < 0.75) {
    const all = [make(r, kind, deep - 1), make(r, kind, deep - 1), make(r, kind, deep - 1)]
    const [a, b, c] = all as [Made, Made, Made]
    switch (Math.floor(r.unit() * 4)) {
      case 0: return { text: `min(${a.text}, ${b.text})`, kind, value: Math.min(a.value, b.value) }
      case 1: return { text: `max(${a.text}, ${b.text})`, kind, value: Math.max(a.value, b.value) }
      case 2: return { text: `abs(${a.text})`, kind, value: Math.abs(a.value) }
      default: {
        const [low, high] = b.value <= c.value ? [b, c] : [c, b]
        return { text: `clamp(${a.text}, ${low.text}, ${high.text})`, kind, value: Math.min(Math.max(a.value, low.value), high.value) }
      }
    }
  }
  if (deep > 0 && roll < 0.8) {
    const a = make(r, kind, deep - 1)
    return { text: `-(${a.text})`, kind, value: -a.value }
  }
  if (same(kind, [0, 0, 1]) && deep > 0 && roll < 0.9) {
    const a = make(r, PLAIN, 0)
    const b = make(r, [1, 0, 0], 0)
    const c = make(r, [1, 0, 0], 0)
    const arcs: readonly (readonly [string, number])[] = [
      [`asin(${a.text})`, Math.asin(Math.min(1, Math.max(-1, a.value)))], [`acos(${a.text})`, Math.acos(Math.min(1, Math.max(-1, a.value)))],
      [`atan(${a.text})`, Math.atan(a.value)], [`atan2(${b.text}, ${c.text})`, Math.atan2(b.value, c.value)],
    ]
    const [text, value] = pick(r, arcs)
    return { text, kind, value }
  }
  if (same(kind, [1, 0, 0]) && deep > 0 && roll < 0.9) {
    const a = make(r, kind, 0)
    const b = make(r, kind, 0)
    return { text: `sqrt(${a.text} * (${a.text}) + ${b.text} * (${b.text}))`, kind, value: Math.hypot(a.value, b.value) }
  }
  if (same(kind, PLAIN)) {
    if (deep > 0 && roll < 0.9) {
      const a = make(r, [0, 0, 1], 0)
      return r.unit() < 0.5 ? { text: `sin(${a.text})`, kind, value: Math.sin(a.value) } : { text: `cos(${a.text})`, kind, value: Math.cos(a.value) }
    }
    const value = figure(r)
    return { text: String(value), kind, value }
  }
  const reading = READINGS.filter(([, k]) => same(k, kind))
  if (reading.length > 0 && r.unit() < 0.35) {
    const [name, , value] = pick(r, reading)
    return { text: name, kind, value }
  }
  const [unit, , scale] = pick(r, UNITS.filter(([, k]) => same(k, kind)))
  const value = figure(r)
  return { text: `${value} ${unit}`, kind, value: value * scale }
}

/** Memories as a program leaves them after its first tick. */
function memoriesAfter(program: string): readonly number[] {
  const compiled = compile(program)
  const vm = new Vm(compiled, facts, 1)
  const raw = new Float64Array(facts.readingCount)
  for (const [name, , value] of READINGS) raw[column(name)] = value
  vm.run({ raw, looks: new Float64Array(facts.readingCount).fill(1), began: new Float64Array(facts.readingCount), still: true })
  return compiled.memories.map(m => vm.cells[m.cell]!)
}

const START: Readonly<Record<string, string>> = { '0,0,0': '0', '1,0,0': '0 cm', '0,1,0': '0 s', '0,0,1': '0 deg', '1,-1,0': '0 cm/s', '0,-1,1': '0 deg/s' }

describe('an expression', () => {
  test('is worth what it is in SI units, whatever units it is written in', () => {
    fc.assert(fc.property(fc.integer({ min: 0, max: 1e9 }), (seed) => {
      const r = RandomStream.named(seed, 'expressions')
      const made = Array.from({ length: 4 }, () => make(r, pick(r, NAMED), 3))
      const program = `${made.map((m, i) => `memory m${i} = ${START[m.kind.join()]!}`).join('\n')}\nstart\n${made.map((m, i) => `  set m${i} = ${m.text}`).join('\n')}\n  note "${made.map((_, i) => `{m${i}}`).join(' ')}"\n`
      const found = memoriesAfter(program)
      made.forEach((m, i) => {
        if (Math.abs(found[i]! - m.value) > 1e-9 * Math.max(1, Math.abs(m.value))) throw new Error(`${m.text} is ${m.value}, found ${found[i]!}`)
      })
    }), { numRuns: 250 })
  })
  test('of two kinds that do not mix is told so, and of one kind is not', () => {
    for (const [a, kindA] of UNITS) {
      for (const [b, kindB] of UNITS) {
        const codes = codesOf(`memory x = 0 ${a}\nstart\n  set x = 3 ${a} + 2 ${b}\n  note "{x}"\n`)
        expect([a, b, codes.includes('kinds')]).toEqual([a, b, !same(kindA, kindB)])
        expect([a, b, codesOf(`when 3 ${a} < 2 ${b} -> halt\notherwise -> coast\n`).includes('kinds')]).toEqual([a, b, !same(kindA, kindB)])
      }
    }
  })
  test('of length over time is a speed, and of speed times time a length', () => {
    const codes = (step: string): string[] => codesOf(`start\n  ${step}\n`).filter(c => ['kinds', 'wrong-kind'].includes(c))
    expect(codes('drive 30 cm / 2 s for 1 s')).toEqual([])
    expect(codes('drive 15 cm/s * 2 s')).toEqual([])
    expect(codes('turn right 90 deg / 3 s for 1 s')).toEqual([])
    expect(codes('wait 30 cm / 15 cm/s')).toEqual([])
    expect(codes('wait 30 cm * 2')).toEqual(['wrong-kind'])
    expect(codes('drive 2 s')).toEqual(['wrong-kind'])
  })
  test('compares as numbers do, ends and all', () => {
    fc.assert(fc.property(fc.integer({ min: -50, max: 250 }), fc.constantFrom('<', '>', '<=', '>='), fc.constantFrom('cm', 'mm', 'in', 'm'), (distance, operator, unit) => {
      const limit = { cm: 83, mm: 830, in: 32, m: 0.83 }[unit]!
      const scale = UNITS.find(([u]) => u === unit)![2]
      const value = distance / 100 + limit * scale
      const program = compile(`memory yes = false\nmemory within_it = false\nstart\n  set yes = ${value.toFixed(4)} m ${operator} ${limit} ${unit}\n  set within_it = ${value.toFixed(4)} m between ${limit} ${unit} and ${limit * 2} ${unit}\n  note "{yes} {within_it}"\n`)
      const vm = new Vm(program, facts, 1)
      vm.run({ raw: new Float64Array(facts.readingCount), looks: new Float64Array(facts.readingCount), began: new Float64Array(facts.readingCount), still: true })
      const x = Number(value.toFixed(4))
      const bound = limit * scale
      const wanted = { '<': x < bound, '>': x > bound, '<=': x <= bound, '>=': x >= bound }[operator]
      if (Math.abs(x - bound) < 1e-9 || Math.abs(x - 2 * bound) < 1e-9) return
      expect(program.memories.map(m => vm.cells[m.cell] === 1)).toEqual([wanted, x >= bound && x <= 2 * bound])
    }), { numRuns: 200 })
  })
})

/** What a program's first tick notes, with a distance in metres before its sonar. */
function noted(text: string, distance = 0.83): string[] {
  const vm = new Vm(compile(`start -> note "${text}"`), facts, 1)
  const raw = new Float64Array(facts.readingCount)
  raw[column('sonar.distance')] = distance
  vm.run({ raw, looks: new Float64Array(facts.readingCount), began: new Float64Array(facts.readingCount), still: true })
  return vm.events.flatMap(e => e.type === 'note' ? [e.text] : [])
}

describe('values in texts', () => {
  test('in a unit are the same quantity, to three figures', () => {
    for (const [unit, kind, scale] of UNITS) {
      const [, , other] = UNITS.find(([, k]) => same(k, kind))!
      const [figure, name] = noted(`{0 ${unit} + 12.34 ${UNITS.find(([, k]) => same(k, kind))![0]} in ${unit}}`)[0]!.split(' ') as [string, string]
      expect(name).toBe(unit)
      expect(Math.abs(Number(figure) * scale - 12.34 * other)).toBeLessThanOrEqual(Math.max(0.5, Math.abs(Number(figure)) * 0.005) * scale)
    }
  })
  test('to a step are its nearest whole multiple, with its decimals', () => {
    fc.assert(fc.property(fc.integer({ min: 3, max: 400 }), fc.constantFrom('0.1 cm', '5 mm', '0.25 m', '1 in', '2.50 cm', '0.001 m'), (centimetres, step) => {
      const [figure, unit] = step.split(' ') as [string, string]
      const scale = UNITS.find(([u]) => u === unit)![2]
      const [found, name] = noted(`{sonar.distance to ${step}}`, centimetres / 100)[0]!.split(' ') as [string, string]
      expect([name, found.split('.')[1]?.length ?? 0]).toEqual([unit, figure.split('.')[1]?.length ?? 0])
      const multiple = Number(found) / Number(figure)
      expect(Math.abs(multiple - Math.round(multiple))).toBeLessThan(1e-6)
      expect(Math.abs(Number(found) * scale - centimetres / 100)).toBeLessThanOrEqual(Number(figure) * scale / 2 + 1e-9)
    }))
  })
  test.each([
    ['{sonar.distance in mm}', '830 mm'], ['{sonar.distance in in}', '32.7 in'], ['{sonar.distance in m}, {1 / 3 to 0.01}', '0.83 m, 0.33'],
    ['{0 cm - 0.2 mm to 1 mm}', '0 mm'], ['{0 cm - 0.2 mm to 0.10 cm}', '0.00 cm'], ['{30 % to 0.1 %}', '30.0 %'], ['{90 deg / 1 s in rpm}', '15 rpm'],
    ['{wheels.speed in m/s} {gyro.heading to 1 deg}', '0 m/s 0 deg'],
  ])('%s', (text, wanted) => expect(noted(text)).toEqual([wanted]))
  test('no echo stays in words', () => expect(noted('{sonar.distance in mm} {sonar.distance to 1 cm}', Infinity)).toEqual(['no echo no echo']))
  test.each([
    ['{sonar.distance in s}', ['text-unit']], ['{sonar.distance in miles}', ['text-unit']], ['{sonar.distance in}', ['text-unit']], ['{sonar.sees in cm}', ['text-unit']],
    ['{floor.color to 1}', ['text-unit']], ['{sonar.distance to 0 cm}', ['text-unit']], ['{sonar.distance to 1 s}', ['text-unit']], ['{sonar.distance to sonar.distance}', ['text-unit']],
    ['{sonar.distance to}', ['expected-value']], ['{sonar.distance at 3 cm}', ['expected']], ['{sonar.width in cm}', ['unknown-reading']],
  ])('%s is refused once, with what is expected', (text, wanted) => expect(codesOf(`start -> note "${text}"`)).toEqual(wanted))
})

test.each([
  ['wait sqrt(2 s)', ['wrong-kind']], ['wait sqrt(2 s * 3 s)', []], ['drive sqrt(20 cm * 30 cm)', []], ['drive sqrt(4)', ['wrong-kind']], ['turn left acos(0.5)', []], ['turn left asin(30 deg)', ['wrong-kind']],
  ['turn left atan(sonar.distance / 20 cm)', []], ['turn left atan(1, 2)', ['given']], ['drive asin(0.3)', ['wrong-kind']], ['turn left acos(sonar.sees)', ['wrong-kind']],
])('%s: %j', (step, wanted) => expect(codesOf(`start -> ${step}`)).toEqual(wanted))
