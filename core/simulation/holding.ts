import type { LooseThing } from '../devices'
import { multiply, rotate, somePose, type BodyState, type MutableQuaternion, type MutableVector, type Pose, type Quaternion, type Vector } from '../geometry'
import { GRAVITY } from '../maths'
import type { BodyId, World } from '../physics'
import { seatOf, within, type Robot } from '../robot'
import type { Loose } from './build'

/** A thing that is held follows its place by this share of the way in one step. */
const FOLLOWS = 0.4
/** More than it can hold for this long, and a hand loses it, seconds. */
const OVERLOAD_TIME = 0.06
/** Farther from its place than this, and it has been torn out, metres. */
const TORN = 0.02
/** After letting go, the robot's own parts stay out of the thing's way for this long, seconds. */
const CLEAR_TIME = 0.3

/** A thing in a hand. */
export interface Held {
  readonly thing: Loose
  readonly device: string
  readonly strength: number
  /** The thing's pose in the frame of the device's seat. */
  readonly local: Pose
  overload: number
}

export interface HoldingSnapshot {
  readonly held: readonly { readonly thing: string, readonly device: string, readonly strength: number, readonly local: Pose, readonly overload: number }[]
  readonly clearing: readonly (readonly [string, number])[]
}

/**
 * What the robot's hands hold, and have just let go. A thing that is held follows its place by the force that it needs, and the robot feels that force; what is more than a hand can hold, it loses.
 */
export class Holding {
  readonly held: Held[] = []
  private readonly clearing = new Map<string, number>()
  /** Where each device sits, and the state of what it is mounted on. */
  private readonly seats: ReadonlyMap<string, { readonly state: BodyState, readonly seat: Pose }>
  /** Poses and vectors that are worked out and used at once. */
  private readonly hand = somePose()
  private readonly target = somePose()
  private readonly now = somePose()
  private readonly arm: MutableVector = { x: 0, y: 0, z: 0 }
  private readonly speed: MutableVector = { x: 0, y: 0, z: 0 }
  private readonly change: MutableVector = { x: 0, y: 0, z: 0 }
  private readonly turn: MutableVector = { x: 0, y: 0, z: 0 }
  private readonly rows = new Float64Array(9)

  /** `stateOf`: the state of what a device is mounted on. */
  constructor(private readonly robot: Robot, private readonly physics: World, private readonly id: BodyId, private readonly body: BodyState, private readonly loose: readonly Loose[], stateOf: (on: string | null) => BodyState) {
    this.seats = new Map(robot.devices.map(d => [d.name, { state: stateOf(d.on), seat: seatOf(d.mount) }]))
  }

  /** Whether there is anything to do in a step. */
  get works(): boolean { return this.held.length > 0 || this.clearing.size > 0 }

  /** What a device holds; null for nothing. */
  by(device: string): Loose | null { return this.held.find(h => h.device === device)?.thing ?? null }

  /** Whether a piece is in a hand. */
  has(piece: string): boolean {
    for (const { thing } of this.held) if (thing.name === piece) return true
    return false
  }

  /** Whether the robot's parts go through a piece: it holds it, or has just let it go. */
  passes(piece: string): boolean { return this.clearing.has(piece) || this.has(piece) }

  hold(thing: LooseThing, device: string, strength: number, seat: Pose): void {
    const piece = this.loose.find(p => p.name === thing.name)
    if (piece === undefined || this.held.some(h => h.thing === piece)) return
    const now = this.physics.readPose(piece.body)
    this.held.push({ thing: piece, device, strength, local: within(inverse(seat), now), overload: 0 })
    this.clearing.delete(piece.name)
    this.physics.setHeld(piece.body, true)
    this.physics.setWeightless(piece.body, true)
  }

  release(device: string): void {
    for (let i = this.held.length - 1; i >= 0; i--) {
      if (this.held[i]!.device !== device) continue
      this.clearing.set(this.held[i]!.thing.name, CLEAR_TIME)
      this.physics.setWeightless(this.held[i]!.thing.body, false)
      this.held.splice(i, 1)
    }
  }

