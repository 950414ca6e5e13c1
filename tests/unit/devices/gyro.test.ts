import { describe, expect, test } from 'vitest'
import { multiply, yawQuaternion, type Quaternion } from '../../../core/geometry'
import type { RealismName, Surroundings } from '../../../core/devices'
import { DEG, bodyAt, make as makeDevice, surroundings } from './around'

const base = surroundings()
const around = (rotation: Quaternion, time: number, press = 0): Surroundings => ({ ...base, body: bodyAt(0, 0, 0, rotation), time, pressOn: () => press })
const make = (realism: RealismName, seed = 1, limit = 440 * DEG) => makeDevice('gyro', { settings: { limit: `${limit / DEG} deg/s` }, realism, seed })

/** Turns right at a rate for a while, looking every 20 ms; what it reads at the end. */
function turnRight(model: ReturnType<typeof make>, rate: number, seconds: number) {
  const into = new Float64Array(4)
  for (let i = 0; i <= Math.round(seconds / 0.02); i++) model.look(around(yawQuaternion(-rate * i * 0.02), i * 0.02), into)
  return { turned: into[0]!, heading: into[1]!, rate: into[2]! }
}

describe('a gyro', () => {
  test('adds up a known turn, right positive, beyond a full one', () => {
    const read = turnRight(make('ideal'), 100 * DEG, 5)
    expect(read.turned).toBeCloseTo(500 * DEG, 6)
    expect(read.heading).toBeCloseTo(140 * DEG, 6)
    expect(read.rate).toBeCloseTo(100 * DEG, 6)
  })
  test('loses what is faster than it can measure', () => {
    expect(turnRight(make('ideal', 1, 200 * DEG), 300 * DEG, 2).turned).toBeCloseTo(400 * DEG, 4)
  })
  test('drifts while it stands, differently from one to the next', () => {
    const stands = (seed: number) => turnRight(make('rough', seed), 0, 60).turned / DEG
    const all = Array.from({ length: 40 }, (_, i) => stands(i + 1))
    const deviation = Math.sqrt(all.reduce((a, b) => a + b * b, 0) / all.length)
    // 0.25 deg/s for 60 s; forty gyros know their deviation within about a third.
    expect(deviation).toBeGreaterThan(15 * 0.6)
    expect(deviation).toBeLessThan(15 * 1.4)
  })
  test('tells how far it leans, whichever way', () => {
    const into = new Float64Array(4)
    const lean = multiply(yawQuaternion(1.1), { x: Math.sin(10 * DEG), y: 0, z: 0, w: Math.cos(10 * DEG) })
    make('ideal').look(around(lean, 0), into)
    expect(into[3]).toBeCloseTo(20 * DEG, 9)
  })
  test('goes on from its snapshot', () => {
    const one = make('ideal')
    turnRight(one, 50 * DEG, 1)
    const saved = structuredClone(one.snapshot())
    const other = make('ideal')
    other.restore(saved)
    const into = new Float64Array(4)
    other.look(around(yawQuaternion(-57 * DEG), 1.02), into)
    expect(into[0]).toBeCloseTo(57 * DEG, 9)
  })
})

describe('a bumper', () => {
  const pad = () => makeDevice('bumper', { realism: 'typical' })
  const upright = yawQuaternion(0)
  test('closes at its force and opens a moment after the last touch', () => {
    const model = pad()
    const into = new Float64Array(1)
    const at = (time: number, force: number) => { model.look(around(upright, time, force), into); return into[0] }
    expect([at(0, 0.39), at(0.02, 0.41), at(0.04, 0), at(0.05, 0), at(0.08, 0)]).toEqual([0, 1, 1, 1, 0])
  })
})
