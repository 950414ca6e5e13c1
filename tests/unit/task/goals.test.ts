import { describe, expect, test } from 'vitest'
import { PLAIN_SURFACE, Solid, yawQuaternion } from '../../../core/geometry'
import { GOAL_KINDS, type GoalState, type GoalWorld } from '../../../core/task'
import { gapBetween } from '../../../core/task/goals/goal'
import { REFLECTS, type ColorName } from '../../../core/colors'
import { arenaWith } from '../devices/around'

const surface = { ...PLAIN_SURFACE, friction: 1 }
const hullAt = (x: number, y: number, yaw = 0) => new Solid('robot', { shape: 'box', hx: 0.09, hy: 0.06, hz: 0.035 }, surface, { x, y, z: 0.05 }, yawQuaternion(yaw))
const crate = (x: number, y: number, z = 0.05) => new Solid('crate_1', { shape: 'box', hx: 0.05, hy: 0.1, hz: 0.05 }, surface, { x, y, z }, yawQuaternion(0))

function world(over: Partial<GoalWorld> & { speed?: number } = {}): GoalWorld {
  const { speed = 0, ...rest } = over
  return {
    time: 1, hull: hullAt(0, 0), pieces: [{ name: 'crate_1', kind: 'crate', solid: crate(0.26, 0) }], touched: [], fell: false, finished: false, path: 0,
    body: { velocity: { x: speed, y: 0, z: 0 } } as GoalWorld['body'], visitors: [], onDeck: () => true, light: 1, acts: () => false, arena: arenaWith(), holds: () => false, others: [], ...rest,
  }
}
const kind = (name: string) => GOAL_KINDS.find(k => k.goal === name)!
/** The states that a goal goes through in some worlds. */
function through(name: string, parameters: object, worlds: readonly GoalWorld[]): GoalState {
  const goal = kind(name)
  const state = goal.begin(parameters)
  for (const w of worlds) goal.update(parameters, state, w)
  return state
}

describe('the gap between two solids', () => {
  test('of parallel faces, of corners, of touching ones', () => {
    expect(gapBetween(hullAt(0, 0), crate(0.26, 0))).toBeCloseTo(0.12, 6)
    // Turned by 45 deg a corner points at it: half the diagonal reaches forward.
    const reach = (0.09 + 0.06) / Math.SQRT2
    expect(gapBetween(hullAt(0, 0, Math.PI / 4), crate(0.3, (0.09 - 0.06) / Math.SQRT2))).toBeCloseTo(0.25 - reach, 3)
    expect(gapBetween(hullAt(0, 0), crate(0.1, 0.02))).toBeLessThan(1e-6)
  })
})

describe('at-distance', () => {
  const p = { of: 'crate', distance: 0.12, within: 0.02, hold: 1 }
  test('is met when it stood there for the while', () => {
    expect(through('at-distance', p, [world({ time: 1 }), world({ time: 1.5 })]).status).toBe('open')
    expect(through('at-distance', p, [world({ time: 1 }), world({ time: 1.5 }), world({ time: 2 })])).toMatchObject({ status: 'met', at: 2, progress: '12 cm' })
  })
  test('the while begins anew when it moved or left', () => {
    expect(through('at-distance', p, [world({ time: 1 }), world({ time: 1.5, speed: 0.1 }), world({ time: 2 }), world({ time: 2.5 })]).status).toBe('open')
    expect(through('at-distance', p, [world({ time: 1 }), world({ time: 1.5, hull: hullAt(-0.1, 0) }), world({ time: 2.2 })]).status).toBe('open')
  })
})