  /** Takes a piece out of whatever holds it. */
  lose(piece: string): void {
    const hand = this.held.find(h => h.thing.name === piece)
    if (hand !== undefined) this.release(hand.device)
  }

  pull(thing: LooseThing, place: Vector, x: number, y: number, z: number): void {
    const piece = this.loose.find(p => p.name === thing.name)
    if (piece === undefined) return
    this.physics.pushAt(piece.body, { x, y, z }, place)
    if (!this.robot.fixed) this.physics.pushAt(this.id, { x: -x, y: -y, z: -z }, place)
  }

  /** Where a held thing belongs. To be read before it is asked of another. */
  placeOf(h: Held): Pose {
    const { state, seat } = this.seats.get(h.device)!
    return within(within(state.pose, seat, this.hand), h.local, this.target)
  }

  /** Carries what is held; what was let go meets the robot's parts again after a while. After the links went on, before the physics step. */
  step(dt: number): void {
    for (let i = this.held.length - 1; i >= 0; i--) if (!this.carry(this.held[i]!, dt)) this.release(this.held[i]!.device)
    for (const [name, left] of this.clearing) {
      if (left > dt) { this.clearing.set(name, left - dt); continue }
      this.clearing.delete(name)
      const piece = this.loose.find(p => p.name === name)
      if (piece !== undefined) this.physics.setHeld(piece.body, false)
    }
  }

  /** Moves a held thing to its place; false when it was too much. */
  private carry(h: Held, dt: number): boolean {
    const target = this.placeOf(h)
    const now = this.physics.readPose(h.thing.body, this.now)
    const ex = target.position.x - now.position.x
    const ey = target.position.y - now.position.y
    const ez = target.position.z - now.position.z
    if (ex * ex + ey * ey + ez * ez > TORN * TORN) return false
    const { velocity: v, spin: w, pose } = this.body
    const { arm: r, change: j, turn } = this
    r.x = target.position.x - pose.position.x
    r.y = target.position.y - pose.position.y
    r.z = target.position.z - pose.position.z
    const before = this.physics.velocityOf(h.thing.body, this.speed)
    const { mass } = h.thing
    // By how much the thing's speed must change against its place, its weight included; the robot gives way.
    j.x = v.x + w.y * r.z - w.z * r.y + FOLLOWS * ex / dt - before.x
    j.y = v.y + w.z * r.x - w.x * r.z + FOLLOWS * ey / dt - before.y
    j.z = v.z + w.x * r.y - w.y * r.x + FOLLOWS * ez / dt - before.z + GRAVITY * dt
    this.toImpulse(mass, r, j)
    const size = Math.sqrt(j.x * j.x + j.y * j.y + j.z * j.z)
    const most = h.strength * dt
    if (size > most) {
      j.x *= most / size
      j.y *= most / size
      j.z *= most / size
      h.overload += dt
      if (h.overload > OVERLOAD_TIME) return false
    } else h.overload = 0
    turnBetween(now.rotation, target.rotation, turn)
    turn.x = w.x + FOLLOWS * turn.x / dt
    turn.y = w.y + FOLLOWS * turn.y / dt
    turn.z = w.z + FOLLOWS * turn.z / dt
    const { speed } = this
    speed.x = before.x + j.x / mass
    speed.y = before.y + j.y / mass
    speed.z = before.z + j.z / mass - GRAVITY * dt
    this.physics.setMotion(h.thing.body, speed, turn)
    if (this.robot.fixed) return true
    j.x = -j.x
    j.y = -j.y
    j.z = -j.z
    this.physics.pushAt(this.id, j, now.position)
    return true
  }

