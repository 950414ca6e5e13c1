import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { PLAIN_SURFACE, Solid, yawQuaternion } from '../../../core/geometry'
import { GOAL_KINDS, type GoalWorld } from '../../../core/task'
import { arenaWith } from '../devices/around'

/** When goals count, over random courses of a run: each against its sentence read to the letter. */

const surface = { ...PLAIN_SURFACE, friction: 1 }
const TICK = 0.02
const AREAS = { areas: [{ name: 'bay', at: ['1 m', '1 m'], size: ['40 cm', '40 cm'] }], lines: [{ name: 'rope', points: [['0 m', '1 m'], ['1 m', '1 m'], ['1 m', '2 m']], width: '2 cm' }] }
const ARENA = arenaWith(AREAS)
const thing = (name: string, x: number, y = 1, z = 0.05): GoalWorld['pieces'][number] =>
  ({ name, kind: 'buoy', solid: new Solid(name, { shape: 'box', hx: 0.05, hy: 0.05, hz: 0.05 }, surface, { x, y, z }, yawQuaternion(0)) })
const inBay = (x: number): boolean => Math.abs(x - 1) <= 0.2

function world(over: Partial<GoalWorld> & { x?: number, y?: number, speed?: number }): GoalWorld {
  const { x = 0, y = 1, speed = 0, ...rest } = over
  return {
    time: 0, hull: new Solid('robot', { shape: 'box', hx: 0.09, hy: 0.06, hz: 0.035 }, surface, { x, y, z: 0.05 }, yawQuaternion(0)), pieces: [], touched: [], fell: false, finished: false, path: 0,
    body: { pose: { position: { x, y, z: 0.05 } }, velocity: { x: speed, y: 0, z: 0 } } as GoalWorld['body'], visitors: [], onDeck: () => true, light: 1, acts: () => false, arena: ARENA, holds: () => false, others: [], ...rest,
  }
}

/** The states that a goal is in after each of some worlds, a tick apart. */
function course(goal: string, parameters: object, worlds: readonly GoalWorld[]): { readonly status: readonly string[], readonly at: number | null, readonly progress: string } {
  const kind = GOAL_KINDS.find(k => k.goal === goal)!
  const p = kind.schema.cast(parameters) as object
  const state = kind.begin(p)
  const status = worlds.map((w) => { kind.update(p, state, w); return state.status })
  return { status, at: state.at, progress: state.progress }
}
const timed = (all: readonly Partial<Parameters<typeof world>[0]>[]): GoalWorld[] => all.map((w, i) => world({ ...w, time: (i + 1) * TICK }))

/** A course that goes in and out in stretches. */
const stretches = fc.array(fc.tuple(fc.boolean(), fc.integer({ min: 1, max: 30 })), { minLength: 1, maxLength: 12 }).map(all => all.flatMap(([inside, ticks]) => Array.from({ length: ticks }, () => inside)))

/** The first tick from which a stretch of `true` has lasted so many seconds; -1 when none has. */
function held(inside: readonly boolean[], seconds: number): number {
  let since = -1
  return inside.findIndex((now, i) => {
    if (!now) { since = -1; return false }
    if (since === -1) since = i
    return (i - since) * TICK >= seconds - 1e-9
  })
}

describe('the robot in an area', () => {
  const inside = (all: readonly boolean[]) => timed(all.map(now => ({ x: now ? 1 : 0 })))
  test('once: met in the first tick in which it is there, and stays met', () => {
    fc.assert(fc.property(stretches, (all) => {
      const first = all.indexOf(true)
      const { status, at } = course('robot-in', { area: 'bay' }, inside(all))
      expect(status).toEqual(all.map((_, i) => first !== -1 && i >= first ? 'met' : 'open'))
      expect(at).toEqual(first === -1 ? null : expect.closeTo((first + 1) * TICK, 9))
    }), { numRuns: 60 })
  })
  test('held: met when it has been there that long without a break', () => {
    fc.assert(fc.property(stretches, fc.constantFrom(0.1, 0.2, 0.5), (all, hold) => {
      const met = held(all, hold)
      expect(course('robot-in', { area: 'bay', counts: 'held', hold: `${hold} s` }, inside(all)).status).toEqual(all.map((_, i) => met !== -1 && i >= met ? 'met' : 'open'))
    }), { numRuns: 100 })
  })
  test('at the end: as it stands in each tick, since any may be the last', () => {
    fc.assert(fc.property(stretches, (all) => {
      expect(course('robot-in', { area: 'bay', counts: 'at the end' }, inside(all)).status).toEqual(all.map(now => now ? 'held' : 'open'))
    }), { numRuns: 60 })
  })
  test('so many times: each coming in counts, staying does not', () => {
    fc.assert(fc.property(stretches, fc.integer({ min: 2, max: 5 }), (all, times) => {
      const entered = all.reduce<number[]>((list, now, i) => now && (i === 0 || !all[i - 1]) ? [...list, i] : list, [])
      const met = entered[times - 1] ?? -1
      const { status, progress } = course('robot-in', { area: 'bay', times }, inside(all))
      expect(status).toEqual(all.map((_, i) => met !== -1 && i >= met ? 'met' : 'open'))
      if (met === -1) expect(progress).toBe(`${entered.length} of ${times}`)
    }), { numRuns: 100 })
  })
})

