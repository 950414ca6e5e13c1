import { describe, expect, test } from 'vitest'
import { layoutOf, Tape } from '../../core/tape'
import { channelCount } from '../../core/robot'
import { facts } from './kit'

const layout = layoutOf(facts, ['main', 'sign'], 3, ['sonar'], ['crate_1', 'crate_2'], [], 0)
function record(ticks: number, tape = new Tape(layout)): Tape {
  for (let t = tape.rows; t < ticks; t++) {
    tape.row.fill(t)
    tape.commit()
    if (t % 100 === 7) tape.event({ tick: t, type: 'note', text: `tick ${t}`, about: 'main' })
  }
  return tape
}

describe('the tape', () => {
  test('gives each part its own columns', () => {
    const starts = [layout.readings, layout.commands, layout.body, layout.wheels, layout.lanes, layout.entered, layout.named, layout.still, layout.wants, layout.beams, layout.pieces, layout.width]
    const widths = [facts.readingCount, channelCount(facts), 7, 2, 8, 2, 0, 1, 3, 7, 14]
    expect(starts.slice(1).map((s, i) => s - starts[i]!)).toEqual(widths)
  })
  test('keeps every row, over many blocks', () => {
    const tape = record(1300)
    expect(tape.rows).toBe(1300)
    for (const t of [0, 511, 512, 1024, 1299]) expect(tape.at(t)[5]).toBe(t)
    expect(() => tape.at(1300)).toThrow(RangeError)
    expect([...tape.slice(511, 513)].filter((_, i) => i % layout.width === 0)).toEqual([511, 512])
  })
  test('has a fingerprint of every bit and every event', () => {
    const plain = record(50).digest()
    expect(record(50).digest()).toBe(plain)
    const other = record(49)
    other.row.fill(49)
    other.row[layout.width - 1] = 49 + 2 ** -47
    other.commit()
    expect(other.digest()).not.toBe(plain)
    const said = record(50)
    said.event({ tick: 49, type: 'note', text: 'x', about: 'main' })
    expect(said.digest()).not.toBe(plain)
  })
  test('goes back to a state and on as if nothing had been after it', () => {
    const straight = record(900)
    const tape = record(600)
    const state = structuredClone(tape.state())
    record(750, tape)
    tape.rewind(state)
    expect([tape.rows, tape.events.length]).toEqual([600, 6])
    record(900, tape)
    expect(tape.digest()).toBe(straight.digest())
    expect(tape.at(700)[0]).toBe(700)
  })
  test('goes on from a state of another tape: the fingerprint is the same, what came before is not known', () => {
    const straight = record(900)
    const tape = new Tape(layout)
    tape.rewind(structuredClone(record(600).state()))
    expect([tape.first, tape.rows, tape.events.length]).toEqual([600, 600, 0])
    record(750, tape)
    // A state of a tape that itself went on from another's.
    const state = structuredClone(tape.state())
    expect([state.rows, state.events]).toEqual([750, 8])
    record(800, tape)
    tape.rewind(state)
    expect(tape.events.map(e => e.tick)).toEqual([607, 707])
    record(900, tape)
    expect(tape.digest()).toBe(straight.digest())
    expect(tape.at(700)[0]).toBe(700)
    expect(() => tape.at(599)).toThrow(RangeError)
    tape.rewind(record(100).state())
    expect([tape.first, tape.rows]).toEqual([100, 100])
  })
})

describe('blocks of rows', () => {
  const layout = layoutOf({ readingCount: 3, actuators: [], tick: 0.02 } as never, [], 0, [], [], [], 0)
  const made = (rows: number, first = 0): Tape => {
    const tape = new Tape(layout)
    tape.rewind({ rows: first, events: 0, hash: [0, 0] })
    for (let t = first; t < rows; t++) { for (let i = 0; i < layout.width; i++) tape.row[i] = Math.round(1000 * (t % 7 + i / 3)) / 1000; tape.commit() }
    return tape
  }
  const all = (tape: Tape): readonly number[][] => Array.from({ length: tape.rows - tape.first }, (_, i) => [...tape.at(tape.first + i)])
  test.each([[1, 0], [511, 0], [512, 0], [20_000, 0], [1500, 700], [2048, 1024]])('of %d rows from tick %d on make the same tape elsewhere, which goes on', (rows, first) => {
    const tape = made(rows, first)
    const other = new Tape(layout)
    other.rewind({ rows: first, events: 0, hash: [0, 0] })
    for (const block of tape.blocks()) other.take(block)
    expect([other.first, other.rows]).toEqual([first, rows])
    expect(all(other)).toEqual(all(tape))
    for (const t of [tape, other]) { t.row.fill(5); t.commit() }
    expect([...other.at(rows)]).toEqual([...tape.at(rows)])
    other.rewind({ rows: rows - 1, events: 0, hash: [0, 0] })
    expect(other.rows).toBe(rows - 1)
  })
  test('what is no block is refused, and the tape stays as it was', () => {
    const tape = made(600)
    expect(() => tape.take(new Uint8Array([200, 1, 0]))).toThrow(RangeError)
    expect(tape.rows).toBe(600)
  })
})
