import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { ITEMS, readArena, type Arena } from '../../../core/arena'
import { movableIn, movedDocument, readVariation, unmovable, variedArena } from '../../../core/simulation'
import { arenaWith } from '../../../core/trials'

/** An arena with two of every kind of thing, and walls that the seed places. */
const DOCUMENT = {
  mindpath: 'arena', version: 1, name: 'all', size: ['6 m', '6 m'], start: { at: ['20 cm', '20 cm'] },
  ...Object.fromEntries(ITEMS.map(item => [item.list, ['one', 'two'].map((name, i) => item.fresh(2 + i, 3, `${item.list}_${name}`)).map((thing, i) => item.list === 'lanes' ? { ...thing, exit: `out_${i}` } : thing)])),
  walls: [{ from: ['1 m', '1 m'], to: ['2 m', '1 m'] }, { from: ['1 m', '2 m'], to: ['1 m', '3 m'], area: { at: ['3 m', '3 m'], size: ['2 m', '1 m'] } }],
}

function arenaOf(document: unknown): Arena {
  const read = readArena(document)
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.value
}
const ARENA = arenaOf(DOCUMENT)

/** The arena with a thing elsewhere, as a run's world says it. */
function moved(name: string, by: { readonly east?: string, readonly north?: string, readonly turn?: string }): Arena {
  const read = readVariation({ moved: { [name]: by } }, ARENA)
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return variedArena(ARENA, read.value)
}
const near = (x: readonly number[]): readonly number[] => x.map(v => Number(v.toFixed(9)))

describe('what stands elsewhere', () => {
  test('may be anything that an arena has, by its name or by its place in the document', () => {
    const names = [...movableIn(ARENA).keys()]
    expect(names).toHaveLength(2 * ITEMS.length)
    expect(names).toEqual(expect.arrayContaining(['walls[0]', 'walls[1]', 'lines_one', 'scatter[1]', 'patches[0]', 'decks[1]', 'noises[0]', 'visitors_two', 'belts_one', 'crates_two', 'lanes_one']))
    expect(names.filter(name => unmovable(ARENA, name, true) !== null).map(name => name.replace(/(_|\[).*/, '')).filter((name, i, all) => all.indexOf(name) === i).sort()).toEqual(['areas', 'lamps', 'lanes', 'noises', 'scatter'])
    expect(unmovable(ARENA, 'walls[2]')).toMatch(/^the arena has nothing of this name that can be moved; it has lanes_one, .*, .* and \d+ more$/)
  })
  test('has moved by what was said, and nothing else has', () => {
    for (const [name] of movableIn(ARENA)) {
      const there = moved(name, { east: '30 cm', north: '-10 cm' })
      const differ = ITEMS.map(({ list }) => list).flatMap(list => (there[list as keyof Arena] as readonly object[]).flatMap((thing, i) => {
        const was = (ARENA[list as keyof Arena] as readonly object[])[i]!
        return JSON.stringify(thing) === JSON.stringify(was) ? [] : [[list, thing, was] as const]
      }))
      expect(differ, name).toHaveLength(1)
      const places = ([, thing]: readonly [string, object, object], which: 1 | 2): readonly number[] => JSON.stringify(which === 1 ? thing : differ[0]![2]).match(/\[-?[\d.e-]+,-?[\d.e-]+\]/g)!.flatMap(at => JSON.parse(at) as number[])
      const [now, then] = [places(differ[0]!, 1), places(differ[0]!, 2)]
      const ways = now.map((x, i) => Number((x - then[i]!).toFixed(9)))
      // Sizes stay; of a drawn wall also the ends, which say no more than how long it is, go along.
      expect(new Set(ways), name).toEqual(new Set(ways.includes(0) ? [0.3, -0.1, 0] : [0.3, -0.1]))
    }
  })
  test('turns about its middle', () => {
    const wall = moved('walls[0]', { turn: '90 deg' }).walls[0]!
    // Right positive: what went east goes south.
    expect(near([...wall.from, ...wall.to])).toEqual([1.5, 1.5, 1.5, 0.5])
    const line = moved('lines_one', { turn: '180 deg', east: '1 m' }).lines[0]!
    expect(near(line.points.flat())).toEqual(near(ARENA.lines[0]!.points.toReversed().flatMap(([x, y]) => [x + 1, y])))
    expect(moved('patches[0]', { turn: '30 deg' }).patches[0]!.turn).toBeCloseTo(Math.PI / 6, 12)
  })
  test('is the same by a world and by the document with the world in it, whatever is moved', () => {
    const way = fc.integer({ min: -500, max: 500 })
    fc.assert(fc.property(fc.array(fc.record({ name: fc.constantFrom(...movableIn(ARENA).keys()), east: way, north: way, turn: way }), { minLength: 1, maxLength: 5 }), (things) => {
      const shifts = Object.fromEntries(things.map(({ name, east, north, turn }) => [name, { east: east / 1000, north: north / 1000, turn: movableIn(ARENA).get(name)!.turns ? turn / 1000 : 0 }]))
      const world = variedArena(ARENA, { grip: 1, light: 1, noise: 1, motors: 0, wheels: 0, moved: shifts })
      const kept = arenaOf({ ...DOCUMENT, ...movedDocument(DOCUMENT, ARENA, shifts) })
      const [a, b] = [world, kept].map(arena => JSON.stringify(arena, (_, x: unknown) => typeof x === 'number' ? Number(x.toFixed(12)) + 0 : x))
      expect(a).toBe(b)
    }), { numRuns: 200 })
  })
  test('is kept as an arena of its own with the fields that it had', () => {
    const kept = arenaWith(DOCUMENT, ARENA, { 'walls[1].east': 0.25, 'scatter[0].north': -0.5, 'turn': 0 }, 1) as { walls: object[], scatter: { area: object }[], lines: object }
    expect(kept.walls[0]).toBe(DOCUMENT.walls[0])
    expect(kept.walls[1]).toMatchObject({ area: { at: ['3.25 m', '3 m'], size: ['2 m', '1 m'] } })
    expect(kept.scatter[0]).toMatchObject({ count: 5, area: { at: ['2 m', '2.5 m'], size: ['80 cm', '60 cm'] } })
  })
})
