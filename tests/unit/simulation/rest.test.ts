import { beforeAll, describe, expect, test } from 'vitest'
import { loadPhysics } from '../../../core/physics'
import { readArena } from '../../../core/arena'
import { readRobot } from '../../../core/robot'
import { checkProgram, compileProgram } from '../../../core/language'
import { factsOf } from '../../../core/robot'
import { Simulation } from '../../../core/simulation'
import { demo } from '../kit'

beforeAll(() => loadPhysics())

type Change = (robot: Record<string, never>) => void

/** A demo robot, changed, on an empty deck, or with pieces. */
function stand(robot: string, program: string | null, options: { change?: Change, arena?: object, realism?: 'ideal' | 'typical' | 'rough', limit?: number } = {}): Simulation {
  const document = structuredClone(demo(`robots/${robot}.json`)) as Record<string, never>
  options.change?.(document)
  const read = readRobot(document)
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  const arena = readArena({ mindpath: 'arena', version: 1, name: 'deck', size: ['4 m', '4 m'], start: { at: ['1 m', '2 m'] }, ...options.arena })
  if (!arena.ok) throw new Error(JSON.stringify(arena.problems))
  const checked = program === null ? null : checkProgram(program, factsOf(read.value))
  if (checked !== null && !checked.runs) throw new Error(checked.diagnostics.map(d => d.message).join('\n'))
  const simulation = new Simulation({
    program: checked === null ? null : compileProgram(checked.analysis), robot: read.value, arena: arena.value, task: null,
    realism: options.realism ?? 'ideal', seed: 1, limit: options.limit ?? 20,
  })
  return simulation
}

const pose = (s: Simulation) => {
  const { layout, rows } = s.tape
  const [x, y, z, qx, qy, qz, qw] = s.tape.at(rows - 1).subarray(layout.body, layout.body + 7)
  // Third column of the rotation matrix: how upright it stands.
  return { x: x!, y: y!, z: z!, lean: Math.acos(Math.min(1, 1 - 2 * (qx! * qx! + qy! * qy!))) * 180 / Math.PI, qz: qz!, qw: qw! }
}

/** A tall light rover with two arms before its wheels: what crept 2.9 cm in 20 s. */
const twoArms: Change = (r) => {
  const robot = r as unknown as { chassis: Record<string, string>, drive: Record<string, unknown>, devices: object[] }
  robot.chassis = { length: '12 cm', width: '12 cm', height: '16 cm', clearance: '1.5 cm', mass: '0.9 kg' }
  robot.drive['forward'] = '2 cm'
  robot.drive['castors'] = [{ forward: '-5 cm' }]
  const ports = (r as unknown as { controller: { ports: Record<string, unknown> } }).controller.ports
  ports['M8'] = 'motor'
  ports['M9'] = 'motor'
  robot.devices.push(
    { name: 'arm_a', kind: 'joint', port: 'M8', mount: { forward: '6 cm', up: '14 cm', right: '3 cm' }, settings: { length: '12 cm', mass: '80 g' } },
    { name: 'arm_b', kind: 'joint', port: 'M9', mount: { forward: '6 cm', up: '10 cm', right: '-3 cm' }, settings: { length: '14 cm', mass: '60 g' } },
  )
}

describe('a robot at rest', () => {
  test.each(['limpet', 'cuttle', 'winkle'])('%s is still, and stands level at ideal', (robot) => {
    const s = stand(robot, 'start\n  wait until robot.still\n  note "still"\n  finish')
    s.runToEnd()
    expect(s.tape.events.map(e => e.text)).toContain('still')
    expect(s.time).toBeLessThan(1)
    const rest = stand(robot, null, { limit: 3 })
    rest.runToEnd()
    expect(pose(rest).lean).toBeLessThan(0.02)
  })
  test('a robot that drove is still again soon after it halts', () => {
    const s = stand('limpet', 'start\n  drive 30 cm\n  reset wheels.travel\n  wait until robot.still at most 9 s\n  note "{run.time}"\n  finish', { realism: 'typical' })
    s.runToEnd()
    expect(s.time).toBeLessThan(5)
  })
  test.each(['ideal', 'typical', 'rough'] as const)('with two arms it does not creep in a minute after it halted, at %s', (realism) => {
    const s = stand('cuttle', 'start\n  drive 10 cm\n  halt\n  wait 90 s', { change: twoArms, realism, limit: 64 })
    while (s.time < 4) s.advance()
    const before = pose(s)
    while (s.end === null) s.advance()
    const after = pose(s)
    expect(Math.hypot(after.x - before.x, after.y - before.y)).toBeLessThan(0.0005)
    expect(Math.abs(after.qz - before.qz)).toBeLessThan(0.0005)
  })
  test('a resting piece does not wander', () => {
    const s = stand('limpet', null, { arena: { pieces: [{ name: 'pot', kind: 'pot', shape: 'cylinder', at: ['2 m', '2 m'], diameter: '8 cm', height: '10 cm' }] }, limit: 30 })
    s.runToEnd()
    for (const piece of s.world.pieces) expect(Math.hypot(piece.solid.px - 2, piece.solid.py - 2)).toBeLessThan(0.0005)
  })
})

describe('a touch', () => {
  const crate = (forward: number, turn: number) => ({ name: 'box', kind: 'crate', shape: 'box', at: [`${1 + forward} m`, '2 m'], length: '20 cm', width: '20 cm', height: '20 cm', turn: `${turn} deg`, fixed: true })
  const contacts = (forward: number, turn: number): number => {
    const s = stand('limpet', null, { change: (r) => { (r as unknown as { devices: { kind: string }[] }).devices = (r as unknown as { devices: { kind: string }[] }).devices.filter(d => d.kind !== 'bumper') as never }, arena: { pieces: [crate(forward, turn)] }, limit: 1 })
    s.runToEnd()
    return s.contacts
  }
  // The rover reaches 8.5 cm ahead of its middle; a box turned by 20 deg comes as near as 10 (cos 20 + sin 20) cm.
  const reach = 0.085
  const corner = 0.1 * (Math.cos(Math.PI / 9) + Math.sin(Math.PI / 9))
  test('is none at a gap of 1.9 cm, whatever the angle, nor at 5 mm', () => {
    expect([contacts(reach + corner + 0.0197, 20), contacts(reach + corner + 0.005, 20), contacts(reach + 0.1 + 0.009, 0), contacts(reach + 0.1 + 0.004, 0)]).toEqual([0, 0, 0, 0])
  })
  test('is one where the surfaces meet', () => {
    expect(contacts(reach + 0.1 - 0.001, 0)).toBe(1)
  })
})
