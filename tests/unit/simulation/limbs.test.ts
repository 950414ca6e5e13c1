import { beforeAll, describe, expect, test } from 'vitest'
import { loadPhysics } from '../../../core/physics'
import type { Simulation } from '../../../core/simulation'
import { build, ran, reading, type Doc } from '../kit'

/** What acts, against known answers: angles, weights, forces, speeds. */

beforeAll(loadPhysics)

const piece = (s: Simulation, name: string) => s.world.pieces.find(p => p.name === name)!.solid
const float = (x: string, rest: object = {}) => ({ name: 'it', kind: 'float', shape: 'cylinder', at: [x, '1 m'], diameter: '5 cm', height: '7 cm', mass: '60 g', friction: 0.7, color: 'orange', ...rest })
/** Drives cuttle so that the piece at 1.153 m stands between its jaws, and closes them. */
const GRAB = 'start\n  open claw\n  move lift to -35 deg\n  close claw\n  move lift to 20 deg\n  wait 0.5 s\n'
const WITHIN = '1.153 m'

describe('a joint', () => {
  test('goes where it is told, as fast as it may, and settles there', () => {
    const s = build('heron', 'start\n  move base to 90 deg at 60 deg/s\n  finish')
    s.runToEnd()
    expect(reading(s, 'base.angle') * 180 / Math.PI).toBeCloseTo(90, -0.3)
    // 90 deg at 60 deg/s, and the time to settle.
    expect(s.time).toBeGreaterThan(1.5)
    expect(s.time).toBeLessThan(2.7)
  })
  test('with its default stiffness is there within a quarter of a second of its ramp, and does not creep on', () => {
    const soft = (r: Doc): void => { const base = r['devices'].find((d: Doc) => d['name'] === 'base'); delete base['settings']['stiffness']; base['settings']['speed'] = '90 deg/s' }
    const s = ran('heron', 'start\n  move base to 90 deg at 90 deg/s\n  finish', { change: soft })
    expect(s.time).toBeGreaterThan(1)
    expect(s.time).toBeLessThan(1.3)
  })
  test('with within, is over as soon as it is that near, and goes on to its place', () => {
    const took = (rest: string): number => ran('heron', `start\n  move base to 90 deg at 60 deg/s${rest}\n  note "there"\n  wait 2 s\n  finish`).tape.events.find(e => e.type === 'note')!.tick
    // 10 deg at 60 deg/s are a sixth of a second, eight ticks; and it does not wait to settle.
    expect(took('') - took(' within 10 deg')).toBeGreaterThan(6)
    const s = ran('heron', 'start\n  move base to 90 deg at 60 deg/s within 10 deg\n  wait 1 s\n  finish')
    expect(reading(s, 'base.angle') * 180 / Math.PI).toBeCloseTo(90, -0.3)
  })
  test('asked beyond its range goes to its end, and the tape says so', () => {
    const s = ran('heron', 'memory far = 400 deg\nstart\n  move base to far at most 6 s\n  finish', { limit: 8 })
    expect(s.tape.events.filter(e => e.type === 'clipped').map(e => [e.about, e.text])).toEqual([['base', 'beyond its range: it goes to the end']])
  })
  test('homed, knows its angle to a degree or two at rough', () => {
    const s = build('heron', 'start\n  home base\n  wait 3 s\n  finish', { realism: 'rough', limit: 14 })
    const all: number[] = []
    while (s.end === null) { s.advance(); if (s.time > 9) all.push(reading(s, 'base.angle') * 180 / Math.PI) }
    expect(Math.max(...all) - Math.min(...all)).toBeLessThan(5)
  })
  test('right is positive: the arm swings clockwise seen from above', () => {
    const s = ran('heron', 'start\n  move base to 90 deg\n  finish')
    const claw = s.world.parts.findIndex(p => p.device === 'claw')
    expect(s.world.parts[claw]!.solid!.py).toBeLessThan(0.9)
  })
  test('across raises: the claw is higher by the sine of the angle', () => {
    const heightAt = (angle: number) => {
      const s = ran('heron', `start\n  move lift to ${angle} deg\n  wait 0.5 s\n  finish`, { change: (r) => { r['devices'].find((d: Doc) => d['name'] === 'claw')['mount']['tilt'] = '0 deg' } })
      return s.world.parts.find(p => p.device === 'lift')!.solid!.pz
    }
    // The link's middle is 9.5 cm from its axis.
    expect(heightAt(30) - heightAt(-15)).toBeCloseTo(0.095 * (Math.sin(Math.PI / 6) + Math.sin(Math.PI / 12)), 2)
  })
  test('moves by an amount add up, and stop holds it where it is', () => {
    const s = ran('heron', 'start\n  repeat 3 times -> move base by -20 deg\n  finish')
    expect(reading(s, 'base.angle') * 180 / Math.PI).toBeCloseTo(-60, -0.3)
    const held = ran('heron', 'start\n  move base to 140 deg at 40 deg/s without waiting\n  wait 1 s\n  stop base\n  wait 1.5 s\n  finish')
    expect(reading(held, 'base.angle') * 180 / Math.PI).toBeGreaterThan(30)
    expect(reading(held, 'base.angle') * 180 / Math.PI).toBeLessThan(60)
  })
  test('a load beyond its torque is not lifted, and the tape says so', () => {
    // 2 kg at 19 cm: 3.7 N m, and the motor has 1.
    const s = ran('heron', 'start\n  move lift to 45 deg\n  finish', { change: (r) => {
      const lift = r['devices'].find((d: Doc) => d['name'] === 'lift')
      Object.assign(lift['settings'], { torque: '1 Nm', mass: '2 kg', start: '-50 deg', home: '-50 deg' })
    } })
    expect(reading(s, 'lift.angle') * 180 / Math.PI).toBeLessThan(0)
    expect(s.tape.events.some(e => e.type === 'blocked' && e.about === 'lift')).toBe(true)
  })
  test('before it was homed it may be wrong; homing finds the end stop and mends that', () => {
    const error = (program: string, seed: number) => {
      const s = ran('heron', program, { realism: 'rough', seed })
      const solid = s.world.parts.find(p => p.device === 'base')!.solid!
      return Math.abs(Math.atan2(-(solid.py - 1), solid.px - 1) * 180 / Math.PI - 40)
    }
    const seeds = [1, 2, 3, 4, 5, 6]
    const worst = (program: string) => Math.max(...seeds.map(s => error(program, s)))
    expect(worst('start\n  move base to 40 deg\n  finish')).toBeGreaterThan(4)
    expect(worst('start\n  home base\n  move base to 40 deg\n  finish')).toBeLessThan(3)
  })
  test('moving is true from the tick of the command', () => {
    const s = build('heron', 'start\n  move base to 50 deg without waiting\n  if base.moving -> note "moves"\n  wait until not base.moving\n  note "rests"\n  finish')
    s.runToEnd()
    const notes = s.tape.events.filter(e => e.type === 'note')
    expect(notes.map(n => n.text)).toEqual(['moves', 'rests'])
    expect(notes[1]!.tick).toBeGreaterThan(15)
  })
  test('a gesture plays its poses one after another', () => {
    const s = build('cuttle', 'start\n  perform wave\n  finish')
    let highest = -Infinity
    while (s.end === null) {
      s.advance()
      highest = Math.max(highest, reading(s, 'lift.angle'))
    }
    expect(highest * 180 / Math.PI).toBeGreaterThan(30)
    expect(reading(s, 'lift.angle') * 180 / Math.PI).toBeCloseTo(-25, -0.5)
    expect(s.time).toBeGreaterThan(1.8)
  })
  test('a gesture at twice its speed takes half the time', () => {
    const time = (step: string) => ran('cuttle', `start\n  ${step}\n  finish`).time
    const own = time('perform wave')
    expect(time('perform wave at 200 %') / own).toBeGreaterThan(0.4)
    expect(time('perform wave at 200 %') / own).toBeLessThan(0.75)
  })
  test('its weight shakes and loads the rover, and it stays on its wheels', () => {
    const s = ran('cuttle', 'start\n  repeat 4 times\n    move lift to 60 deg\n    move lift to -35 deg\n  finish')
    expect(reading(s, 'gyro.tilt') * 180 / Math.PI).toBeLessThan(4)
    expect(s.falls).toBe(0)
  })
})

