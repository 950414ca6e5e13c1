import { describe, expect, test } from 'vitest'
import { REFLECTS } from '../../../core/colors'
import { PLAIN_SURFACE, Solid, multiply, yawQuaternion, type Quaternion, type Surface } from '../../../core/geometry'
import { GOAL_KINDS, readTask, type GoalState, type GoalWorld } from '../../../core/task'
import { arenaWith } from '../devices/around'

/** Goals about places: areas, crates, painted floor, lines. */

const arena = arenaWith({
  areas: [{ name: 'home', at: ['50 cm', '1 m'], size: ['60 cm', '40 cm'] }],
  crates: [{ name: 'red_crate', at: ['2 m', '1 m'], size: ['20 cm', '30 cm'], turn: '90 deg', height: '10 cm', color: 'red' }, { name: 'blue_crate', at: ['3 m', '1 m'], size: ['20 cm', '20 cm'], height: '10 cm', color: 'blue' }],
  patches: [{ shape: 'disc', at: ['1 m', '2 m'], diameter: '40 cm', color: 'yellow' }],
  lines: [{ name: 'hawser', points: [['50 cm', '50 cm'], ['2 m', '50 cm'], ['2 m', '2 m']] }],
})

const float = (name: string, x: number, y: number, z = 0.03, surface: Surface = PLAIN_SURFACE, rotation: Quaternion = yawQuaternion(0)) =>
  ({ name, kind: 'float', solid: new Solid(name, { shape: 'cylinder', radius: 0.02, hz: 0.03 }, surface, { x, y, z }, rotation) })
const painted = (color: keyof typeof REFLECTS): Surface => ({ ...PLAIN_SURFACE, paint: REFLECTS[color] })

function world(over: Partial<Omit<GoalWorld, 'body'>> & { at?: readonly [number, number], speed?: number } = {}): GoalWorld {
  const { at = [0, 0], speed = 0, ...rest } = over
  return {
    time: 1, hull: float('hull', 0, 0).solid, pieces: [], touched: [], fell: false, finished: false, path: 0, visitors: [], onDeck: () => true, light: 1, acts: () => false, arena, holds: () => false, others: [],
    body: { velocity: { x: speed, y: 0, z: 0 }, pose: { position: { x: at[0], y: at[1], z: 0.05 } } } as GoalWorld['body'], ...rest,
  }
}
function through(name: string, parameters: object, worlds: readonly GoalWorld[]): GoalState {
  const goal = GOAL_KINDS.find(k => k.goal === name)!
  const state = goal.begin(parameters)
  for (const w of worlds) goal.update(parameters, state, w)
  return state
}

describe('in-area', () => {
  const p = { kind: 'float', area: 'home', hold: 0.5 }
  const inside = float('a', 0.7, 1.1)
  const outside = float('b', 0.7, 1.25)
  test('counts what lies in the area, and is met when all has for a while', () => {
    expect(through('in-area', p, [world({ pieces: [inside, outside] })])).toMatchObject({ status: 'open', progress: '1 of 2' })
    expect(through('in-area', p, [world({ pieces: [inside], time: 2 }), world({ pieces: [inside], time: 2.6 })])).toMatchObject({ status: 'met', at: 2.6 })
    expect(through('in-area', { ...p, count: 1 }, [world({ pieces: [inside, outside], time: 2 }), world({ pieces: [inside, outside], time: 2.6 })]).status).toBe('met')
  })
  test('what the robot still holds does not count', () => {
    const held = (time: number) => world({ pieces: [inside], time, holds: name => name === 'a' })
    expect(through('in-area', p, [held(2), held(3)])).toMatchObject({ status: 'open', progress: '0 of 1' })
  })
  test('a painted colour is a place, and so is one piece by its name', () => {
    const on = float('c', 1.1, 2.1)
    expect(through('in-area', { kind: 'c', area: 'yellow', hold: 0 }, [world({ pieces: [on, outside] })]).status).toBe('met')
    expect(through('in-area', { kind: 'c', area: 'yellow', hold: 0 }, [world({ pieces: [float('c', 1.19, 2.19)] })]).status).toBe('open')
  })
})

