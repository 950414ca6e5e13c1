import { beforeAll, describe, expect, it } from 'vitest'
import { readFileSync } from 'node:fs'
import { readArena } from '../../../core/arena'
import { loadPhysics } from '../../../core/physics'
import { readRobot } from '../../../core/robot'
import { Simulation } from '../../../core/simulation'

/** How far the third of a stack may sink, as solids lie a little in one another, metres. */
const SUNK = 0.004

describe('what is stacked', () => {
  beforeAll(loadPhysics)

  // Upright cylinders on a common axis are a special case for the search of contacts: a third of them fell through one another.
  for (const [shape, what, fields] of [['cylinder', 'pots', { diameter: '8 cm', height: '8 cm' }], ['cylinder', 'flat discs', { diameter: '7 cm', height: '1.2 cm' }], ['cylinder', 'coins', { diameter: '4 cm', height: '5 mm' }], ['box', 'boxes', { length: '8 cm', width: '6 cm', height: '5 cm' }]] as const) {
    it(`stays on one another, as ${what} do, wherever the seed puts them`, () => {
      const robot = readRobot(JSON.parse(readFileSync('demo/robots/limpet.json', 'utf8')))
      const arena = readArena({
        mindpath: 'arena', version: 1, name: 'yard', size: ['4 m', '4 m'], start: { at: ['30 cm', '30 cm'] },
        scatter: [{ kind: 'thing', shape, ...fields, mass: '70 g', stack: 3, count: 6, area: { at: ['2 m', '2 m'], size: ['3 m', '3 m'] }, apart: '30 cm', clear: '40 cm' }],
      })
      if (!robot.ok || !arena.ok) throw new Error(JSON.stringify([robot, arena]))
      for (let seed = 1; seed <= 8; seed++) {
        const run = new Simulation({ program: null, robot: robot.value, arena: arena.value, task: null, realism: 'ideal', seed, limit: 2, keeping: 'fingerprint' })
        const before = run.world.pieces.map(p => p.solid.pz)
        for (let i = 0; i < 60; i++) run.advance()
        const sunk = run.world.pieces.map((p, i) => before[i]! - p.solid.pz)
        run.free()
        expect(Math.max(...sunk), `seed ${seed}`).toBeLessThan(SUNK)
      }
    })
  }
})
