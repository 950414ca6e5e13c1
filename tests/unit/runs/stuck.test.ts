import { beforeAll, describe, expect, test } from 'vitest'
import { firstsOf, stuckIn, stuckSaid, type Stuck } from '../../../core/runs'
import { loadPhysics } from '../../../core/physics'
import { build } from '../kit'

beforeAll(loadPhysics)

/** A wall before the robot, which begins at (1 m, 1 m) and faces east; and one at each side of a corner. */
const WALL = { walls: [{ from: ['1.6 m', '0.2 m'], to: ['1.6 m', '1.8 m'], height: '20 cm' }] }
const CORNER = { walls: [{ from: ['1 m', '0 m'], to: ['1.5 m', '1 m'], height: '20 cm' }, { from: ['1.5 m', '1 m'], to: ['1 m', '2 m'], height: '20 cm' }] }
function stuck(program: string, limit: number, arena: object = {}): readonly Stuck[] {
  const s = build('limpet', program, { limit, arena })
  s.runToEnd()
  return stuckIn(s.tape, s.facts)
}

describe('getting nowhere', () => {
  test('against a wall: from when it came there to the end, at the wall, and which rule it was', () => {
    const [found, ...more] = stuck('when run.time > 100 s -> halt\notherwise -> drive 20 cm/s\n', 30, WALL)
    expect(more).toEqual([])
    expect(found).toMatchObject({ how: 'standing', to: 1500, rules: [{ rule: 1, share: 1 }] })
    expect(found!.x).toBeGreaterThan(1.4)
    expect(found!.x).toBeLessThan(1.6)
    expect(found!.from).toBeLessThan(200)
    expect(found!.time).toBeCloseTo((found!.to - found!.from) * 0.02, 9)
  })
  test('left and right in a corner, with how often it turned the other way', () => {
    const [found] = stuck('start\n  repeat\n    turn left 40 deg\n    turn right 40 deg\n', 30, CORNER)
    expect(found).toMatchObject({ how: 'left and right' })
    expect(found!.swings).toBeGreaterThan(10)
    expect(stuckSaid(found!)).toBe(`it turned left and right, ${found!.swings} times the other way`)
  })
  test('to and fro, and round and round', () => {
    expect(stuck('start\n  repeat\n    drive 15 cm/s for 0.4 s\n    drive -15 cm/s for 0.4 s\n', 30)).toMatchObject([{ how: 'to and fro' }])
    expect(stuck('otherwise -> drive 0 cm/s turning right 90 deg/s\n', 30)).toMatchObject([{ how: 'round and round' }])
  })
  test.each([
    ['waits', 'when run.time > 100 s -> drive 20 cm/s\notherwise -> halt\n', 40],
    ['drives a circle', 'otherwise -> drive 20 cm/s turning right 20 deg/s\n', 30],
    ['looks round once', 'start\n  turn right 360 deg\notherwise -> halt\n', 30],
    ['waits long, and goes on', 'start\n  wait 20 s\notherwise -> drive 3 cm/s\n', 26],
    ['is over before', 'otherwise -> drive 0 cm/s turning right 90 deg/s\n', 9],
  ])('is not what one does that %s', (_, program, limit) => {
    expect(stuck(program, limit)).toEqual([])
  })
  test('a robot without wheels never does', () => {
    const s = build('heron', null, { limit: 20 })
    s.runToEnd()
    expect(stuckIn(s.tape, s.facts)).toEqual([])
  })
})

test('what happened first is known by what it was, once each', () => {
  const s = build('limpet', 'when bumper_left.pressed or bumper_right.pressed for 0.3 s once -> note "there"\notherwise -> drive 20 cm/s\n', { limit: 8, arena: WALL })
  s.runToEnd()
  const firsts = firstsOf(s.tape)
  const at = (type: string): number => s.tape.events.find(e => e.type === type)!.tick
  const contact = s.tape.events.find(e => e.type === 'contact')!
  expect(firsts.get(`contact with ${contact.about}`)).toBe(contact.tick)
  expect(firsts.get('note “there”')).toBe(at('note'))
  expect([...firsts.values()]).toEqual([...firsts.values()].sort((a, b) => a - b))
})