describe('own-crate', () => {
  const p = { kind: 'float' }
  test('each in the crate painted like it; crates turn with their document', () => {
    // The red crate lies across: 15 cm to either side in x, 10 cm in y.
    const red = float('r', 2.13, 1.05, 0.04, painted('red'))
    const blue = float('b', 3.05, 1, 0.04, painted('blue'))
    expect(through('own-crate', p, [world({ pieces: [red, blue] })])).toMatchObject({ status: 'met', progress: '2 of 2' })
    expect(through('own-crate', p, [world({ pieces: [red, float('b', 3.05, 1, 0.3, painted('blue'))] })])).toMatchObject({ status: 'open', progress: '1 of 2' })
  })
  test('one in another crate fails at once', () => {
    expect(through('own-crate', p, [world({ pieces: [float('r', 3, 1, 0.04, painted('red'))], time: 4 })])).toMatchObject({ status: 'failed', at: 4, progress: 'r in blue_crate' })
  })
})

describe('robot-in', () => {
  test('the robot stays in the area for a while', () => {
    const p = { area: 'home', hold: 1 }
    const at = (x: number, time: number) => world({ at: [x, 1], time })
    expect(through('robot-in', p, [at(0.5, 1), at(0.9, 1.5), at(0.5, 2)]).status).toBe('open')
    expect(through('robot-in', p, [at(0.5, 1), at(0.6, 1.5), at(0.5, 2)])).toMatchObject({ status: 'met', at: 2 })
  })
})

describe('topple', () => {
  const lying = multiply(yawQuaternion(0.4), { x: Math.SQRT1_2, y: 0, z: 0, w: Math.SQRT1_2 })
  test('counts what lies, and what fell from its stack', () => {
    const before = world({ pieces: [float('a', 1, 1), float('b', 1, 1, 0.09), float('c', 2, 1)] })
    expect(through('topple', { kind: 'float' }, [before])).toMatchObject({ progress: '0 of 3' })
    expect(through('topple', { kind: 'float' }, [before, world({ pieces: [float('a', 1, 1), float('b', 1.2, 1, 0.03), float('c', 2, 1, 0.02, PLAIN_SURFACE, lying)] })])).toMatchObject({ status: 'open', progress: '2 of 3' })
    expect(through('topple', { kind: 'float', count: 1 }, [before, world({ pieces: [float('a', 1, 1), float('b', 1.2, 1, 0.03), float('c', 2, 1)] })]).status).toBe('met')
  })
})

describe('follow', () => {
  const p = { line: 'hawser', within: 0.12 }
  const along = (points: readonly (readonly [number, number])[]) => points.map((at, i) => world({ at, time: i }))
  const east = Array.from({ length: 16 }, (_, i) => [0.5 + 0.1 * i, 0.55] as const)
  const north = Array.from({ length: 15 }, (_, i) => [1.95, 0.6 + 0.1 * i] as const)
  test('is met at the end of the line', () => {
    expect(through('follow', p, along([...east, ...north])).status).toBe('met')
    expect(through('follow', p, along(east))).toMatchObject({ status: 'open', progress: '52 %' })
  })
  test('fails where the robot strays', () => {
    expect(through('follow', p, along([...east.slice(0, 8), [1.3, 0.8]]))).toMatchObject({ status: 'failed', progress: 'strayed after 70 cm' })
  })
  test('a leap to the end is not following', () => {
    expect(through('follow', p, along([...east.slice(0, 4), [2, 1.98]])).status).toBe('failed')
  })
})

describe('a task that names what the arena lacks', () => {
  test.each([
    [{ goal: 'in-area', kind: 'float', area: 'attic' }, /no such area, crate or painted colour; it has home, red_crate, blue_crate, yellow/],
    [{ goal: 'follow', line: 'rope' }, /no such line; it has hawser/],
    [{ goal: 'in-area', kind: 'whale', area: 'home' }, /no such piece/],
  ])('%j', (goal, says) => {
    const read = readTask({ mindpath: 'task', version: 1, name: 't', title: 'T', goals: [goal] }, arena)
    expect(read.ok).toBe(false)
    expect(read.ok ? '' : read.problems.map(p => p.message).join('\n')).toMatch(says)
  })
})

