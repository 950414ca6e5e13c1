import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { PLAIN_SURFACE, Ray, Scene, Solid, multiply, rotate, somePose, yawQuaternion, type MutablePose, type Pose, type Quaternion } from '../../../core/geometry'
import { framesOf, placeFrames, readRobot, within } from '../../../core/robot'
import { demo } from '../kit'

/** What writes into what it is handed comes to the same as what is made anew, and keeps nothing of either. */

const number = fc.double({ min: -2, max: 2, noNaN: true })
const vector = fc.record({ x: number, y: number, z: number })
const rotation: fc.Arbitrary<Quaternion> = fc.tuple(number, number).map(([yaw, roll]) => multiply(yawQuaternion(yaw), { x: Math.sin(roll), y: 0, z: 0, w: Math.cos(roll) }))
const pose: fc.Arbitrary<Pose> = fc.record({ position: vector, rotation })
/** One that holds something of before. */
const used = (): MutablePose => ({ position: { x: 7, y: 8, z: 9 }, rotation: { x: 1, y: 2, z: 3, w: 4 } })

describe('what is written into what is there', () => {
  test('is what is made anew, and what it is worked out from stays as it was', () => {
    fc.assert(fc.property(pose, pose, vector, (a, b, v) => {
      const before = structuredClone([a, b, v])
      const into = used()
      expect(within(a, b, into)).toBe(into)
      expect(into).toEqual(within(a, b))
      expect(rotate(a.rotation, v, into.position)).toEqual(rotate(a.rotation, v))
      expect(multiply(a.rotation, b.rotation, into.rotation)).toEqual(multiply(a.rotation, b.rotation))
      expect([a, b, v]).toEqual(before)
    }))
  })
  test('frames of an arm, again and again in the same places', () => {
    const robot = readRobot(demo('robots/heron.json'))
    const frames = robot.ok ? framesOf(robot.value) : []
    expect(frames.length).toBeGreaterThan(1)
    const into = frames.map(() => used())
    fc.assert(fc.property(fc.array(number, { minLength: frames.length, maxLength: frames.length }), (values) => {
      placeFrames(frames, values, into)
      expect(into).toEqual(placeFrames(frames, values))
    }))
  })
  test('a solid keeps neither the place nor the rotation that it was handed', () => {
    const at = used()
    const solid = new Solid('it', { shape: 'ball', radius: 0.1, hz: 0.1 }, PLAIN_SURFACE, at.position, at.rotation)
    at.position.x = 0
    at.rotation.w = 0
    expect([solid.px, solid.rotation]).toEqual([7, { x: 1, y: 2, z: 3, w: 4 }])
  })
})

test('a ray meets the first so many of a list alone', () => {
  const { position, rotation: upright } = somePose()
  const ball = (x: number): Solid => new Solid(`at ${x}`, { shape: 'ball', radius: 0.1, hz: 0.1 }, PLAIN_SURFACE, { ...position, x }, upright)
  const [far, near] = [ball(2), ball(1)]
  const ray = new Ray().from(0, 0, 0).along(1, 0, 0)
  ray.reach = 5
  const met = (count?: number): string | null => new Scene().cast(ray, [far, near], count) ? ray.solid!.id : null
  expect([met(), met(1), met(0)]).toEqual(['at 1', 'at 2', null])
})
