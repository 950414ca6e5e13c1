import { beforeAll, describe, expect, test } from 'vitest'
import { loadPhysics } from '../../../core/physics'
import type { Simulation, ProjectParts } from '../../../core/simulation'
import { readProject } from '../../../core/simulation'
import { demo, simulate } from '../kit'

/** The robot against known answers: rulers, protractors and the laws of motion. */

beforeAll(loadPhysics)

/** A bare deck with the robot at (1, 1.5) facing east, and what else a test needs. */
function deck(extra: object = {}, robot: (r: Record<string, any>) => void = () => undefined): ProjectParts {
  const doc = structuredClone(demo('robots/limpet.json')) as Record<string, any>
  robot(doc)
  const read = readProject({
    robot: doc,
    arena: { mindpath: 'arena', version: 1, name: 'bare', size: ['6 m', '3 m'], surround: 'water', start: { at: ['1 m', '1.5 m'], heading: '0 deg' }, ...extra },
    task: null,
  })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.value
}

const bodyOf = (s: Simulation) => {
  const b = s.tape.layout.body
  const r = s.tape.row
  return { x: r[b]!, y: r[b + 1]!, z: r[b + 2]!, yaw: 2 * Math.atan2(r[b + 5]!, r[b + 6]!) }
}
const reading = (s: Simulation, name: string) => {
  const [device, which] = name.split('.')
  const d = s.facts.devices.find(x => x.name === device)!
  return s.tape.row[s.tape.layout.readings + d.first + d.readings.findIndex(r => r.name === which)]!
}
function run(parts: ProjectParts, program: string | null, options: Parameters<typeof simulate>[2] = {}): Simulation {
  const s = simulate(parts, program, { realism: 'ideal', ...options })
  s.runToEnd()
  return s
}

describe('driving', () => {
  test('a measured distance is driven, straight', () => {
    const { x, y } = bodyOf(run(deck(), 'start\n  drive 80 cm\n  wait 0.3 s'))
    expect(x).toBeCloseTo(1.8, 2)
    expect(y).toBeCloseTo(1.5, 3)
  })
  test('a measured turn is turned, right is clockwise from above', () => {
    const right = run(deck(), 'start\n  turn right 75 deg\n  wait 0.3 s')
    expect(bodyOf(right).yaw * 180 / Math.PI).toBeCloseTo(-75, 0)
    expect(reading(right, 'gyro.turned') * 180 / Math.PI).toBeCloseTo(75, 0)
  })
  test('speed settles at what was asked', () => {
    const s = run(deck(), 'start\n  drive 30 cm/s for 3 s', { limit: 2.5 })
    expect(reading(s, 'wheels.speed')).toBeCloseTo(0.3, 2)
  })
  test('a curve has the radius of speed over turning speed', () => {
    // 20 cm/s turning left at 40 deg/s: a circle of 28.6 cm radius, its centre to the left.
    const s = run(deck(), 'start\n  drive 20 cm/s turning left 40 deg/s for 12 s', { limit: 11 })
    const radius = 0.2 / (40 * Math.PI / 180)
    const { x, y } = bodyOf(s)
    const axle = { x: x + 0.01 * Math.cos(bodyOf(s).yaw), y: y + 0.01 * Math.sin(bodyOf(s).yaw) }
    // The wheels' own turning centre starts 1 cm ahead of the middle; slip while it gathers speed moves the circle a little.
    expect(Math.hypot(axle.x - 1.01, axle.y - 1.5 - radius)).toBeGreaterThan(radius * 0.9)
    expect(Math.hypot(axle.x - 1.01, axle.y - 1.5 - radius)).toBeLessThan(radius * 1.1)
  })
  test('sliding wheels stop it as friction says', () => {
    // Pushed to 1.2 m/s with braked wheels: v² / (2 μ g) with grip 0.9 x 0.9 on the two wheels that carry part of it.
    const s = simulate(deck(), null, { realism: 'ideal', limit: 4 })
    s.poke({ poke: 'push', forward: 1.2, right: 0 })
    s.runToEnd()
    const slid = bodyOf(s).x - 1
    const best = 1.2 * 1.2 / (2 * 0.81 * 9.81)
    expect(slid).toBeGreaterThan(best)
    expect(slid).toBeLessThan(best * 2.2)
  })
  test('against something fixed it stalls or spins, and a blocked motion ends', () => {
    const parts = deck({ walls: [{ from: ['1.3 m', '1 m'], to: ['1.3 m', '2 m'], height: '20 cm' }] }, (r) => { r['drive']['stall torque'] = '30 mNm' })
    const s = run(parts, 'start\n  drive 1 m\n  finish "on"', { limit: 10 })
    expect(s.tape.events.map(e => e.type)).toContain('blocked')
    expect(s.end?.ended).toBe('finished')
    expect(bodyOf(s).x).toBeLessThan(1.21)
  })
})

