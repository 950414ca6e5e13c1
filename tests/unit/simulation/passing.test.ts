import { beforeAll, describe, expect, test } from 'vitest'
import { checkProgram, compileProgram } from '../../../core/language'
import { gap, loadPhysics } from '../../../core/physics'
import { RandomStream } from '../../../core/random'
import { factsOf } from '../../../core/robot'
import { Simulation, readProject } from '../../../core/simulation'
import { demo } from '../kit'

/** Nothing passes through anything, whatever the speed, the weight and the shape: random blades, random things. */

beforeAll(loadPhysics)

interface Trial { readonly speed: number, readonly mass: number, readonly shape: object, readonly angle: number, readonly radius: number, readonly turn: number, readonly friction: number, readonly wall: boolean }

function trialOf(seed: number): Trial {
  const r = RandomStream.named(seed, 'passing')
  const between = (low: number, high: number): number => low + (high - low) * r.unit()
  const round = r.unit() < 0.5
  return {
    speed: Math.exp(between(Math.log(20), Math.log(2000))), mass: Math.exp(between(Math.log(0.005), Math.log(3))),
    shape: round ? { shape: 'cylinder', diameter: `${between(2, 8)} cm`, height: `${between(4, 16)} cm` } : { shape: 'box', length: `${between(2, 8)} cm`, width: `${between(2, 8)} cm`, height: `${between(4, 16)} cm` },
    angle: between(40, 70), radius: between(0.12, 0.19), turn: between(0, 90), friction: between(0.1, 0.9), wall: r.unit() < 0.3,
  }
}

/** How deep the blade and the thing were in one another at most (metres), the fastest that the thing went, and whether the blade came past it within its reach. */
function run(t: Trial): { readonly deepest: number, readonly fastest: number, readonly passed: boolean } {
  const a = t.angle * Math.PI / 180
  const [x, y] = [1 + t.radius * Math.cos(a), 1 - t.radius * Math.sin(a)]
  const robot = { ...demo('robots/heron.json') as object, devices: [{ name: 'swing', kind: 'joint', port: 'A', mount: { up: '6.6 cm' }, settings: { axis: 'upright', from: '-180 deg', to: '180 deg', start: '0 deg', speed: `${t.speed} deg/s`, length: '20 cm', width: '2 cm', height: '12 cm', mass: '50 g' } }] }
  const read = readProject({
    robot, task: null,
    arena: {
      mindpath: 'arena', version: 1, name: 'bare', size: ['4 m', '3 m'], start: { at: ['1 m', '1 m'], heading: '0 deg' },
      pieces: [{ name: 'it', kind: 'thing', at: [`${x} m`, `${y} m`], turn: `${t.turn} deg`, mass: `${t.mass} kg`, friction: t.friction, ...t.shape }],
      // Behind it, so that it is pinned.
      walls: t.wall ? [{ from: [`${x - 0.3} m`, `${y - 0.07} m`], to: [`${x + 0.3} m`, `${y - 0.07} m`], thickness: '2 cm', height: '20 cm' }] : [],
    },
  })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  const checked = checkProgram('start\n  move swing to 120 deg at most 2 s\n  finish', factsOf(read.value.robot))
  if (!checked.runs) throw new Error(checked.diagnostics.map(d => d.message).join('\n'))
  const s = new Simulation({ ...read.value, program: compileProgram(checked.analysis), realism: 'ideal', seed: 1, limit: 3 })
  const blade = s.world.parts.find(p => p.device === 'swing')!.solid!
  const { solid } = s.world.pieces[0]!
  let [deepest, fastest] = [0, 0]
  let passed = false
  let before = { x: solid.px, y: solid.py, z: solid.pz }
  while (s.end === null) {
    s.advance()
    const met = gap(blade.shape, { position: { x: blade.px, y: blade.py, z: blade.pz }, rotation: blade.rotation }, solid.shape, { position: { x: solid.px, y: solid.py, z: solid.pz }, rotation: solid.rotation }, 0.01)
    deepest = Math.max(deepest, -(met?.distance ?? 0))
    fastest = Math.max(fastest, Math.hypot(solid.px - before.x, solid.py - before.y, solid.pz - before.z) / s.facts.tick)
    const far = Math.hypot(solid.px - 1, solid.py - 1)
    const ahead = Math.atan2(-(solid.py - 1), solid.px - 1) - Math.atan2(-(blade.py - 1), blade.px - 1)
    if (far < 0.16 && far > 0.09 && ahead < -0.6 && ahead > -2) passed = true
    before = { x: solid.px, y: solid.py, z: solid.pz }
  }
  s.free()
  return { deepest, fastest, passed }
}

describe('a blade and a thing in its way', () => {
  test.each(Array.from({ length: 12 }, (_, i) => i))('are never deep in one another, and nothing is shot away (%i)', (block) => {
    for (let i = 0; i < 10; i++) {
      const seed = block * 10 + i
      const trial = trialOf(seed)
      const { deepest, fastest, passed } = run(trial)
      // Never deeper than a step's way at the tip, for a step or two: that something is pinned is known from the second step on.
      const tip = 0.2 * trial.speed * Math.PI / 180
      expect([seed, deepest < 0.004 + 0.0105 * tip]).toEqual([seed, true])
      // No faster than the tip may run (1.5 times its figure) and what a fall adds.
      expect([seed, fastest < 1.6 * tip + 1.2]).toEqual([seed, true])
      expect([seed, passed]).toEqual([seed, false])
    }
  })
})
