import { describe, expect, test } from 'vitest'
import { Tape } from '~~/core/tape'
import { deviceColor, mainReading, shownValue } from '../../../app/shown/readings'
import { extent, lastSeconds } from '../../../app/features/bench/sense/trace'
import { layoutOf } from '../../../core/tape'
import { facts } from '../kit'

const spec = (device: string, reading: string) => facts.devices.find(d => d.name === device)!.readings.find(r => r.name === reading)!

describe('what the bench shows of a reading', () => {
  test('is in the usual unit, with one decimal', () => {
    expect(shownValue(spec('sonar', 'distance'), 0.3421, facts.colors)).toEqual({ figure: '34.2', unit: 'cm' })
    expect(shownValue(spec('gyro', 'turned'), Math.PI, facts.colors)).toEqual({ figure: '180.0', unit: 'deg' })
    expect(shownValue(spec('wheels', 'speed'), -0.0001, facts.colors)).toEqual({ figure: '0.0', unit: 'cm/s' })
    expect(shownValue(spec('sonar', 'distance'), Infinity, facts.colors)).toEqual({ figure: 'no echo', unit: '' })
  })
  test('says a truth by sign and word', () => {
    expect(shownValue(spec('bumper_left', 'pressed'), 1, facts.colors).figure).toBe('● pressed')
    expect(shownValue(spec('bumper_left', 'pressed'), 0, facts.colors).figure).toBe('○ not pressed')
  })
  test('each device has a colour of its own, the wheels the quiet one', () => {
    const all = facts.devices.map(d => deviceColor(facts, d.name))
    expect(new Set(all).size).toBe(all.length)
    expect(deviceColor(facts, 'sonar')).toBe('device-0')
    expect(deviceColor(facts, 'wheels')).toBe('device-5')
  })
  test('its first reading stands for a device', () => {
    expect(mainReading(facts.devices.find(d => d.name === 'gyro')!).name).toBe('gyro.turned')
  })
})

describe('the page’s copy of the tape', () => {
  const layout = layoutOf(facts, ['main'], 1, [], [], [], 0)
  const rows = (from: number, count: number) => Float64Array.from({ length: count * layout.width }, (_, i) => from + Math.floor(i / layout.width))
  test('keeps what arrives in pieces', () => {
    const tape = new Tape(layout)
    tape.append(rows(0, 700), [])
    tape.append(rows(700, 900), [{ tick: 3, type: 'note', text: 'x', about: 'main' }])
    expect(tape.rows).toBe(1600)
    expect([tape.find(0)![2], tape.find(1023)![2], tape.find(1024)![0], tape.value(1599, 4)]).toEqual([0, 1023, 1024, 1599])
    expect([tape.find(1600), tape.find(-1), tape.events.length]).toEqual([null, null, 1])
  })
  test('knows the extent of a column without missing echoes', () => {
    const tape = new Tape(layout)
    const some = rows(5, 20)
    some[layout.width * 4] = Infinity
    tape.append(some, [])
    expect(extent(tape, 0, 2, 10)).toEqual([7, 14])
    expect(extent(tape, 0, 30, 40)).toBeNull()
  })
})

describe('a small trace', () => {
  const tape = (values: readonly number[]) => ({ first: 0, rows: values.length, value: (t: number) => values[t]! }) as unknown as Parameters<typeof lastSeconds>[0]
  const box = (values: readonly number[], also: readonly number[] = []) => lastSeconds(tape(values), 0, values.length - 1, 0.02, { width: 80, height: 32 }, also, 0.05)
  test('of something at rest does not fill its box with noise', () => {
    const { low, high } = box([0.3, 0.301, 0.299, 0.3])
    expect(high - low).toBeGreaterThan(0.05)
    expect((low + high) / 2).toBeCloseTo(0.3)
  })
  test('of something that changes holds all of it, and the thresholds, with some room', () => {
    const { low, high } = box([0.2, 0.8], [1])
    expect(low).toBeLessThan(0.2)
    expect(high).toBeGreaterThan(1)
    expect(high - low).toBeLessThan(1.1)
  })
})