  /**
   * Makes of a change of relative speed the impulse between the robot and a thing at r from its centre that brings it about:
   * (1/m + 1/M - [r] I⁻¹ [r]) j = change, solved in the body's frame where I is diagonal.
   */
  private toImpulse(mass: number, r: MutableVector, j: MutableVector): void {
    if (this.robot.fixed) {
      j.x *= mass
      j.y *= mass
      j.z *= mass
      return
    }
    const m = this.body.matrix
    turnedBack(m, r)
    turnedBack(m, j)
    const { x, y, z } = r
    const { inertia: i } = this.robot
    const k = 1 / mass + 1 / this.robot.mass
    const { rows } = this
    rows[0] = k + z * z / i.y + y * y / i.z
    rows[1] = rows[3] = -x * y / i.z
    rows[2] = rows[6] = -x * z / i.y
    rows[4] = k + z * z / i.x + x * x / i.z
    rows[5] = rows[7] = -y * z / i.x
    rows[8] = k + y * y / i.x + x * x / i.y
    solve3(rows, j)
    const { x: a, y: b, z: c } = j
    j.x = m[0]! * a + m[1]! * b + m[2]! * c
    j.y = m[3]! * a + m[4]! * b + m[5]! * c
    j.z = m[6]! * a + m[7]! * b + m[8]! * c
  }

  snapshot(): HoldingSnapshot {
    return {
      held: this.held.map(h => ({ thing: h.thing.name, device: h.device, strength: h.strength, local: h.local, overload: h.overload })),
      clearing: [...this.clearing],
    }
  }

  restore({ held, clearing }: HoldingSnapshot): void {
    this.held.splice(0, this.held.length, ...held.map(h => ({ ...h, thing: this.loose.find(p => p.name === h.thing)! })))
    this.clearing.clear()
    for (const [name, left] of clearing) this.clearing.set(name, left)
  }
}

/** Turns a vector of the world into a body's frame. */
function turnedBack(m: Float64Array, v: MutableVector): void {
  const { x, y, z } = v
  v.x = m[0]! * x + m[3]! * y + m[6]! * z
  v.y = m[1]! * x + m[4]! * y + m[7]! * z
  v.z = m[2]! * x + m[5]! * y + m[8]! * z
}

/** Solves a 3 by 3 system (rows one after another) by Cramer's rule: what `b` is becomes what solves it. */
function solve3(a: Float64Array, b: MutableVector): void {
  const a0 = a[0]!, a1 = a[1]!, a2 = a[2]!, a3 = a[3]!, a4 = a[4]!, a5 = a[5]!, a6 = a[6]!, a7 = a[7]!, a8 = a[8]!
  const c0 = a4 * a8 - a5 * a7
  const c1 = a5 * a6 - a3 * a8
  const c2 = a3 * a7 - a4 * a6
  const all = a0 * c0 + a1 * c1 + a2 * c2
  const { x, y, z } = b
  b.x = (x * c0 + y * (a2 * a7 - a1 * a8) + z * (a1 * a5 - a2 * a4)) / all
  b.y = (x * c1 + y * (a0 * a8 - a2 * a6) + z * (a2 * a3 - a0 * a5)) / all
  b.z = (x * c2 + y * (a1 * a6 - a0 * a7) + z * (a0 * a4 - a1 * a3)) / all
}

function inverse(pose: Pose): Pose {
  const rotation: Quaternion = { x: -pose.rotation.x, y: -pose.rotation.y, z: -pose.rotation.z, w: pose.rotation.w }
  const p = rotate(rotation, pose.position)
  return { position: { x: -p.x, y: -p.y, z: -p.z }, rotation }
}

const BACK: MutableQuaternion = { x: 0, y: 0, z: 0, w: 1 }
const BETWEEN: MutableQuaternion = { x: 0, y: 0, z: 0, w: 1 }

/** The small turn from one rotation to another, as a vector (radians); exact to second order. */
function turnBetween(from: Quaternion, to: Quaternion, into: MutableVector): void {
  BACK.x = -from.x
  BACK.y = -from.y
  BACK.z = -from.z
  BACK.w = from.w
  const q = multiply(to, BACK, BETWEEN)
  const sign = q.w < 0 ? -2 : 2
  into.x = sign * q.x
  into.y = sign * q.y
  into.z = sign * q.z
}