describe('the world', () => {
  test('it stands still where nothing moves it', () => {
    const { x, y, z } = bodyOf(run(deck(), null, { limit: 3 }))
    // The tyres settle by less than a millimetre.
    expect([x, y]).toEqual([expect.closeTo(1, 3), expect.closeTo(1.5, 3)])
    expect(Math.abs(z - 0.049)).toBeLessThan(0.001)
  })
  test('over the edge it falls, as free fall does', () => {
    const parts = deck({ size: ['2 m', '3 m'] })
    const s = simulate(parts, 'start\n  drive 40 cm/s for 6 s', { realism: 'ideal', limit: 6 })
    let fellAt = -1
    while (s.end === null) {
      s.advance()
      if (s.falls > 0 && fellAt < 0) fellAt = s.time
    }
    expect(s.falls).toBe(1)
    expect(fellAt).toBeGreaterThan(2.2)
    expect(bodyOf(s).z).toBeLessThan(-0.8)
  })
  test('a bumper is pressed by what it pushes, on its own side', () => {
    // The crate stands to the right of the middle.
    const parts = deck({ pieces: [{ name: 'crate', kind: 'crate', shape: 'box', at: ['1.25 m', '1.44 m'], length: '8 cm', width: '5 cm', height: '10 cm', mass: '800 g' }] })
    const s = simulate(parts, 'otherwise -> drive 15 cm/s', { realism: 'ideal', limit: 3 })
    let left = 0
    let right = 0
    while (s.end === null) {
      s.advance()
      left += reading(s, 'bumper_left.pressed')
      right += reading(s, 'bumper_right.pressed')
    }
    expect(right).toBeGreaterThan(10)
    expect(left).toBe(0)
    expect(s.contacts).toBe(1)
    const crate = s.world.pieces[0]!.solid
    expect(crate.px).toBeGreaterThan(1.3)
  })
  test('a light piece is pushed farther than a heavy one by the same drive', () => {
    const pushed = (mass: string) => {
      const s = run(deck({ pieces: [{ name: 'crate', kind: 'crate', shape: 'box', at: ['1.3 m', '1.5 m'], length: '10 cm', width: '20 cm', height: '10 cm', mass }] }), 'otherwise -> wheels left 30 % right 30 %', { limit: 4 })
      return s.world.pieces[0]!.solid.px
    }
    expect(pushed('200 g')).toBeGreaterThan(pushed('3 kg') + 0.15)
  })
  test('a reading is what was last seen: the sonar lags behind', () => {
    const parts = deck({ walls: [{ from: ['3 m', '1 m'], to: ['3 m', '2 m'], height: '20 cm' }] })
    const s = simulate(parts, 'otherwise -> drive 40 cm/s', { realism: 'ideal', limit: 3 })
    const errors: number[] = []
    while (s.end === null) {
      s.advance()
      if (s.time < 1.5) continue
      const truth = 2.98 - (bodyOf(s).x + 0.085)
      errors.push(reading(s, 'sonar.distance') - truth)
    }
    // Behind by the latency of 10 ms at least, by that and a period of 50 ms at most, with a tick to be read: 40 cm/s times each.
    expect(Math.min(...errors)).toBeGreaterThan(0.4 * 0.01 - 0.001)
    expect(Math.max(...errors)).toBeLessThan(0.4 * (0.06 + 0.02) + 0.001)
    expect(Math.max(...errors) - Math.min(...errors)).toBeGreaterThan(0.4 * 0.03)
  })
})