describe('how a goal counts', () => {
  const inside = float('a', 0.7, 1.1)
  const outside = float('a', 0.7, 1.25)
  const passing = (counts: string) => through('in-area', { kind: 'float', area: 'home', hold: 0.5, counts }, [
    world({ pieces: [outside], time: 1 }), world({ pieces: [inside], time: 2 }), world({ pieces: [inside], time: 2.2 }), world({ pieces: [outside], time: 2.4 }),
  ])
  test('passing through meets one that counts once, and no other', () => {
    expect([passing('once').status, passing('held').status, passing('at the end').status]).toEqual(['met', 'open', 'open'])
  })
  test('at the end it is so as long as it is so', () => {
    const p = { kind: 'float', area: 'home', hold: 0.5, counts: 'at the end' }
    expect(through('in-area', p, [world({ pieces: [inside] })]).status).toBe('held')
    expect(through('in-area', p, [world({ pieces: [inside] }), world({ pieces: [outside] }), world({ pieces: [inside] })]).status).toBe('held')
  })
  test('the sentence says which', () => {
    const says = (counts: string) => GOAL_KINDS.find(k => k.goal === 'in-area')!.sentence({ kind: 'float', area: 'home', hold: 0.5, counts })
    expect([says('once'), says('held'), says('at the end')]).toEqual(['every float in home, once', 'every float in home, for 0.5 s', 'every float in home, at the end'])
  })
  test('coming in several times is counted by coming in', () => {
    const p = { area: 'home', hold: 0, times: 2 }
    const at = (x: number) => world({ at: [x, 1] })
    expect(through('robot-in', p, [at(0.5), at(0.5), at(0.6)])).toMatchObject({ status: 'open', progress: '1 of 2' })
    expect(through('robot-in', p, [at(0.5), at(0.9), at(0.6)])).toMatchObject({ status: 'met', progress: '2 of 2' })
  })
})

describe('a distance from somebody who walks', () => {
  test('is measured to where they are now, and to the nearest of a kind', () => {
    const p = { of: 'walker', distance: 0.5, within: 0.05, hold: 0 }
    const walker = (x: number) => ({ ...float('w', x, 0), kind: 'walker' })
    expect(through('at-distance', p, [world({ visitors: [walker(0.9)] })]).status).toBe('open')
    expect(through('at-distance', p, [world({ visitors: [walker(0.9)] }), world({ visitors: [walker(0.54)] })]).status).toBe('met')
    expect(through('at-distance', p, [world({ visitors: [walker(2), walker(0.54)] })]).status).toBe('met')
  })
})

describe('an empty area, and a stack', () => {
  test('a piece within keeps an area from being empty', () => {
    const p = { area: 'home', kind: '', hold: 0, counts: 'at the end' }
    expect(through('empty-area', p, [world({ pieces: [float('a', 0.7, 1.1)] })])).toMatchObject({ status: 'open', progress: '1 left' })
    expect(through('empty-area', p, [world({ pieces: [float('a', 0.9, 1.1)] })])).toMatchObject({ status: 'held', progress: 'empty' })
    expect(through('empty-area', { ...p, kind: 'pot' }, [world({ pieces: [float('a', 0.7, 1.1)] })]).status).toBe('held')
  })
  test('stacked are those that stand on one another, not those that stand side by side or hang', () => {
    const p = { kind: 'float', high: 3, hold: 0 }
    const tower = [float('a', 1, 1, 0.03), float('b', 1.005, 1, 0.09), float('c', 1, 1.005, 0.15)]
    expect(through('stacked', p, [world({ pieces: tower })])).toMatchObject({ status: 'met', progress: '3 of 3' })
    expect(through('stacked', p, [world({ pieces: tower, holds: name => name === 'c' })])).toMatchObject({ status: 'open', progress: '2 of 3' })
    expect(through('stacked', p, [world({ pieces: [float('a', 1, 1), float('b', 1.2, 1, 0.09), float('c', 1, 1, 0.3)] })])).toMatchObject({ progress: '1 of 3' })
  })
})

describe('follow', () => {
  test('begins wherever on the line the robot starts', () => {
    const at = (x: number, y: number) => world({ at: [x, y] })
    // From the corner on: the second stretch only.
    expect(through('follow', { line: 'hawser', within: 0.12 }, [at(2, 0.9), at(2, 1.2), at(2, 1.55), at(2, 1.92)]).status).toBe('met')
  })
})