describe('a claw', () => {
  test('grips by contact, lifts, and lets go where it opens', () => {
    const s = build('cuttle', `${GRAB}  note "{claw.holding} {claw.gap}"\n  open claw\n  wait 1 s\n  finish`, { arena: { pieces: [float(WITHIN)] } })
    let highest = 0
    while (s.end === null) {
      s.advance()
      highest = Math.max(highest, piece(s, 'it').pz)
    }
    expect(s.tape.events.find(e => e.type === 'note')!.text).toMatch(/^true (5|5\.\d+|4\.9\d*) cm$/)
    expect(highest).toBeGreaterThan(0.12)
    expect(piece(s, 'it').pz).toBeLessThan(0.05)
    expect(reading(s, 'claw.holding')).toBe(0)
  })
  test('what it holds as the run ends is told on the tape, and nothing else is', () => {
    const told = (program: string) => ran('cuttle', program, { arena: { pieces: [float(WITHIN)] } }).tape.events.filter(e => e.type === 'held').map(e => [e.about, e.text])
    expect(told(GRAB + '  finish')).toEqual([['claw', 'still holds it']])
    expect(told(GRAB + '  open claw\n  finish')).toEqual([])
  })
  test('closes on nothing: shut, and holding nothing', () => {
    const s = ran('cuttle', `${GRAB}  finish`, { arena: {} })
    expect([reading(s, 'claw.holding'), reading(s, 'claw.gap')]).toEqual([0, 0])
  })
  test.each([
    ['too slippery', { friction: 0.02 }],
    ['too wide', { diameter: '11 cm', at: ['1.2 m', '1 m'] }],
  ])('what is %s is not carried', (_what, change) => {
    const s = ran('cuttle', `${GRAB}  finish`, { arena: { pieces: [float(WITHIN, change)] } })
    expect(reading(s, 'claw.holding')).toBe(0)
    expect(piece(s, 'it').pz).toBeLessThan(0.06)
  })
  test('what is too heavy stays on the floor', () => {
    expect(piece(ran('cuttle', `${GRAB}  finish`, { arena: { pieces: [float(WITHIN, { mass: '2 kg' })] } }), 'it').pz).toBeLessThan(0.06)
  })
  test('the rover carries the weight: its wheels bear more', () => {
    // 300 g at 15 cm before the axle would tip nothing, but lean it a little forward.
    const tilt = (mass: string) => reading(ran('cuttle', `${GRAB}  finish`, { arena: { pieces: [float(WITHIN, { mass })] } }), 'gyro.tilt')
    expect(tilt('300 g')).toBeGreaterThan(tilt('20 g'))
  })
})

