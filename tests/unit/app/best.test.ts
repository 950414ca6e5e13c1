import { describe, expect, test } from 'vitest'
import { raceOf, timeOf } from '../../../app/features/bench/best'

describe('best times', () => {
  const met = [{ status: 'met' }, { status: 'met' }] as const
  test('are of runs that met all goals by themselves', () => {
    expect(timeOf({ time: 12 }, met, [])).toBe(12)
    expect(timeOf({ time: 12 }, met, [{ type: 'poke', poke: { poke: 'dial' } }, { type: 'note' }])).toBe(12)
    expect(timeOf({ time: 12 }, met, [{ type: 'poke', poke: { poke: 'hand' } }])).toBeNull()
    expect([timeOf(null, met, []), timeOf({ time: 12 }, [], []), timeOf({ time: 12 }, [...met, { status: 'failed' }], [])]).toEqual([null, null, null])
  })
  test('are apart for other documents, seeds and realisms', () => {
    const one = raceOf('p', [{ a: 1 }], 1, 'typical')
    expect(raceOf('p', [{ a: 1 }], 1, 'typical')).toBe(one)
    expect(new Set([one, raceOf('p', [{ a: 2 }], 1, 'typical'), raceOf('p', [{ a: 1 }], 2, 'typical'), raceOf('p', [{ a: 1 }], 1, 'rough'), raceOf('q', [{ a: 1 }], 1, 'typical')]).size).toBe(5)
  })
})