describe('the other goals', () => {
  test('never-touch holds until something is touched, of its kind if it names one', () => {
    const touch = [{ name: 'crate_1', kind: 'crate' }]
    expect(through('never-touch', { kind: '' }, [world()]).status).toBe('held')
    expect(through('never-touch', { kind: '' }, [world({ touched: touch, time: 3 })])).toMatchObject({ status: 'failed', at: 3, progress: 'touched crate_1' })
    expect(through('never-touch', { kind: 'buoy' }, [world({ touched: touch })]).status).toBe('held')
  })
  test('travels is met by the way covered', () => {
    expect(through('travels', { distance: 5 }, [world({ path: 4.99 })])).toMatchObject({ status: 'open', progress: '5.0 m' })
    expect(through('travels', { distance: 5 }, [world({ path: 5, time: 9 })])).toMatchObject({ status: 'met', at: 9 })
  })
  test('stay-aboard fails with a fall and stays failed', () => {
    expect(through('stay-aboard', {}, [world({ fell: true, time: 2 }), world({ time: 3 })])).toMatchObject({ status: 'failed', at: 2 })
  })
  test('finish is met when the program ends the run', () => {
    expect(through('finish', {}, [world()]).status).toBe('open')
    expect(through('finish', {}, [world({ finished: true })]).status).toBe('met')
  })
  test('clear-deck counts what is overboard', () => {
    const pieces = (z: number) => [{ name: 'a', kind: 'wood', solid: crate(1, 0, z) }, { name: 'b', kind: 'wood', solid: crate(2, 0, -0.5) }, { name: 'c', kind: 'crate', solid: crate(3, 0) }]
    expect(through('clear-deck', { kind: 'wood' }, [world({ pieces: pieces(0.05) })])).toMatchObject({ status: 'open', progress: '1 of 2' })
    expect(through('clear-deck', { kind: 'wood' }, [world({ pieces: pieces(-0.4) })])).toMatchObject({ status: 'met', progress: '2 of 2' })
    expect(through('clear-deck', { kind: 'wood' }, [world({ pieces: pieces(0.05), onDeck: (x: number) => x !== 1 })]).status).toBe('met')
  })
  test('each says itself as a sentence', () => {
    expect(kind('at-distance').sentence({ of: 'fender', distance: 0.12, within: 0.02, hold: 1 })).toBe('stands 12 cm from fender, within 2 cm, for 1 s')
    expect(kind('clear-deck').sentence({ kind: 'driftwood' })).toBe('every driftwood off the deck')
  })
})

describe('answers', () => {
  const p = { by: 'horn', to: 'mate', from: 0.1, within: 0.6, times: 2, slack: 0.2 }
  /** A mate so far before the robot (metres, between their nearest points), and whether the horn sounds. */
  const mate = (gap: number, sounds: boolean) => world({ acts: device => device === 'horn' && sounds, visitors: [{ name: 'mate', kind: 'visitor', solid: crate(0.14 + gap, 0) }] })

  test('holds when the device began often enough while something was near', () => {
    expect(through('answers', p, [mate(0.4, true), mate(0.4, true)])).toMatchObject({ status: 'open', progress: '1 of 2' })
    expect(through('answers', p, [mate(0.4, true), mate(0.4, false), mate(0.5, true)])).toMatchObject({ status: 'held', progress: '2 of 2' })
  })
  test('does not count what is too near, or a little too far', () => {
    expect(through('answers', p, [mate(0.05, true), mate(0.4, false), mate(0.7, true)])).toMatchObject({ status: 'open', progress: '0 of 2' })
  })
  test('is lost by one answer to nothing, also after it was held', () => {
    const held = [mate(0.4, true), mate(0.4, false), mate(0.5, true), mate(0.9, false)]
    expect(through('answers', p, [...held, mate(0.9, true)])).toMatchObject({ status: 'failed', at: 1 })
    expect(through('answers', { ...p, to: 'ghost' }, [mate(0.4, true)]).status).toBe('failed')
  })
})

describe('rests', () => {
  const p = { light: 0.3, grace: 2 }
  test('holds while the robot moves in the dark, and stands in the light', () => {
    expect(through('rests', p, [world({ light: 0.1, speed: 0.2 }), world({ light: 0.5, time: 2 }), world({ light: 0.5, time: 9 })]).status).toBe('held')
  })
  test('gives it a while when the light comes, then is lost', () => {
    const lit = (time: number) => world({ light: 0.5, speed: 0.2, time })
    expect(through('rests', p, [lit(5), lit(6.9)]).status).toBe('held')
    expect(through('rests', p, [lit(5), lit(7.1)])).toMatchObject({ status: 'failed', at: 7.1, progress: 'moved at 7.1 s' })
    expect(through('rests', p, [lit(5), world({ light: 0.1, speed: 0.2, time: 6 }), lit(7.1)]).status).toBe('held')
  })
})

