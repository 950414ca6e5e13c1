import { beforeAll, describe, expect, test } from 'vitest'
import { checkProgram, compileProgram } from '../../../core/language'
import type { ProgramData } from '../../../core/program'
import { loadPhysics } from '../../../core/physics'
import { RandomStream } from '../../../core/random'
import { factsOf } from '../../../core/robot'
import { Simulation, readProject, readSnapshot, writeSnapshot, type ProjectParts, type SimulationSnapshot } from '../../../core/simulation'
import { randomProgram } from '../../../prove/programs'
import { demo } from '../kit'

/** Random programs on the demo robots at rough, in arenas with loose things: what holds for every run. */

beforeAll(loadPhysics)

const ROBOTS = ['limpet', 'cuttle', 'winkle', 'heron']

function parts(robot: string, seed: number): ProjectParts {
  const r = RandomStream.named(seed, 'arena')
  const at = (): string[] => [`${0.4 + 3.2 * r.unit()} m`, `${0.4 + 2.2 * r.unit()} m`]
  const read = readProject({
    robot: demo(`robots/${robot}.json`), task: null,
    arena: {
      mindpath: 'arena', version: 1, name: 'yard', size: ['4 m', '3 m'], surround: r.unit() < 0.5 ? 'water' : 'ground', start: { at: ['2 m', '1.5 m'], heading: '0 deg' },
      walls: [{ from: at(), to: at() }, { from: ['0 m', '0 m'], to: ['1 m', '40 cm'], area: { at: ['2 m', '1.5 m'], size: ['3 m', '2 m'] }, 'any turn': true }],
      scatter: [{ kind: 'float', shape: 'cylinder', diameter: '5 cm', height: '7 cm', mass: '60 g', color: 'orange', steel: true, count: 6, area: { at: ['2 m', '1.5 m'], size: ['3 m', '2 m'] }, apart: '1 cm', clear: '25 cm' }],
      visitors: [{ name: 'ann', path: [at(), at()], speed: `${0.1 + r.unit()} m/s` }],
      patches: [{ shape: 'box', at: at(), size: ['60 cm', '60 cm'], color: 'yellow' }],
      lamps: [{ name: 'beam', area: { at: ['2 m', '1.5 m'], size: ['3 m', '2 m'] } }],
    },
  })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.value
}

/** The next random program from a seed that checks. */
function programFor(p: ProjectParts, seed: number): ProgramData {
  const facts = factsOf(p.robot)
  for (let i = 0; ; i++) {
    const checked = checkProgram(randomProgram(RandomStream.named(seed * 1000 + i, 'any'), facts), facts)
    if (checked.runs) return compileProgram(checked.analysis)
  }
}

const make = (p: ProjectParts, program: ProgramData, seed: number): Simulation => new Simulation({ ...p, program, realism: 'rough', seed, limit: 4 })
function carried(written: string, into: Simulation): SimulationSnapshot {
  const read = readSnapshot(written, into)
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.value
}
const advance = (s: Simulation, ticks: number): void => { for (let i = 0; i < ticks && s.end === null; i++) s.advance() }

describe.each(ROBOTS)('any program on %s', (robot) => {
  test.each([1, 2, 3, 4, 5, 6])('runs the same twice, writes no number that is none, keeps things where they can be, and goes on from any tick (%i)', (n) => {
    const seed = n + 10 * ROBOTS.indexOf(robot)
    const p = parts(robot, seed)
    const program = programFor(p, seed)
    const one = make(p, program, seed)
    one.runToEnd()
    const two = make(p, program, seed)
    two.runToEnd()
    expect(two.tape.digest()).toBe(one.tape.digest())

    const { layout } = one.tape
    for (let t = 0; t < one.tape.rows; t++) {
      const row = one.tape.at(t)
      const none = row.findIndex(v => Number.isNaN(v))
      if (none !== -1) throw new Error(`column ${none} of tick ${t} is no number`)
      // Unit quaternions, nobody under the bed of the harbour or up in the air.
      for (const at of [layout.body, ...layout.pieceNames.map((_, i) => layout.pieces + 7 * i)]) {
        const turn = Math.hypot(row[at + 3]!, row[at + 4]!, row[at + 5]!, row[at + 6]!)
        if (Math.abs(turn - 1) > 1e-3 || row[at + 2]! < -1.5 || row[at + 2]! > 2) throw new Error(`tick ${t}: something is at ${[...row.slice(at, at + 7)].join(' ')}`)
      }
    }

    const at = Math.floor(RandomStream.named(seed, 'at').unit() * one.tape.rows)
    const third = make(p, program, seed)
    advance(third, at)
    const written = writeSnapshot(third)
    advance(third, 40)
    third.restore(carried(written, third))
    third.runToEnd()
    expect([at, third.tape.digest()]).toEqual([at, one.tape.digest()])
    const fresh = make(p, program, seed)
    fresh.restore(carried(written, fresh))
    fresh.runToEnd()
    expect([at, fresh.tape.digest()]).toEqual([at, one.tape.digest()])
    for (const s of [one, two, third, fresh]) s.free()
  })
})