describe('an electromagnet', () => {
  const lid = (rest: object = {}) => ({ name: 'it', kind: 'lid', shape: 'cylinder', at: ['1.11 m', '1 m'], diameter: '9 cm', height: '1.2 cm', mass: '120 g', steel: true, color: 'blue', ...rest })
  const lifted = (rest: object, program = 'start\n  switch magnet on\n  wait 1 s\n  finish') => {
    const s = ran('winkle', program, { arena: { pieces: [lid(rest)] } })
    return { holding: reading(s, 'magnet.holding'), height: piece(s, 'it').pz }
  }
  test('lifts steel across the gap', () => {
    expect(lifted({})).toMatchObject({ holding: 1 })
    expect(lifted({}).height).toBeGreaterThan(0.0075)
  })
  test('lifts no more than its figure: force over (1 + gap / falloff) squared is the weight', () => {
    // 8 N, falloff 6 mm: 110 g are lifted from up to 6 mm (sqrt(8 / 1.08) - 1) = 10.3 mm; the rover's nose dips by up to 3 mm on its tyres.
    const strong = (r: Doc): void => { r['devices'].find((d: Doc) => d['kind'] === 'magnet')['settings'] = { force: '8 N', falloff: '6 mm' } }
    const up = (clear: number): number => {
      const s = build('winkle', 'start\n  switch magnet on\n  wait 1 s\n  finish', { change: strong, arena: { pieces: [lid({ mass: '110 g' })] } })
      const face = s.world.parts.find(p => p.device === 'magnet')!.solid!
      // As thick as leaves that much between it and the face.
      const height = face.pz - 0.006 - clear
      const t = build('winkle', 'start\n  switch magnet on\n  wait 1 s\n  finish', { change: strong, arena: { pieces: [lid({ at: [`${face.px} m`, `${face.py} m`], mass: '110 g', height: `${height * 1000} mm` })] } })
      t.runToEnd()
      return reading(t, 'magnet.holding')
    }
    expect([up(0.0085), up(0.0145)]).toEqual([1, 0])
  })
  test('does not feel what is no steel, what is too heavy, or what is too far', () => {
    expect(lifted({ steel: false }).holding).toBe(0)
    expect(lifted({ mass: '700 g' }).height).toBeLessThan(0.0075)
    expect(lifted({ at: ['1.25 m', '1 m'] }).holding).toBe(0)
  })
  test('lets go when it is switched off', () => {
    expect(lifted({}, 'start\n  switch magnet on\n  wait 1 s\n  switch magnet off\n  wait 1 s\n  finish')).toMatchObject({ holding: 0 })
  })
})

