import { beforeAll, describe, expect, test } from 'vitest'
import { checkProgram, compileProgram } from '../../../core/language'
import { loadPhysics } from '../../../core/physics'
import { factsOf } from '../../../core/robot'
import { Simulation, readProject } from '../../../core/simulation'
import { demo } from '../kit'

/** What moving parts do to things, and things to them: known answers of statics and of plane geometry. */

beforeAll(loadPhysics)

type Doc = Record<string, any>
const DEG = 180 / Math.PI

/** A post of 12 by 12 cm at (1, 1) facing east, with these devices; the run is over. */
const ran = (devices: readonly object[], program: string, arena: object, limit = 4): Simulation => run('heron', devices, program, arena, limit)

/** A robot of the demo with other devices. */
function run(body: string, devices: readonly object[], program: string, arena: object, limit: number): Simulation {
  const robot = { ...structuredClone(demo(`robots/${body}.json`)) as Doc, devices, gestures: [] }
  const read = readProject({ robot, arena: { mindpath: 'arena', version: 1, name: 'bare', size: ['4 m', '3 m'], start: { at: ['1 m', '1 m'], heading: '0 deg' }, ...arena }, task: null })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  const checked = checkProgram(program, factsOf(read.value.robot))
  if (!checked.runs) throw new Error(checked.diagnostics.map(d => d.message).join('\n'))
  const s = new Simulation({ ...read.value, program: compileProgram(checked.analysis), realism: 'ideal', seed: 1, limit })
  s.runToEnd()
  return s
}

const value = (s: Simulation, device: string, reading: string): number => {
  const d = s.facts.devices.find(x => x.name === device)!
  return s.tape.row[s.tape.layout.readings + d.first + d.readings.findIndex(r => r.name === reading)]!
}
const it = (s: Simulation) => s.world.pieces.find(p => p.name === 'it')!.solid
const blocked = (s: Simulation): boolean => s.tape.events.some(e => e.type === 'blocked')
/** A box of 5 by 5 by 10 cm. */
const box = (x: number, y: number, rest: object = {}) => ({ name: 'it', kind: 'box', shape: 'box', at: [`${x} m`, `${y} m`], length: '5 cm', width: '5 cm', height: '10 cm', mass: '60 g', friction: 0.5, color: 'blue', ...rest })
const wall = (y: number) => ({ from: ['0.5 m', `${y} m`], to: ['1.5 m', `${y} m`], height: '20 cm', thickness: '2 cm' })

describe('a blade of 20 cm', () => {
  const blade = (speed: number) => ({ name: 'swing', kind: 'joint', port: 'A', mount: { up: '9 cm' }, settings: { axis: 'upright', from: '-180 deg', to: '180 deg', start: '0 deg', speed: `${speed} deg/s`, length: '20 cm', width: '2 cm', height: '4 cm', mass: '50 g' } })
  const SWEEP = 'start\n  move swing to 90 deg\n  finish'
  const bottle = (mass: string) => ({ name: 'it', kind: 'bottle', shape: 'cylinder', at: ['1.1 m', '0.85 m'], diameter: '4 cm', height: '15 cm', mass, friction: 0.5, color: 'blue' })

  // Each of these stood where it was, and the blade on its far side.
  test.each([[60, '6 g'], [120, '80 g'], [240, '60 g'], [1000, '60 g'], [2000, '6 g']] as const)('at %i deg/s takes a bottle of %s along', (speed, mass) => {
    const s = ran([blade(speed)], SWEEP, { pieces: [bottle(mass)] })
    expect(value(s, 'swing', 'angle') * DEG).toBeCloseTo(90, -0.5)
    // The blade has swept the quarter before the post: nothing of the bottle is left in it.
    expect(it(s).px).toBeLessThan(1.03)
  })
  test('stalls at what is heavier than its torque pushes, and the tape says so', () => {
    // Friction of 5 kg is 24 N, and it would topple at 11; 0.8 N m push with 4.4 N at 18 cm.
    const s = ran([blade(240)], SWEEP, { pieces: [bottle('5 kg')] })
    expect(blocked(s)).toBe(true)
    expect(Math.hypot(it(s).px - 1.1, it(s).py - 0.85)).toBeLessThan(0.025)
  })
  test('stops at a wall where plane geometry says', () => {
    const s = ran([blade(240)], SWEEP, { walls: [wall(0.85)] })
    // Its right front corner meets the wall's face: 0.2 sin a + 0.01 cos a = 0.14.
    expect(value(s, 'swing', 'angle') * DEG).toBeCloseTo(41.5, 0)
    expect(blocked(s)).toBe(true)
    expect(s.tape.events.filter(e => e.type === 'contact').map(e => e.about)).toEqual(['wall'])
  })
  test.each(['6 g', '60 g', '1 kg'])('does not go through a box of %s that stands against a wall', (mass) => {
    const s = ran([blade(240)], SWEEP, { pieces: [box(1.1, 0.834, { mass })], walls: [wall(0.798)] })
    expect(value(s, 'swing', 'angle') * DEG).toBeLessThan(75)
    expect(it(s).py).toBeGreaterThan(0.82)
    expect(s.tape.events.some(e => e.type === 'finish') && !blocked(s)).toBe(false)
  })
})