describe('margins', () => {
  const at = (name: string, x: number, y: number, z = 0.05) => ({ name, kind: 'crate', solid: crate(x, y, z) })
  /** What each instant's margin is, in worlds one after the other; and what counts of them all. */
  function margins(name: string, parameters: object, worlds: readonly GoalWorld[]) {
    const goal = kind(name)
    const state = goal.begin(parameters)
    return { counts: goal.margin!.counts(parameters), unit: goal.margin!.unit, now: worlds.map((w) => { goal.update(parameters, state, w); const m = goal.margin!.now(parameters, state, w); return m === null ? null : Number(m.toFixed(3)) }) }
  }
  const dock = arenaWith({ areas: [{ name: 'dock', at: ['1 m', '1 m'], size: ['40 cm', '20 cm'] }], patches: [{ shape: 'disc', at: ['3 m', '1 m'], diameter: '60 cm', color: 'red' }] })
  const inDock = (...pieces: readonly ReturnType<typeof at>[]) => world({ arena: dock, pieces })

  test('pieces in an area: the way that the last one needed lacks, or has to spare', () => {
    const p = { kind: 'crate', area: 'dock', hold: 0.5, counts: 'at the end' }
    expect(margins('in-area', p, [inDock(at('a', 1, 1), at('b', 1.5, 1)), inDock(at('a', 1, 1), at('b', 1.15, 1)), inDock()])).toEqual({ counts: 'last', unit: 'm', now: [-0.3, 0.05, null] })
    // Of two one is enough: the nearer one counts. Beyond a corner it is the way to the corner.
    expect(margins('in-area', { ...p, count: 1 }, [inDock(at('a', 1.23, 1.14), at('b', 9, 9)), inDock(at('a', 1, 1))]).now).toEqual([-0.05, 0.1])
    expect(margins('in-area', { kind: 'crate', area: 'red', hold: 0, counts: 'once' }, [inDock(at('a', 3, 1.4)), inDock(at('a', 3.1, 1))])).toEqual({ counts: 'best', unit: 'm', now: [-0.1, 0.2] })
  })
  test('an area left empty: the way that the innermost piece has to go', () => {
    expect(margins('empty-area', { kind: '', area: 'dock', hold: 0.5, counts: 'at the end' }, [inDock(at('a', 1, 1.05), at('b', 2, 1)), inDock(at('a', 1.3, 1), at('b', 2, 1))]).now).toEqual([-0.05, 0.1])
  })
  test('the robot in an area: by its middle; one that is counted has none', () => {
    const there = (x: number) => world({ arena: dock, body: { velocity: { x: 0, y: 0, z: 0 }, pose: { position: { x, y: 1, z: 0 } } } as GoalWorld['body'] })
    expect(margins('robot-in', { area: 'dock', hold: 0, counts: 'once' }, [there(0.5), there(1.1)])).toEqual({ counts: 'best', unit: 'm', now: [-0.3, 0.1] })
    expect(margins('robot-in', { area: 'dock', times: 2, hold: 0 }, [there(0.5)]).now).toEqual([null])
  })
  test('a deck cleared: how far from the edge the innermost piece is; none once all are off', () => {
    const deck = (...pieces: readonly ReturnType<typeof at>[]) => world({ pieces, onDeck: (x, y) => x >= 0 && x <= 2 && y >= 0 && y <= 2 })
    const { counts, now } = margins('clear-deck', { kind: 'crate' }, [deck(at('a', 1.8, 1), at('b', 1, 0.5)), deck(at('a', 1.8, 1), at('b', 5, 5)), deck(at('a', 1, 1, -0.4), at('b', 5, 5))])
    expect(counts).toBe('last')
    expect(now[0]).toBeCloseTo(-0.5, 1)
    expect(now[1]).toBeCloseTo(-0.2, 1)
    expect(now[2]).toBeNull()
  })
  test('what is counted lacks so many', () => {
    const pots = (...z: readonly number[]) => world({ pieces: z.map((h, i) => ({ ...at(`p${i}`, i, 0, h) })) })
    expect(margins('topple', { kind: 'crate', count: 3 }, [pots(0.2, 0.2, 0.2), pots(0.05, 0.2, 0.2), pots(0.05, 0.05, 0.05)])).toEqual({ counts: 'last', unit: 'pieces', now: [-3, -2, null] })
    const near = (acts: boolean) => world({ acts: () => acts })
    expect(margins('answers', { by: 'horn', to: 'crate', from: 0, within: 0.5, times: 2, slack: 0.2 }, [near(false), near(true), near(false), near(true)])).toEqual({ counts: 'last', unit: 'times', now: [-2, -1, -1, null] })
  })
  test('who is to rest has the rest of its grace while it moves; lost, how late it was', () => {
    const p = { light: 0.3, grace: 2 }
    expect(margins('rests', p, [world({ light: 0.1, speed: 1 }), world({ time: 5, speed: 1 }), world({ time: 6.5, speed: 1 }), world({ time: 6.8, speed: 0 }), world({ time: 7.5, speed: 1 }), world({ time: 9, speed: 1 })])).toEqual({ counts: 'least', unit: 's', now: [null, 2, 0.5, null, -0.5, -0.5] })
  })
  test('pieces by colour: the way to a crate of its colour that the last one needed lacks; none where no crate has its colour', () => {
    const shelves = arenaWith({ crates: [{ name: 'reds', at: ['1 m', '1 m'], size: ['40 cm', '40 cm'], height: '10 cm', color: 'red' }, { name: 'greens', at: ['2 m', '1 m'], size: ['40 cm', '40 cm'], height: '10 cm', color: 'green' }] })
    const lid = (color: ColorName, x: number, y = 1) => ({ name: color, kind: 'lid', solid: new Solid(color, { shape: 'box', hx: 0.02, hy: 0.02, hz: 0.01 }, { ...surface, paint: REFLECTS[color] }, { x, y, z: 0.02 }, yawQuaternion(0)) })
    const p = { kind: 'lid', counts: 'at the end', hold: 0 }
    const on = (...pieces: readonly ReturnType<typeof lid>[]) => world({ arena: shelves, pieces })
    expect(margins('own-crate', p, [on(lid('red', 1.1), lid('green', 1.5)), on(lid('red', 1.05), lid('green', 2.1))])).toEqual({ counts: 'last', unit: 'm', now: [-0.3, 0.1] })
    expect(margins('own-crate', { ...p, count: 1 }, [on(lid('red', 1), lid('green', 4))]).now).toEqual([0.2])
    expect(margins('own-crate', p, [on(lid('blue', 1.5)), on()]).now).toEqual([null, null])
    // In a crate of another colour it is lost, and lacks the way to its own.
    expect(through('own-crate', p, [on(lid('green', 1))])).toMatchObject({ status: 'failed', progress: 'green in reds' })
    expect(margins('own-crate', p, [on(lid('green', 1))]).now).toEqual([-0.8])
  })
  test('pieces on one another: how far the top would have to go to stand there, as near as any could', () => {
    // A crate is 10 cm high; one may stand on another by its middle, up to half of what a ball around it would have.
    const reach = Number((crate(0, 0).bound / 2).toFixed(3))
    const p = { kind: 'crate', high: 2, hold: 1 }
    const piled = (...pieces: readonly ReturnType<typeof at>[]) => world({ pieces })
    const beside = margins('stacked', p, [piled(at('a', 0, 0), at('b', 0.4, 0)), piled(at('a', 0, 0), at('b', 0, 0, 0.25)), piled(at('a', 0, 0), at('b', 0, 0, 0.152)), piled(at('a', 0, 0))])
    expect(beside).toMatchObject({ counts: 'best', unit: 'm' })
    expect(beside.now[0]).toBeCloseTo(-Math.hypot(0.4 - reach, 0.1 - 0.006), 2)
    expect(beside.now.slice(1)).toEqual([-0.094, 0.004, null])
    // Three need two steps: the worse of them counts, and none stands on itself.
    expect(margins('stacked', { ...p, high: 3 }, [piled(at('a', 0, 0), at('b', 0, 0, 0.15), at('c', 0, 0, 0.3)), piled(at('a', 0, 0), at('b', 0, 0, 0.15))]).now).toEqual([-0.044, null])
    expect(through('stacked', p, [world({ time: 1, pieces: [at('a', 0, 0), at('b', 0, 0.01, 0.15)] }), world({ time: 2, pieces: [at('a', 0, 0), at('b', 0, 0.01, 0.15)] })])).toMatchObject({ status: 'met', at: 2, progress: '2 of 2' })
  })
})