describe('a motor and its belt', () => {
  test('turns by a measure', () => {
    const s = ran('heron', 'start\n  run belt by 2 turn at 40 rpm\n  wait 0.4 s\n  finish')
    expect(reading(s, 'belt.angle') / (2 * Math.PI)).toBeCloseTo(2, 1)
  })
  test('a belt carries what lies on it at its own speed, and only while its motor runs', () => {
    const arena = { belts: [{ name: 'belt_1', at: ['2 m', '1 m'], size: ['1 m', '10 cm'], speed: '6 cm/s', motor: 'belt' }], pieces: [float('1.7 m', { up: '6 cm' })] }
    const s = ran('heron', 'start\n  run belt 100 % for 5 s\n  wait 1 s\n  finish', { arena })
    expect(piece(s, 'it').px - 1.7).toBeGreaterThan(0.27)
    expect(piece(s, 'it').px - 1.7).toBeLessThan(0.31)
    expect(piece(ran('heron', 'start\n  wait 3 s\n  finish', { arena }), 'it').px).toBeCloseTo(1.7, 3)
  })
  test('a feeder puts its pieces out in time, in an order of the seed', () => {
    const arena = { belts: [{ name: 'belt_1', at: ['2 m', '1 m'], size: ['1 m', '10 cm'], feeder: { first: '1 s', every: '2 s', items: ['orange', 'green', 'white'].map(color => ({ kind: color, shape: 'cylinder', diameter: '4 cm', height: '4 cm', color })) } }] }
    const order = (seed: number) => ran('heron', 'start\n  wait 6 s\n  finish', { arena, seed }).tape.events.filter(e => e.type === 'fed').map(e => [e.tick, e.about] as const)
    expect(order(1).map(([t]) => t)).toEqual([50, 150, 250])
    expect(new Set([1, 2, 3, 4, 5, 6].map(seed => order(seed).map(([, p]) => p).join())).size).toBeGreaterThan(2)
  })
})

