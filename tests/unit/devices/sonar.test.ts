import { describe, expect, test } from 'vitest'
import { PLAIN_SURFACE, Solid, yawQuaternion, type BodyState, type Surface } from '../../../core/geometry'
import type { RealismName } from '../../../core/devices'
import { DEG, bodyAt, make, surroundings } from './around'

const ROUGH: Surface = PLAIN_SURFACE
const SMOOTH: Surface = { ...PLAIN_SURFACE, echo: 'smooth' }

const body = bodyAt(1, 2, 0.05)

function look(solids: readonly Solid[], options: { realism?: RealismName, body?: BodyState, yaw?: number, cone?: number, range?: number } = {}) {
  const settings = { range: `${options.range ?? 2.5} m`, cone: `${(options.cone ?? 30 * DEG) / DEG} deg` }
  const model = make('sonar', { settings, mount: { forward: 0.1, up: 0.03, yaw: options.yaw ?? 0 }, realism: options.realism ?? 'ideal' })
  const into = new Float64Array(2)
  model.look(surroundings({ solids, body: options.body ?? body }), into)
  return { distance: into[0]!, sees: into[1] === 1, model }
}

const wall = (x: number, y: number, yaw = 0, surface = ROUGH) =>
  new Solid('wall', { shape: 'box', hx: 0.05, hy: 0.6, hz: 0.2 }, surface, { x, y, z: 0.1 }, yawQuaternion(yaw))
const post = (x: number, y: number, radius = 0.06) =>
  new Solid('post', { shape: 'cylinder', radius, hz: 0.2 }, ROUGH, { x, y, z: 0.1 }, yawQuaternion(0))

describe('a sonar in an ideal world', () => {
  test('tells the distance of a face straight ahead', () => {
    // Eye at x 1.1; the face at 2.05 - 0.05.
    expect(look([wall(2.05, 2)]).distance).toBeCloseTo(0.9, 9)
  })
  test('tells the distance of a post at an angle: to its nearest point', () => {
    // From (1.1, 2) to (1.6, 2.12): centre 51.4 cm away at 13.5 deg, radius 6 cm.
    const centre = Math.hypot(0.5, 0.12)
    expect(look([post(1.6, 2.12)]).distance).toBeCloseTo(centre - 0.06, 4)
  })
  test('does not see what lies outside of its cone', () => {
    expect(look([post(1.6, 2.35)]).sees).toBe(false)
    expect(look([post(1.6, 2.35)], { cone: 90 * DEG }).sees).toBe(true)
  })
  test('looks where it faces, and where the robot faces', () => {
    expect(look([post(1.1, 2.6)], { yaw: 90 * DEG }).distance).toBeCloseTo(0.54, 2)
    expect(look([post(1, 1.2)], { body: bodyAt(1, 2, 0.05, yawQuaternion(-90 * DEG)) }).distance).toBeCloseTo(0.8 - 0.1 - 0.06, 3)
  })
  test('has no echo beyond its range', () => {
    const far = look([wall(2.05, 2)], { range: 0.8 })
    expect(far.distance).toBe(Infinity)
    expect(far.sees).toBe(false)
  })
  test('hears the nearer of two', () => {
    expect(look([wall(2.05, 2), post(1.5, 2.02)]).distance).toBeCloseTo(0.4 - 0.06, 2)
  })
})

describe('a sonar in a real world', () => {
  test('a smooth face met at a glance throws the sound away; a rough one does not', () => {
    const turned = 60 * DEG
    expect(look([wall(1.7, 2, turned, SMOOTH)], { realism: 'typical', cone: 10 * DEG }).sees).toBe(false)
    expect(look([wall(1.7, 2, turned, ROUGH)], { realism: 'typical', cone: 10 * DEG }).sees).toBe(true)
    expect(look([wall(1.7, 2, 10 * DEG, SMOOTH)], { realism: 'typical', cone: 10 * DEG }).sees).toBe(true)
  })
  test('something soft is heard near by only', () => {
    const soft: Surface = { ...PLAIN_SURFACE, echo: 'soft' }
    expect(look([wall(1.9, 2, 0, soft)], { realism: 'typical' }).sees).toBe(true)
    expect(look([wall(2.6, 2, 0, soft)], { realism: 'typical' }).sees).toBe(false)
  })
  test('noise has the deviation of its model', () => {
    const around = surroundings({ solids: [wall(2.05, 2)], body })
    const model = make('sonar', { settings: { cone: '30 deg', latency: '0 s' }, mount: { forward: 0.1, up: 0.03 }, realism: 'rough', seed: 9 })
    const into = new Float64Array(2)
    const heard: number[] = []
    let lost = 0
    for (let i = 0; i < 4000; i++) {
      model.look(around, into)
      if (into[1] === 1) heard.push(into[0]!)
      else lost++
    }
    const mean = heard.reduce((a, b) => a + b) / heard.length
    const deviation = Math.sqrt(heard.reduce((a, b) => a + (b - mean) ** 2, 0) / heard.length)
    // 5 mm and 1.2 % of 90 cm, within three standard errors.
    expect(Math.abs(deviation - (0.005 + 0.012 * 0.9))).toBeLessThan(0.0008)
    expect(lost / 4000).toBeGreaterThan(0.02)
    expect(lost / 4000).toBeLessThan(0.04)
  })
})