describe('a link', () => {
  test('stops at the floor', () => {
    const arm = { name: 'lift', kind: 'joint', port: 'A', mount: { forward: '6 cm', up: '10 cm' }, settings: { axis: 'across', from: '-90 deg', to: '90 deg', length: '20 cm', height: '2 cm' } }
    const s = ran([arm], 'start\n  move lift to -60 deg\n  finish', {})
    // Its lower edge is at the floor: 0.2 sin a + 0.01 cos a = 0.1, to a millimetre and a half.
    expect(value(s, 'lift', 'angle') * DEG).toBeCloseTo(-27.1, 0)
    expect(blocked(s)).toBe(true)
  })

  const fork = (force: string) => ({ name: 'lift', kind: 'slide', port: 'A', mount: { forward: '6 cm', up: '1 cm' }, settings: { from: '0 cm', to: '12 cm', length: '20 cm', width: '10 cm', height: '1 cm', force } })
  const load = (mass: string) => ({ pieces: [box(1.15, 1, { up: '1.5 cm', mass, length: '10 cm', width: '10 cm', friction: 0.6 })] })
  test('lifts what lies on it, level and in its place', () => {
    const s = ran([fork('12 N')], 'start\n  move lift to 10 cm\n  wait 0.5 s\n  finish', load('300 g'))
    expect(it(s).pz).toBeCloseTo(0.165, 3)
    expect(it(s).px).toBeCloseTo(1.15, 2)
    expect(it(s).matrix[8]).toBeGreaterThan(0.9999)
  })
  test.each([['60 N', true], ['12 N', false]])('of %s lifts 3 kg: %s', (force, lifts) => {
    const s = ran([fork(force)], 'start\n  move lift to 10 cm\n  wait 0.5 s\n  finish', load('3 kg'))
    expect(it(s).pz > 0.16).toBe(lifts)
    expect(blocked(s)).toBe(!lifts)
  })
  test('weaker than its grip lets down what it holds as far as the floor', () => {
    const claw = { name: 'claw', kind: 'claw', port: 'B', mount: { on: 'lift', forward: '20 cm' }, settings: { opening: '7 cm', depth: '6 cm', height: '2 cm', force: '6 N' } }
    const s = ran([{ ...fork('5 N'), mount: { forward: '6 cm', up: '4 cm' } }, claw], 'start\n  move lift to 2 cm\n  close claw\n  move lift to 6 cm\n  move lift to 0 cm at most 3 s\n  finish', { pieces: [box(1.29, 1, { length: '4 cm', width: '4 cm' })] }, 12)
    expect(value(s, 'claw', 'holding')).toBe(1)
    // Gripped 2 cm above the lowest place of the slide, it stands on the floor at 2 cm again.
    expect(value(s, 'lift', 'position')).toBeCloseTo(0.02, 2)
    expect(it(s).pz).toBeCloseTo(0.05, 2)
  })
})

