import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { rotate, rotationMatrix, type Pose, type Vector } from '../../../core/geometry'
import { axisOf, framesOf, gripAt, partsOf, placeFrames, posedBy, readRobot, rideOn, seatOf, within, type FrameSpec, type Robot } from '../../../core/robot'
import { bodyAt } from '../devices/around'
import { demo } from '../kit'

/** Where links are: against 4 by 4 matrices multiplied out, and against what hands do on a drawing. */

type Matrix = readonly (readonly number[])[]
const times = (a: Matrix, b: Matrix): Matrix => a.map(row => b[0]!.map((_, j) => row.reduce((s, v, k) => s + v * b[k]![j]!, 0)))
const shift = (x: number, y: number, z: number): Matrix => [[1, 0, 0, x], [0, 1, 0, y], [0, 0, 1, z], [0, 0, 0, 1]]
/** Rodrigues' formula. */
function about([x, y, z]: readonly [number, number, number], angle: number): Matrix {
  const [c, s] = [Math.cos(angle), Math.sin(angle)]
  const t = 1 - c
  return [[t * x * x + c, t * x * y - s * z, t * x * z + s * y, 0], [t * x * y + s * z, t * y * y + c, t * y * z - s * x, 0], [t * x * z - s * y, t * y * z + s * x, t * z * z + c, 0], [0, 0, 0, 1]]
}
const pointBy = (m: Matrix, p: Vector): readonly number[] => m.slice(0, 3).map(row => row[0]! * p.x + row[1]! * p.y + row[2]! * p.z + row[3]!)
const placed = (pose: Pose, p: Vector): readonly number[] => { const q = rotate(pose.rotation, p); return [pose.position.x + q.x, pose.position.y + q.y, pose.position.z + q.z] }

/** A robot on a post with these joints, each on the one before. */
function arm(joints: readonly { readonly kind: 'joint' | 'slide', readonly axis: string, readonly mount: readonly number[] }[]): Robot {
  const base = demo('robots/heron.json') as { controller: object }
  const read = readRobot({
    ...base, controller: { tick: '20 ms', ports: Object.fromEntries(joints.map((_, i) => [`A${i}`, 'motor'])) },
    devices: joints.map(({ kind, axis, mount: [forward, right, up, facing, tilt] }, i) => ({
      name: `j${i}`, kind, port: `A${i}`, mount: { ...(i === 0 ? {} : { on: `j${i - 1}` }), forward: `${forward} m`, right: `${right} m`, up: `${i === 0 ? Math.abs(up!) : up} m`, facing: `${facing} deg`, tilt: `${tilt} deg` },
      settings: { axis, ...(kind === 'joint' ? { from: '-180 deg', to: '180 deg' } : { from: '-50 cm', to: '50 cm' }) },
    })),
  })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.value
}

const number = (min: number, max: number) => fc.double({ min, max, noNaN: true }).map(x => Math.round(x * 1000) / 1000)
const joint = fc.oneof(
  fc.record({ kind: fc.constant('joint' as const), axis: fc.constantFrom('upright', 'across', 'along'), mount: fc.tuple(number(-0.2, 0.2), number(-0.2, 0.2), number(-0.2, 0.2), number(-180, 180), number(-90, 90)) }),
  fc.record({ kind: fc.constant('slide' as const), axis: fc.constantFrom('up', 'forward', 'right'), mount: fc.tuple(number(-0.2, 0.2), number(-0.2, 0.2), number(-0.2, 0.2), number(-180, 180), number(-90, 90)) }),
)

/** The matrix of each frame: its mount's place and turns, then the joint's own motion. */
function matrices(frames: readonly FrameSpec[], values: readonly number[]): readonly Matrix[] {
  const all: Matrix[] = []
  frames.forEach((f, i) => {
    const { mount, link, parent } = f
    const seat = times(times(shift(mount.forward, mount.left, mount.up), about([0, 0, 1], mount.yaw)), about([0, -1, 0], mount.pitch))
    const axis = axisOf(link.axis)
    const own = link.motion === 'turning' ? about(axis, values[i]!) : shift(axis[0] * values[i]!, axis[1] * values[i]!, axis[2] * values[i]!)
    const local = times(seat, own)
    all.push(parent === -1 ? local : times(all[parent]!, local))
  })
  return all
}

