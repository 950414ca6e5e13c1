import { describe, expect, test } from 'vitest'
import { distanceToSegment, groundOf, layOut, readArena } from '../../core/arena'
import { REFLECTS } from '../../core/colors'
import { visitorAt } from '../../core/simulation/movement'
import { arenaWith } from './devices/around'

/** What an arena document becomes: paint underfoot, places by seed, ways of visitors. */

describe('the floor', () => {
  const ground = groundOf(arenaWith({
    decks: [{ at: ['1 m', '1 m'], size: ['2 m', '2 m'] }], floor: { color: 'grey' },
    patches: [{ shape: 'box', at: ['1 m', '1 m'], size: ['60 cm', '20 cm'], turn: '30 deg', color: 'yellow' }, { shape: 'disc', at: ['1 m', '1 m'], diameter: '10 cm', color: 'red' }],
    lines: [{ name: 'rope', points: [['20 cm', '20 cm'], ['20 cm', '1.8 m']], width: '4 cm', color: 'black' }],
  }))
  test('later patches cover earlier ones, lines cover patches, decks end', () => {
    expect(ground.paintAt(1, 1)).toEqual(REFLECTS.red)
    expect(ground.paintAt(0.21, 1)).toEqual(REFLECTS.black)
    expect(ground.paintAt(1.5, 1.9)).toEqual(REFLECTS.grey)
    expect(ground.paintAt(2.1, 1)).toBeNull()
  })
  test('a turn to the right is clockwise from above', () => {
    // Its eastern end points 30 deg south of east.
    const at = (angle: number) => ground.paintAt(1 + 0.25 * Math.cos(angle), 1 + 0.25 * Math.sin(angle))
    expect(at(-Math.PI / 6)).toEqual(REFLECTS.yellow)
    expect(at(Math.PI / 6)).toEqual(REFLECTS.grey)
  })
  test('distance to a stretch, and how far along', () => {
    expect(distanceToSegment(1, 3, [0, 0], [4, 0])).toEqual({ distance: 3, along: 1 })
    expect(distanceToSegment(7, 4, [0, 0], [4, 0])).toEqual({ distance: 5, along: 4 })
  })
})

