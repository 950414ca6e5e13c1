import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { anchorAt, apart, toPage, toWorld, type Anchor } from '../../../app/features/bench/act/plan-view'

const seed = Number(process.env['SEED'] ?? 3)
const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })

describe('a plan', () => {
  test('shows each place of the world where it is found again, however it is moved, zoomed and turned', () => {
    fc.assert(fc.property(number(-5, 5), number(-5, 5), number(20, 900), number(-7, 7), number(-5, 5), number(-5, 5), (x, y, scale, turn, px, py) => {
      const view = { x, y, scale, turn }
      const back = toWorld(view, 640, 480, toPage(view, 640, 480, { x: px, y: py }))
      expect(back.x).toBeCloseTo(px, 8)
      expect(back.y).toBeCloseTo(py, 8)
    }), { seed })
  })
  test('has north upwards and east to the right; a quarter turn to the left brings east upwards', () => {
    const at = (turn: number, x: number, y: number) => toPage({ x: 0, y: 0, scale: 100, turn }, 200, 200, { x, y })
    expect(at(0, 1, 0)).toEqual({ x: 200, y: 100 })
    expect(at(0, 0, 1)).toEqual({ x: 100, y: 0 })
    expect(at(Math.PI / 2, 1, 0).y).toBeCloseTo(0)
    // In the robot's own frame, one that looks north-west has its nose upwards.
    const yaw = 3 * Math.PI / 4
    const nose = at(Math.PI / 2 - yaw, Math.cos(yaw), Math.sin(yaw))
    expect([nose.x, nose.y].map(v => Math.round(v * 1e6) / 1e6)).toEqual([100, 0])
  })
})

describe('a ruler', () => {
  const robot: Anchor = { name: 'robot', x: 0, y: 0, reach: 0.1 }
  const sonar: Anchor = { name: 'sonar', x: 0.08, y: 0, reach: 0 }
  const float: Anchor = { name: 'float_1', x: 1, y: 0, reach: 0.05 }
  test('is laid to what lies there, a device before the robot that carries it, else to the bare place', () => {
    const all = [robot, sonar, float]
    expect(anchorAt(all, { x: 0.075, y: 0.005 }, 0.01).name).toBe('sonar')
    expect(anchorAt(all, { x: -0.05, y: 0 }, 0.01).name).toBe('robot')
    expect(anchorAt(all, { x: 0.5, y: 0.5 }, 0.01)).toEqual({ name: '', x: 0.5, y: 0.5, reach: 0 })
  })
  test('tells the way between the middles and between the edges', () => {
    expect(apart(robot, float)).toEqual({ middles: 1, edges: 0.85 })
    expect(apart(sonar, float).edges).toBeCloseTo(0.87)
    expect(apart(robot, sonar).edges).toBe(0)
  })
})
