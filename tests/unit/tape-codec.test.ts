import fc from 'fast-check'
import { readdirSync } from 'node:fs'
import { beforeAll, describe, expect, test } from 'vitest'
import { loadPhysics } from '../../core/physics'
import type { Simulation } from '../../core/simulation'
import { ByteReader, ByteWriter, layoutOf, onGrid, readRows, readTape, Tape, writeRows, writeTape } from '../../core/tape'
import { facts, openDemo } from './kit'
import { sampled } from '../sample'

beforeAll(loadPhysics)

const back = (rows: Float64Array, width: number): Float64Array => {
  const bytes = new ByteWriter()
  writeRows(rows, width, bytes)
  return readRows(new ByteReader(bytes.taken()), width)
}

/** A demo project's run to its end. */
async function ran(project: string): Promise<Simulation> {
  const simulation = await openDemo(project, { realism: 'typical', seed: 1 })
  simulation.runToEnd()
  return simulation
}

describe('rows as bytes', () => {
  const numbers = fc.oneof(fc.double(), fc.integer({ min: -1000, max: 1000 }).map(n => n / 1000), fc.constantFrom(0, -0, 1, Infinity, -Infinity, NaN, 0.9, 1e300, 4e9, 0.1 + 0.2, 1e-12), fc.double({ min: -4, max: 4, noNaN: true }))
  test('come back as what they were, to a millionth; what is round, very large or no number, to the bit', () => {
    fc.assert(fc.property(fc.integer({ min: 1, max: 7 }), fc.array(numbers, { maxLength: 200 }), (width, all) => {
      const rows = Float64Array.from(all.slice(0, all.length - all.length % width))
      const read = back(rows, width)
      expect([...read]).toEqual([...rows].map(onGrid))
      for (const [i, x] of rows.entries()) if (Number.isFinite(x) && Math.abs(x) < 2 ** 32) expect(Math.abs(read[i]! - x)).toBeLessThanOrEqual(5.001e-7)
    }))
  })
  test('stretches of rest and of even motion take next to nothing', () => {
    const rows = new Float64Array(512 * 3)
    for (let i = 0; i < 512; i++) rows.set([7.25, i / 50, i < 300 ? 1 : 2], 3 * i)
    const bytes = new ByteWriter()
    writeRows(rows, 3, bytes)
    expect(bytes.length).toBeLessThan(80)
  })
  test('bytes that are cut off anywhere are refused', () => {
    const bytes = new ByteWriter()
    writeRows(Float64Array.from({ length: 60 }, (_, i) => i % 3 === 0 ? Infinity : i * i * 0.37), 3, bytes)
    const whole = bytes.taken()
    for (let cut = 0; cut < whole.length; cut++) expect(() => readRows(new ByteReader(whole.subarray(0, cut)), 3)).toThrow(RangeError)
  })
})

describe('a tape that grows', () => {
  const layout = layoutOf(facts, ['main'], 2, [], [], [], 0)
  const value = (t: number, column: number): number => Math.round(Math.sin(t / 50 + column) * 1e5) / 1e5
  const grown = (ticks: number): Tape => {
    const tape = new Tape(layout)
    for (let t = 0; t < ticks; t++) {
      for (let c = 0; c < layout.width; c++) tape.row[c] = value(t, c)
      tape.commit()
    }
    return tape
  }
  test('says the same of an instant long ago as when it was recorded: row by row, number by number', () => {
    const tape = grown(20_000)
    for (const t of [0, 511, 512, 3000, 3583, 3584, 16_383, 19_999]) {
      expect([...tape.at(t)]).toEqual(Array.from({ length: layout.width }, (_, c) => value(t, c)))
      for (let c = 0; c < layout.width; c += 5) expect(tape.value(t, c)).toBe(value(t, c))
    }
  })
  test('goes back to an instant long ago and on from there', () => {
    const tape = grown(2000)
    const state = structuredClone(tape.state())
    for (let t = 2000; t < 20_000; t++) { tape.row.fill(9); tape.commit() }
    tape.rewind(state)
    tape.row.fill(5)
    tape.commit()
    expect([tape.rows, tape.at(1999)[3], tape.at(2000)[3], tape.value(1500, 2)]).toEqual([2001, value(1999, 3), 5, value(1500, 2)])
  })
})

describe('a tape as a file', () => {
  test.each(sampled(readdirSync('demo/projects'), 3))('%s: at least eight times smaller than its rows, and the same when it is read', async (project) => {
    const { tape } = await ran(project)
    const bytes = writeTape(tape, tape.digest(), { project })
    expect(tape.rows * tape.layout.width * 8 / bytes.length).toBeGreaterThan(8)
    const read = readTape<{ project: string }>(bytes)
    expect([read.about, read.fingerprint, read.tape.layout, read.tape.events]).toEqual([{ project }, tape.digest(), tape.layout, tape.events])
    for (let t = 0; t < tape.rows; t += 7) expect([...read.tape.at(t)]).toEqual([...tape.at(t)])
  })
  test('what is cut off, changed, or no tape is refused with its reason', async () => {
    const { tape } = await ran('kiss-the-fender')
    const bytes = writeTape(tape, tape.digest(), null)
    const changed = bytes.slice()
    changed[bytes.length >> 1]! ^= 1
    expect(() => readTape(bytes.subarray(0, bytes.length - 9))).toThrow('cut off, or was changed')
    expect(() => readTape(changed)).toThrow('cut off, or was changed')
    expect(() => readTape(new Uint8Array(200))).toThrow('no tape')
    expect(() => readTape(new Uint8Array(0))).toThrow('no tape')
  })
})
