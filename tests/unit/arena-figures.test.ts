import { readdirSync } from 'node:fs'
import { beforeAll, describe, expect, test } from 'vitest'
import { ITEMS, figuresOf, groundOf, layOut, pieceFigure, readArena, type Arena, type Figures, type SolidFigure } from '../../core/arena'
import { REFLECTS } from '../../core/colors'
import type { Solid } from '../../core/geometry'
import { loadPhysics } from '../../core/physics'
import { buildWorld } from '../../core/simulation/build'
import { demoParts } from './kit'

beforeAll(loadPhysics)

const ARENAS = readdirSync(new URL('../../demo/arenas', import.meta.url)).map(file => file.replace('.json', ''))

const BARE = { mindpath: 'arena', version: 1, name: 'bare', size: ['4 m', '3 m'], start: { at: ['20 cm', '20 cm'] } }
function arena(parts: object): Arena {
  const read = readArena({ ...BARE, ...parts })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.value
}
const count = (figures: Figures): number => Object.values(figures).reduce((sum, those: readonly unknown[]) => sum + those.length, 0)

describe('what stands in an arena, as figures', () => {
  const shown = ITEMS.filter(item => item.list !== 'noises')
  test.each(shown.map(item => [item.one, item] as const))('a %s is there to be seen', (_, item) => {
    const bare = layOut(arena({}), 1)
    const { arena: made, pieces } = layOut(arena({ [item.list]: [item.fresh(2, 1.5, 'new'), item.fresh(3, 1, 'other')] }), 1)
    const grown = count(figuresOf(made)) + pieces.length - count(figuresOf(bare.arena)) - bare.pieces.length
    expect(grown).toBeGreaterThanOrEqual(2)
  })

  test('a crate is a hollow bottom and four boards that close it', () => {
    const { fixed } = figuresOf(arena({ crates: [{ name: 'rack', at: ['1 m', '1 m'], size: ['40 cm', '20 cm'], turn: '90 deg', color: 'red' }] }))
    expect(fixed.map(f => [f.id, f.hollow])).toEqual([['rack#0', true], ['rack#1', false], ['rack#2', false], ['rack#3', false], ['rack#4', false]])
    // Turned, it is long from south to north.
    const ends = fixed.slice(1, 3).map(f => f.at)
    expect(ends.map(([x]) => Math.round(x * 1000))).toEqual([1000, 1000])
    expect(Math.abs(ends[0]![1] - ends[1]![1])).toBeCloseTo(0.39)
    expect(new Set(fixed.map(f => f.tint))).toEqual(new Set(['paint-red']))
  })

  test('a wall shows its paint; a grey one looks like a wall', () => {
    const wall = { from: ['1 m', '1 m'], to: ['1 m', '2 m'] }
    expect(figuresOf(arena({ walls: [wall, { ...wall, color: 'red' }] })).fixed.map(f => f.tint)).toEqual(['wall', 'paint-red'])
  })

  test('the later paint covers the earlier, and lines lie on patches', () => {
    const ground = groundOf(arena({
      lines: [{ name: 'rope', points: [['50 cm', '1 m'], ['2 m', '1 m']], color: 'white' }],
      patches: [{ shape: 'disc', at: ['1 m', '1 m'], diameter: '40 cm', color: 'blue' }, { shape: 'box', at: ['110 cm', '1 m'], size: ['20 cm', '20 cm'], color: 'red' }],
    }))
    expect([[0.85, 1.05], [1.1, 1.05], [1, 1], [0.5, 0.5]].map(([x, y]) => ground.paintAt(x!, y!))).toEqual([REFLECTS.blue, REFLECTS.red, REFLECTS.white, REFLECTS.grey])
    expect(ground.paintAt(-0.1, 1)).toBeNull()
  })
})

describe('what is drawn is what is met', () => {
  const standsAs = (solid: Solid, figure: SolidFigure): void => {
    expect(solid.id).toBe(figure.id)
    expect([solid.px, solid.py, solid.pz]).toEqual([figure.at[0], figure.at[1], figure.middle])
    expect(solid.shape).toEqual(figure.shape)
    expect(solid.surface).toMatchObject({ friction: figure.friction, echo: figure.echo, paint: REFLECTS[figure.color] })
  }
  test.each(ARENAS)('in %s: bodies and sensors have the figures, each where it stands, and nothing else but the robot', (name) => {
    const parts = demoParts(name, null)
    for (const seed of [1, 2, 3]) {
      const layout = layOut(parts.arena, seed)
      const { physics, scene } = buildWorld(layout.arena, layout, parts.robot, 0.01)
      const { ground, fixed, walking } = figuresOf(layout.arena)
      scene.ground.forEach((solid, i) => { standsAs(solid, ground[i]!) })
      const figures = [...fixed, ...layout.pieces.filter(p => p.fed === null || p.fed <= 0).map(pieceFigure), ...walking]
      // What a feeder still keeps waits far below.
      const solids = scene.solids.filter(s => !s.id.startsWith('robot:') && s.pz > -5)
      expect(solids.length).toBe(figures.length)
      solids.forEach((solid, i) => { standsAs(solid, figures[i]!) })
      physics.free()
    }
  })
})
