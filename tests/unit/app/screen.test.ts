import { describe, expect, test } from 'vitest'
import { Tape } from '../../../core/tape'
import { screenAt } from '../../../app/shown/screen'
import { build } from '../kit'
import { loadPhysics } from '../../../core/physics'

/** What stands on a display in a tick, by the events of a tape that grows. */

await loadPhysics()
const tape = (): Tape => new Tape(build('cuttle', null, { limit: 1 }).tape.layout)
const show = (tick: number, text: string, about = 'display') => ({ tick, type: 'show', text, about }) as const

describe('a display at an instant', () => {
  test('shows what was written last, and nothing before', () => {
    const t = tape()
    t.events.push(show(5, 'one'), { tick: 6, type: 'note', text: 'beside', about: 'main' }, show(9, 'two'))
    expect([0, 4, 5, 8, 9, 100].map(tick => screenAt(t, 'display', tick))).toEqual(['', '', 'one', 'one', 'two', 'two'])
  })
  test('is known as the tape grows', () => {
    const t = tape()
    expect(screenAt(t, 'display', 50)).toBe('')
    t.events.push(show(5, 'one'))
    expect(screenAt(t, 'display', 50)).toBe('one')
    t.events.push(show(7, ''))
    expect([screenAt(t, 'display', 6), screenAt(t, 'display', 50)]).toEqual(['one', ''])
  })
  test('is its own: two displays, and two tapes', () => {
    const [a, b] = [tape(), tape()]
    a.events.push(show(1, 'fore', 'fore'), show(2, 'aft', 'aft'))
    b.events.push(show(1, 'other', 'fore'))
    expect([screenAt(a, 'fore', 3), screenAt(a, 'aft', 3), screenAt(b, 'fore', 3), screenAt(b, 'aft', 3)]).toEqual(['fore', 'aft', 'other', ''])
  })
  test('after a tape was taken back, what came later is forgotten', () => {
    const t = tape()
    t.events.push(show(1, 'one'), show(5, 'two'))
    expect(screenAt(t, 'display', 9)).toBe('two')
    t.events.length = 1
    expect(screenAt(t, 'display', 9)).toBe('one')
  })
})