describe('the frames of an arm', () => {
  test('are where matrices put them, for any chain of joints', () => {
    fc.assert(fc.property(fc.array(joint, { minLength: 1, maxLength: 5 }), fc.array(number(-3, 3), { minLength: 5, maxLength: 5 }), (joints, drawn) => {
      const frames = framesOf(arm(joints))
      const values = frames.map((f, i) => f.link.motion === 'turning' ? drawn[i]! : drawn[i]! / 10)
      const poses = placeFrames(frames, values)
      matrices(frames, values).forEach((m, i) => {
        for (const p of [{ x: 0, y: 0, z: 0 }, { x: 0.1, y: 0, z: 0 }, { x: 0, y: -0.2, z: 0.3 }]) {
          placed(poses[i]!, p).forEach((v, k) => { expect(v).toBeCloseTo(pointBy(m, p)[k]!, 9) })
        }
      })
    }), { numRuns: 150 })
  })
  test('ride on a body with the speed that the body has at their place', () => {
    fc.assert(fc.property(number(-2, 2), number(-2, 2), number(-1, 1), number(-1, 1), number(-3, 3), (x, y, vx, vy, spin) => {
      const body = { ...bodyAt(x, y, 0.1), velocity: { x: vx, y: vy, z: 0 }, spin: { x: 0, y: 0, z: spin } }
      const into = bodyAt(0, 0, 0)
      rideOn(body, { position: { x: 0.3, y: 0.1, z: 0.2 }, rotation: { x: 0, y: 0, z: 0, w: 1 } }, into)
      expect([into.velocity.x, into.velocity.y]).toEqual([expect.closeTo(vx - spin * 0.1, 9), expect.closeTo(vy + spin * 0.3, 9)])
    }), { numRuns: 60 })
  })
  test('within undoes itself: a pose in a frame and back', () => {
    const pose = fc.tuple(number(-1, 1), number(-1, 1), number(-1, 1), number(-180, 180), number(-90, 90)).map(([forward, left, up, yaw, pitch]) => seatOf({ forward, left, up, yaw: yaw * Math.PI / 180, pitch: pitch * Math.PI / 180 }))
    fc.assert(fc.property(pose, pose, (a, b) => {
      const both = within(a, b)
      const point = { x: 0.2, y: -0.1, z: 0.05 }
      const inner = placed(b, point)
      placed(both, point).forEach((v, k) => { expect(v).toBeCloseTo(placed(a, { x: inner[0]!, y: inner[1]!, z: inner[2]! })[k]!, 9) })
    }), { numRuns: 100 })
  })
  test('a part is in the world as sensors and physics have it: turned boxes keep their lengths', () => {
    const robot = arm([{ kind: 'joint', axis: 'across', mount: [0.05, 0, 0.2, 30, 20] }])
    const [link] = partsOf(robot).filter(p => p.link)
    const pose = within(placeFrames(framesOf(robot), [0.7])[0]!, link!.local)
    const m = new Float64Array(9)
    rotationMatrix(pose.rotation, m)
    for (const c of [0, 1, 2]) expect(Math.hypot(m[c]!, m[3 + c]!, m[6 + c]!)).toBeCloseTo(1, 9)
  })
})

describe('a hand that drags a link on a drawing', () => {
  const two = framesOf(arm([{ kind: 'joint', axis: 'upright', mount: [0, 0, 0.1, 0, 0] }, { kind: 'joint', axis: 'upright', mount: [0.1, 0, 0, 0, 0] }]))
  const above = (p: Vector): readonly [number, number] => [p.x, p.y]
  const free = (): readonly [number, number] => [-Math.PI, Math.PI]

  test('brings the point that it holds to wherever two joints reach', () => {
    fc.assert(fc.property(number(0.06, 0.17), number(-3, 3), number(-2, 2), number(0.3, 2.4), (far, angle, first, second) => {
      const values = [first, second]
      const tip = placed(placeFrames(two, values)[1]!, { x: 0.08, y: 0, z: 0 })
      const grip = gripAt(two, values, 1, { x: tip[0]!, y: tip[1]!, z: tip[2]! })
      const target = [far * Math.cos(angle), far * Math.sin(angle)] as const
      // What lies behind a joint's end is not reached from the other side.
      const after = posedBy(two, values, () => [-20, 20], grip, above, target)
      const reached = placed(placeFrames(two, after)[1]!, grip.point)
      expect(Math.hypot(reached[0]! - target[0], reached[1]! - target[1])).toBeLessThan(0.01)
    }), { numRuns: 80 })
  })
  test('stretches the arm towards what is out of reach, and keeps within the ranges', () => {
    const grip = { frame: 1, point: { x: 0.08, y: 0, z: 0 } }
    const after = posedBy(two, [0.3, 0.5], free, grip, above, [0.5, 0])
    const reached = placed(placeFrames(two, after)[1]!, grip.point)
    expect(Math.hypot(reached[0]! - 0.18, reached[1]!)).toBeLessThan(0.01)
    const bound = posedBy(two, [0.3, 0.5], () => [0.2, 0.6], grip, above, [-0.2, 0.1])
    expect(bound.every(v => v >= 0.2 && v <= 0.6)).toBe(true)
  })
  test('moves nothing where it drags nowhere, and no joint beyond the one that it holds', () => {
    const grip = { frame: 0, point: { x: 0.05, y: 0, z: 0 } }
    expect(posedBy(two, [0.3, 0.5], free, grip, above, [0.05 * Math.cos(-0.3), 0.05 * Math.sin(-0.3)])[0]).toBeCloseTo(0.3, 5)
    expect(posedBy(two, [0.3, 0.5], free, grip, above, [0, 0.05])[1]).toBe(0.5)
  })
})