describe('jaws', () => {
  const claw = (opening: number) => [{ name: 'claw', kind: 'claw', port: 'A', mount: { forward: '6 cm', up: '5 cm' }, settings: { opening: `${opening} cm`, depth: '8 cm', height: '2 cm', force: '6 N' } }]
  const CLOSE = 'start\n  close claw at most 3 s\n  wait 0.5 s\n  finish'
  test.each([0, 10, 20, 30])('close on a box of 4 cm that stands %i deg askew, and never into it', (turn) => {
    const s = ran(claw(8), CLOSE, { pieces: [box(1.1, 1.005, { turn: `${turn} deg`, length: '4 cm', width: '4 cm' })] })
    const yaw = Math.atan2(it(s).matrix[3]!, it(s).matrix[0]!)
    // As wide as the box is where it stands now, to the millimetre that each jaw presses in.
    expect(value(s, 'claw', 'gap')).toBeGreaterThan(0.04 * (Math.cos(yaw) + Math.abs(Math.sin(yaw))) - 0.002)
    expect(value(s, 'claw', 'holding')).toBe(1)
    expect(Math.hypot(it(s).px - 1.1, it(s).py - 1)).toBeLessThan(0.02)
  })
  test('stop at the corners of one that stands 45 deg askew, and hold nothing', () => {
    const s = ran(claw(8), CLOSE, { pieces: [box(1.1, 1.005, { turn: '45 deg', length: '4 cm', width: '4 cm' })] })
    expect(value(s, 'claw', 'gap')).toBeCloseTo(0.0566, 2)
    expect(value(s, 'claw', 'holding')).toBe(0)
  })
  test.each([[6.9, 1], [7.2, 0], [8, 0]])('of 7 cm and a thing of %f cm: holding is %i, and they stay open', (width, holding) => {
    const s = ran(claw(7), CLOSE, { pieces: [box(1.1, 1, { length: '4 cm', width: `${width} cm` })] })
    expect(value(s, 'claw', 'holding')).toBe(holding)
    expect(value(s, 'claw', 'gap')).toBeGreaterThan(0.068)
  })
})