describe('signs', () => {
  test('lamp and display stay as they were told; any lane may set them, the higher one first', () => {
    const s = ran('limpet', 'lane first\n  when run.time > 0.5 s once -> light lamp red\nlane second\n  when run.time > 0.5 s once -> light lamp green\n', { limit: 1 })
    expect(s.facts.colors[reading(s, 'lamp.color')]).toBe('red')
  })
  test('a tone lasts as long as it was asked, and its own ear hears it', () => {
    const heard: number[] = []
    const s = build('cuttle', 'start\n  tone 440 Hz for 0.3 s\n  wait 0.5 s\n  finish', { change: (r) => {
      r['controller']['ports']['P9'] = 'digital'
      r['devices'].push({ name: 'horn', kind: 'horn', port: 'P9', mount: {} })
    } })
    while (s.end === null) {
      s.advance()
      heard.push(reading(s, 'sound.level'))
    }
    expect(Math.max(...heard.slice(5, 15))).toBeGreaterThan(0.5)
    expect(heard.at(-1)!).toBeLessThan(0.1)
  })
  test('what the display shows is told once a change', () => {
    const s = ran('cuttle', 'when run.time < 1 s -> show "one"\notherwise -> show "two {1 + 1}"', { limit: 2 })
    expect(s.tape.events.filter(e => e.type === 'show').map(e => e.text)).toEqual(['one', 'two 2'])
  })
})

describe('by hand', () => {
  test('without a program the robot is driven, and stands when the hand rests', () => {
    const s = build('limpet', null, { limit: 3 })
    s.poke({ poke: 'drive', speed: 0.2, right: 0 })
    while (s.time < 1.5) s.advance()
    const x = reading(s, 'wheels.travel')
    expect(x).toBeGreaterThan(0.2)
    s.poke({ poke: 'drive', speed: 0, right: 0 })
    s.runToEnd()
    expect(reading(s, 'wheels.travel') - x).toBeLessThan(0.04)
    expect(s.tape.events.filter(e => e.type === 'poke').map(e => e.text)).toEqual(['driven 20 cm/s, 0 deg/s to the right', 'driven 0 cm/s, 0 deg/s to the right'])
  })
  test('a program keeps its wheels', () => {
    const s = build('limpet', 'start\n  wait 1 s', { limit: 1 })
    s.poke({ poke: 'drive', speed: 0.2, right: 0 })
    s.runToEnd()
    expect(Math.abs(reading(s, 'wheels.travel'))).toBe(0)
  })
  test('a clap is heard by its distance', () => {
    const heard = (x: number) => {
      const s = build('cuttle', null, { limit: 1 })
      s.advance()
      s.poke({ poke: 'clap', x, y: 1 })
      let most = 0
      for (let i = 0; i < 10; i++) { s.advance(); most = Math.max(most, reading(s, 'sound.level')) }
      return most
    }
    // The sensor sits 4 cm behind the middle, at 0.96 m: a metre away, a quarter of the loudness.
    expect(heard(1.96) - 0.02).toBeCloseTo(0.25, 2)
    expect(heard(1.2)).toBe(1)
  })
  test('numbers that are none do nothing', () => {
    const s = build('limpet', null, { limit: 1 })
    s.poke({ poke: 'put', what: 'robot', x: Number.NaN, y: 1, heading: null })
    s.poke({ poke: 'drive', speed: Infinity, right: 0 })
    s.runToEnd()
    expect(s.tape.events).toEqual([])
  })
})

describe('the whole of it', () => {
  test.each(['cuttle', 'winkle', 'heron', 'limpet'])('%s goes on from a snapshot to the bit', (robot) => {
    const program = { cuttle: `${GRAB}  drive back 20 cm\n  open claw\n  finish`, winkle: 'start\n  switch magnet on\n  drive 20 cm\n  finish', heron: 'start\n  home base\n  move lift to 0 deg\n  finish', limpet: 'start\n  drive 30 cm\n  tone 300 Hz for 0.5 s\n  finish' }[robot]!
    const options = { realism: 'rough' as const, arena: { pieces: [float(WITHIN)], visitors: [{ name: 'keeper', path: [['3 m', '0.5 m'], ['3 m', '2 m']] }] } }
    const straight = ran(robot, program, options)
    const broken = build(robot, program, options)
    for (let i = 0; i < 60 && broken.end === null; i++) broken.advance()
    const saved = broken.snapshot()
    for (let i = 0; i < 40 && broken.end === null; i++) broken.advance()
    broken.restore(saved)
    broken.runToEnd()
    expect(broken.tape.digest()).toBe(straight.tape.digest())
  })
})