describe('laying out', () => {
  const pot = { kind: 'pot', shape: 'cylinder', diameter: '10 cm', height: '8 cm', mass: '300 g' }
  test('a stack is so many pieces on one another, each with a name', () => {
    const { pieces } = layOut(arenaWith({ pieces: [{ ...pot, at: ['2 m', '1 m'], stack: 3 }] }), 1)
    expect(pieces.map(p => p.name)).toEqual(['pot_1', 'pot_2', 'pot_3'])
    expect(pieces.map(p => p.up)).toEqual([0, 0.08, 0.16])
  })
  test('a robot faces any way where it is to, in an area and at a place, another with another seed', () => {
    for (const where of [{ at: ['1 m', '1 m'] }, { area: { at: ['1 m', '1 m'], size: ['20 cm', '20 cm'] } }]) {
      const starts = [1, 2, 1].map(seed => layOut(arenaWith({ start: { ...where, heading: 'any' } }), seed).start)
      expect(starts[0]!.heading).not.toBe(starts[1]!.heading)
      expect(starts[2]).toEqual(starts[0])
      if ('at' in where) expect(starts.every(s => s.x === 1 && s.y === 1)).toBe(true)
    }
  })
  test('what a feeder will bring waits for its time, on the end that the belt comes from', () => {
    const belt = { name: 'b', at: ['2 m', '1 m'], size: ['1 m', '10 cm'], turn: '90 deg', height: '5 cm', speed: '5 cm/s', feeder: { first: '2 s', every: '3 s', items: [{ ...pot, count: 2 }] } }
    const { pieces } = layOut(arenaWith({ belts: [belt] }), 1)
    expect(pieces.map(p => p.fed)).toEqual([2, 5])
    // Turned right by a quarter, the belt runs south: it begins in the north.
    expect(pieces[0]!.at[1]).toBeGreaterThan(1.4)
    expect(pieces[0]!.at[0]).toBeCloseTo(2, 9)
  })
  const scattered = {
    walls: [{ from: ['0 m', '0 m'], to: ['60 cm', '0 m'], area: { at: ['2 m', '1.5 m'], size: ['3 m', '2.4 m'] }, 'any turn': true }, { from: ['0 m', '0 m'], to: ['0 m', '50 cm'], area: { at: ['2 m', '1.5 m'], size: ['3 m', '2.4 m'] } }],
    crates: ['crib', 'skip'].map(name => ({ name, size: ['40 cm', '30 cm'], area: { at: ['2 m', '1.5 m'], size: ['3.4 m', '2.4 m'] }, 'any turn': true })),
    areas: ['bay', 'quay', 'slip'].map(name => ({ name, size: ['50 cm', '50 cm'], area: { at: ['2 m', '1.5 m'], size: ['3 m', '2 m'] } })),
    lamps: [{ name: 'beam', area: { at: ['2 m', '1.5 m'], size: ['3 m', '2 m'] } }],
    scatter: [{ ...pot, count: 6, area: { at: ['2 m', '1.5 m'], size: ['3.6 m', '2.6 m'] }, apart: '5 cm' }],
    start: { at: ['40 cm', '40 cm'] },
  }
  test.each(Array.from({ length: 40 }, (_, i) => i + 1))('walls, crates, areas and lamps stand in their areas, clear of one another, with seed %i', (seed) => {
    const { arena, pieces, noRoom } = layOut(arenaWith(scattered), seed)
    expect(noRoom).toEqual([])
    const [turned, upright] = arena.walls
    expect(Math.hypot(turned!.to[0] - turned!.from[0], turned!.to[1] - turned!.from[1])).toBeCloseTo(0.6, 9)
    expect(upright!.to[0]).toBeCloseTo(upright!.from[0], 9)
    // Points all along a wall, against the circles that hold the crates and the pieces.
    const onWalls = arena.walls.flatMap(w => Array.from({ length: 31 }, (_, k) => [w.from[0] + (w.to[0] - w.from[0]) * k / 30, w.from[1] + (w.to[1] - w.from[1]) * k / 30] as const))
    for (const [x, y] of onWalls) {
      expect(Math.hypot(x - 0.4, y - 0.4)).toBeGreaterThan(0.3)
      for (const c of arena.crates) expect(Math.hypot(x - c.at[0], y - c.at[1])).toBeGreaterThan(0.25 + 0.1)
      for (const p of pieces) expect(Math.hypot(x - p.at[0], y - p.at[1])).toBeGreaterThan(0.05 + 0.05)
    }
    expect(Math.hypot(arena.crates[0]!.at[0] - arena.crates[1]!.at[0], arena.crates[0]!.at[1] - arena.crates[1]!.at[1])).toBeGreaterThan(0.5 + 0.1)
    for (const area of arena.areas) expect(Math.abs(area.at[0] - 2) <= 1.5 && Math.abs(area.at[1] - 1.5) <= 1).toBe(true)
    expect(layOut(arenaWith(scattered), seed)).toEqual(layOut(arenaWith(scattered), seed))
  })
  test('another seed puts them elsewhere; what is written stays', () => {
    const at = (seed: number) => layOut(arenaWith(scattered), seed).arena
    expect(at(1).crates[0]!.at).not.toEqual(at(2).crates[0]!.at)
    expect(at(1).lamps[0]!.at).not.toEqual(at(2).lamps[0]!.at)
    const fixed = arenaWith({ crates: [{ name: 'crib', at: ['1 m', '1 m'], size: ['40 cm', '30 cm'] }], walls: [{ from: ['0 m', '0 m'], to: ['1 m', '0 m'] }] })
    expect(layOut(fixed, 1).arena).toEqual(fixed)
  })
  test('where there is no room, it says what has none', () => {
    const narrow = { at: ['1 m', '1 m'], size: ['10 cm', '10 cm'] }
    const { noRoom, leftOut } = layOut(arenaWith({ start: { at: ['1 m', '1 m'] }, crates: [{ name: 'crib', size: ['40 cm', '30 cm'], area: narrow }], scatter: [{ ...pot, count: 2, area: narrow }] }), 1)
    expect(noRoom).toEqual(['crates[0]'])
    expect(leftOut).toEqual(['pot', 'pot'])
  })
  test('a place and an area at once, or neither, are refused with their place', () => {
    const read = (crate: object) => { const r = readArena({ mindpath: 'arena', version: 1, name: 'a', size: ['4 m', '3 m'], start: { at: ['1 m', '1 m'] }, crates: [{ name: 'crib', size: ['40 cm', '30 cm'], ...crate }] }); return r.ok ? [] : r.problems.map(p => `${p.path}: ${p.value}`) }
    expect(read({})).toEqual(['crates[0].at: nothing'])
    expect(read({ at: ['1 m', '2 m'], area: { at: ['1 m', '1 m'], size: ['1 m', '1 m'] } })).toEqual(['crates[0].at: 1 m, 2 m'])
  })
})