describe('parts without a motor', () => {
  const drive = (devices: readonly object[], pieces: readonly object[]): Simulation => run('limpet', devices, 'start\n  drive 40 cm at 10 cm/s\n  finish', { pieces }, 8)
  const ball = (y: number, rest: object = {}) => ({ name: 'it', kind: 'tin', shape: 'cylinder', at: ['1.25 m', `${y} m`], diameter: '4 cm', height: '6 cm', mass: '40 g', friction: 0.3, color: 'orange', ...rest })
  // 40 cm on, a slanted plate of 16 cm has swept what stood before it to its trailing side.
  test.each([[30, 1], [-30, -1]])('a plough that faces %i deg clears to its trailing side', (facing, side) => {
    const plough = { name: 'plough', kind: 'plate', mount: { forward: '12 cm', up: '4 cm', facing: `${facing} deg` }, settings: { width: '16 cm', height: '4 cm', friction: 0.05 } }
    const s = drive([plough], [ball(1)])
    expect(Math.sign(1 - it(s).py)).toBe(side)
    expect(Math.abs(it(s).py - 1)).toBeGreaterThan(0.06)
  })
  test('a pen keeps before it what it is driven over, also round a bend', () => {
    const pen = { name: 'pen', kind: 'bin', mount: { forward: '14 cm', up: '3 cm' }, settings: { length: '10 cm', width: '12 cm', height: '4 cm', open: 'front' } }
    const s = run('limpet', [pen], 'start\n  drive 20 cm at 10 cm/s\n  turn right 90 deg at 30 deg/s\n  drive 30 cm at 10 cm/s\n  finish', { pieces: [ball(1)] }, 14)
    const { x, y } = s.pose()
    expect(Math.hypot(it(s).px - x, it(s).py - y)).toBeLessThan(0.21)
    expect(it(s).py).toBeLessThan(0.75)
  })
  test('a tray carries what lies in it', () => {
    const tray = { name: 'tray', kind: 'bin', mount: { up: '12 cm' }, settings: { length: '10 cm', width: '10 cm', height: '5 cm' } }
    const s = drive([tray], [ball(1, { at: ['1 m', '1 m'], up: '9.8 cm' })])
    expect(it(s).px - s.pose().x).toBeCloseTo(0, 1)
    expect(it(s).pz).toBeGreaterThan(0.11)
  })
  test('what has no wire takes no port, and a bin must have room', () => {
    const doc = { ...structuredClone(demo('robots/limpet.json')) as Doc, devices: [{ name: 'tray', kind: 'bin', port: 'P1', mount: {}, settings: { wall: '5 cm' } }] }
    const read = readProject({ robot: doc, arena: demo('arenas/fender-quay.json') as object, task: null })
    expect(read.ok ? [] : read.problems.map(p => [p.path, p.message])).toEqual([
      ['devices[0].port', 'a bin has no wire: it takes no port'],
      ['devices[0].settings.wall', 'the boards would fill it; allowed is less than half of its length and width, 0.05 m'],
    ])
  })
})

describe('a motor that carries', () => {
  const motor = (settings: object, up: string) => [{ name: 'roll', kind: 'motor', port: 'A', mount: { forward: '10 cm', up }, settings: { speed: '60 rpm', width: '8 cm', diameter: '4 cm', ...settings } }]
  const stick = (x: number, y: number) => ({ pieces: [{ name: 'it', kind: 'stick', shape: 'box', at: [`${x} m`, `${y} m`], length: '12 cm', width: '4 cm', height: '2 cm', mass: '30 g', friction: 0.3, color: 'orange' }] })
  // 60 rpm of 4 cm are 12.6 cm/s at the surface.
  test('a roller across draws in what lies under it, backwards it puts it out, and standing it leaves it', () => {
    const moved = (step: string): number => it(ran(motor({ carries: 'roller' }, '4.05 cm'), `start\n  ${step} for 0.5 s\n  finish`, stick(1.14, 1))).px - 1.14
    expect(moved('run roll 100 %')).toBeLessThan(-0.015)
    expect(moved('run roll -100 %')).toBeGreaterThan(0.03)
    expect(moved('run roll 0 %')).toBeCloseTo(0, 3)
  })
  test('it moves nothing faster than its surface goes, and nothing that its press cannot', () => {
    const moved = (press: string): number => it(ran(motor({ carries: 'roller', press }, '4.05 cm'), 'start\n  run roll -100 % for 0.4 s\n  finish', stick(1.14, 1))).px - 1.14
    expect(moved('20 N')).toBeLessThan(0.4 * 0.126)
    // 30 g on a floor of 0.3 (the mean of both) need some 0.1 N.
    expect(moved('0.02 N')).toBeCloseTo(0, 3)
  })
  test('an upright brush that turns right sweeps what is before it to the right, by its bristles alone', () => {
    // Clear of its core of 1 cm, within bristles of 2.
    const s = ran(motor({ carries: 'brush', axis: 'upright', diameter: '4 cm', width: '2 cm' }, '1.5 cm'), 'start\n  run roll 100 % for 0.5 s\n  finish', { pieces: [box(1.142, 1, { mass: '20 g', height: '4 cm' })] })
    expect(it(s).py - 1).toBeLessThan(-0.01)
  })
})