describe('pieces in an area', () => {
  const places = fc.array(fc.tuple(fc.boolean(), fc.boolean(), fc.boolean(), fc.boolean()), { minLength: 3, maxLength: 60 })
  test('all of a kind, let go, while nothing is flung about', () => {
    fc.assert(fc.property(places, (all) => {
      const worlds = timed(all.map(([a, b, inHand, fast]) => ({ pieces: [thing('one', a ? 1 : 0), thing('two', b ? 1.1 : 0)], holds: (p: string) => inHand && p === 'two', speed: fast ? 0.8 : 0 })))
      const { status } = course('in-area', { kind: 'buoy', area: 'bay', counts: 'at the end' }, worlds)
      expect(status).toEqual(all.map(([a, b, inHand, fast]) => a && b && !inHand && !fast ? 'held' : 'open'))
    }), { numRuns: 80 })
  })
  test('some of them, when a number is asked, and one by its name', () => {
    const worlds = timed([{ pieces: [thing('one', 0), thing('two', 1.1), thing('three', 0)] }])
    expect(course('in-area', { kind: 'buoy', area: 'bay', counts: 'once', count: 1 }, worlds)).toMatchObject({ status: ['met'], progress: '1 of 1' })
    expect(course('in-area', { kind: 'buoy', area: 'bay', counts: 'once' }, worlds)).toMatchObject({ status: ['open'], progress: '1 of 3' })
    expect(course('in-area', { kind: 'two', area: 'bay', counts: 'once' }, worlds).status).toEqual(['met'])
    expect(course('in-area', { kind: 'whale', area: 'bay', counts: 'once' }, worlds).status).toEqual(['open'])
  })
  test('an area is empty when none of a kind is in it, wherever they are else', () => {
    fc.assert(fc.property(fc.array(fc.double({ min: 0.5, max: 1.5, noNaN: true }), { minLength: 1, maxLength: 6 }), (xs) => {
      const { status } = course('empty-area', { kind: 'buoy', area: 'bay', counts: 'once' }, timed([{ pieces: xs.map((x, i) => thing(`b${i}`, x)) }]))
      expect(status[0] === 'met').toBe(xs.every(x => !inBay(x)))
    }), { numRuns: 100 })
  })
})

describe('a stack', () => {
  test('is as high as things stand on one another, however they are listed', () => {
    fc.assert(fc.property(fc.array(fc.integer({ min: 0, max: 2 }), { minLength: 1, maxLength: 9 }), fc.integer({ min: 0, max: 1000 }), (columns, mix) => {
      const heights = [0, 0, 0]
      const pieces = columns.map((c, i) => thing(`b${i}`, c * 0.5, 1, 0.05 + 0.1 * heights[c]!++))
      const order = pieces.map((p, i) => ({ p, at: (i * 7919 + mix) % 101 })).sort((a, b) => a.at - b.at).map(o => o.p)
      const most = Math.max(...heights)
      expect(course('stacked', { kind: 'buoy', high: 20, counts: 'once' }, timed([{ pieces: order }])).progress).toBe(`${most} of 20`)
    }), { numRuns: 100 })
  })
  test('is none of what only lies beside, hangs above or stands off its middle', () => {
    const progress = (upper: GoalWorld['pieces'][number]): string => course('stacked', { kind: 'buoy', high: 2, counts: 'once' }, timed([{ pieces: [thing('low', 1), upper] }])).progress
    expect(progress(thing('up', 1, 1, 0.15))).toBe('2 of 2')
    expect(progress(thing('up', 1.02, 1.01, 0.152))).toBe('2 of 2')
    expect(progress(thing('up', 1, 1, 0.17))).toBe('1 of 2')
    expect(progress(thing('up', 1.06, 1, 0.15))).toBe('1 of 2')
    expect(progress(thing('up', 1.1, 1, 0.05))).toBe('1 of 2')
  })
})

describe('following a line', () => {
  const along = (way: number): { x: number, y: number } => way < 1 ? { x: way, y: 1 } : { x: 1, y: way }
  test('is met at its end by whoever keeps to it, at any pace, from anywhere on it', () => {
    fc.assert(fc.property(fc.double({ min: 0, max: 1.4, noNaN: true }), fc.double({ min: 0.002, max: 0.05, noNaN: true }), fc.double({ min: 0, max: 0.1, noNaN: true }), (from, pace, off) => {
      const ways = Array.from({ length: Math.ceil((2 - from) / pace) + 1 }, (_, i) => Math.min(2, from + i * pace))
      const worlds = timed(ways.map((w, i) => { const { x, y } = along(w); return { x: x + (w >= 1 ? off * Math.sin(i) : 0), y: y + (w < 1 ? off * Math.sin(i) : 0) } }))
      const { status } = course('follow', { line: 'rope', within: '12 cm' }, worlds)
      expect(status.at(-1)).toBe('met')
      expect(status).not.toContain('failed')
    }), { numRuns: 60 })
  })
  test('fails where it strays, and says after how much', () => {
    const worlds = timed([0, 0.1, 0.2, 0.3].map(x => ({ x })).concat([{ x: 0.4, y: 1.2 } as { x: number }]))
    expect(course('follow', { line: 'rope', within: '12 cm' }, worlds)).toMatchObject({ status: ['open', 'open', 'open', 'open', 'failed'], progress: 'strayed after 30 cm' })
  })
  test('a short cut over the corner to the end is not following', () => {
    const worlds = timed([{ x: 0 }, { x: 0.1 }, { x: 0.2 }, { x: 1, y: 1.9 }, { x: 1, y: 2 }])
    expect(course('follow', { line: 'rope', within: '12 cm' }, worlds).status.at(-1)).toBe('failed')
  })
})