describe('a visitor', () => {
  const visitor = arenaWith({ visitors: [{ name: 'v', path: [['0 m', '0 m'], ['1 m', '0 m'], ['1 m', '2 m']], speed: '50 cm/s', begins: '2 s' }] }).visitors[0]!
  test.each([[0, 0, 0], [3, 0.5, 0], [5, 1, 0.5], [8, 1, 2], [9, 1, 1.5], [14, 0, 0]])('at %f s is at (%f, %f)', (time, x, y) => {
    const at = visitorAt(visitor, time)
    expect([at.x, at.y].map(v => Math.round(v * 1e9) / 1e9)).toEqual([x, y])
  })
})

describe('arenas that cannot be', () => {
  const problems = (fields: object) => { const read = readArena({ mindpath: 'arena', version: 1, name: 't', size: ['2 m', '2 m'], start: { at: ['1 m', '1 m'] }, ...fields }); return read.ok ? [] : read.problems }
  test.each<[object, string, RegExp]>([
    [{ lines: [{ name: 'a', points: [['1 m', '1 m']] }] }, 'lines[0].points', /two points/],
    [{ crates: [{ name: 'a', at: ['1 m', '1 m'], size: ['1 m', '1 m'] }], areas: [{ name: 'a', at: ['1 m', '1 m'], size: ['1 m', '1 m'] }] }, 'crates[0].name', /has this name already/],
    [{ belts: [{ name: 'b', at: ['1 m', '1 m'], size: ['1 m', '1 m'], feeder: { items: [] } }] }, 'belts[0].feeder.items', /at least|1/],
    [{ belts: [{ name: 'b', at: ['1 m', '1 m'], size: ['1 m', '1 m'], feeder: { items: [{ kind: 'x', shape: 'cylinder', height: '2 cm' }] } }] }, 'belts[0].feeder.items[0].diameter', /needs its diameter/],
    [{ pieces: [{ kind: 'x', shape: 'box', length: '2 cm', width: '2 cm', height: '2 cm', at: ['1 m', '1 m'], tag: 16 }] }, 'pieces[0].tag', /15/],
    [{ light: { level: 0.5 } }, 'light.level', /quantity|unit/],
    [{ visitors: [{ name: 'v', path: [['1 m', '1 m'], ['2 m', '1 m']], speed: '9 m/s' }] }, 'visitors[0].speed', /allowed is/],
  ])('%j', (fields, path, says) => {
    const all = problems(fields)
    expect(all.map(p => p.path)).toContain(path)
    expect(all.find(p => p.path === path)!.message).toMatch(says)
  })
})
