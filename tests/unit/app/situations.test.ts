import { describe, expect, test } from 'vitest'
import { capture, conditionOf, propose } from '../../../app/features/bench/sense/situations'
import { Tape } from '~~/core/tape'
import { layoutOf } from '../../../core/tape'
import { facts } from '../kit'

const layout = layoutOf(facts, [], 0, [], [], [], 0)
const column = (name: string): number => {
  const [device, reading] = name.split('.')
  const d = facts.devices.find(x => x.name === device)!
  return layout.readings + d.first + d.readings.findIndex(r => r.name === reading)
}
/** A tape on which one reading takes some values in turn, everything else stands. */
function tapeOf(values: Readonly<Record<string, readonly number[]>>): Tape {
  const count = Math.max(...Object.values(values).map(v => v.length))
  const rows = new Float64Array(count * layout.width)
  for (const [name, list] of Object.entries(values)) list.forEach((v, t) => { rows[t * layout.width + column(name)] = v })
  const tape = new Tape(layout)
  tape.append(rows, [])
  return tape
}
const taken = (values: Readonly<Record<string, readonly number[]>>) => {
  const tape = tapeOf(values)
  return capture(tape, layout, facts, 0, tape.rows)
}

describe('two situations', () => {
  test('a threshold half way between their spreads, with its margin', () => {
    const near = taken({ 'sonar.distance': [0.1, 0.12, 0.11] })
    const far = taken({ 'sonar.distance': [0.31, 0.3, 0.34] })
    const [best] = propose(facts, near, far)
    expect(best).toMatchObject({ reading: 'sonar.distance' })
    expect(best!.threshold).toBeCloseTo(0.21, 9)
    expect(best!.margin).toBeCloseTo(0.09, 9)
    expect(conditionOf(best!, '21 cm')).toBe('sonar.distance < 21 cm')
    expect(conditionOf(propose(facts, far, near)[0]!, '21 cm')).toBe('sonar.distance > 21 cm')
  })
  test('that overlap cannot be told apart', () => {
    const [only] = propose(facts, taken({ 'sonar.distance': [0.1, 0.3] }), taken({ 'sonar.distance': [0.25, 0.5] }))
    expect(only).toMatchObject({ threshold: null, certainty: 0 })
  })
  test('no echo is farther than anything: the threshold lies below the range', () => {
    const [best] = propose(facts, taken({ 'sonar.distance': [0.5, 0.52] }), taken({ 'sonar.distance': [Infinity, Infinity] }))
    expect(best!.threshold).toBeCloseTo((0.52 + 2.5) / 2, 9)
  })
  test('what stays the same says nothing', () => {
    expect(propose(facts, taken({ 'floor.reflect': [0.4, 0.4] }), taken({ 'floor.reflect': [0.4, 0.4] }))).toEqual([])
  })
  test('the surer reading comes first', () => {
    const both = propose(facts, taken({ 'sonar.distance': [0.1, 0.3], 'floor.reflect': [0.2, 0.21] }), taken({ 'sonar.distance': [0.32, 0.6], 'floor.reflect': [0.8, 0.81] }))
    expect(both.map(p => p.reading)).toEqual(['floor.reflect', 'sonar.distance'])
  })
})
