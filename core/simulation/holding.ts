import type { LooseThing } from '../devices'
import { multiply, rotate, type BodyState, type Pose, type Quaternion, type Vector } from '../geometry'
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

  /** `stateOf`: the state of what a device is mounted on. */
  constructor(private readonly robot: Robot, private readonly physics: World, private readonly id: BodyId, private readonly body: BodyState, private readonly loose: readonly Loose[], private readonly stateOf: (on: string | null) => BodyState) {}

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

  /** Where a held thing belongs. */
  placeOf(h: Held): Pose {
    const device = this.robot.devices.find(d => d.name === h.device)!
    return within(within(this.stateOf(device.on).pose, seatOf(device.mount)), h.local)
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
    const now = this.physics.readPose(h.thing.body)
    const ex = target.position.x - now.position.x
    const ey = target.position.y - now.position.y
    const ez = target.position.z - now.position.z
    if (ex * ex + ey * ey + ez * ez > TORN * TORN) return false
    const { velocity: v, spin: w, pose } = this.body
    const rx = target.position.x - pose.position.x
    const ry = target.position.y - pose.position.y
    const rz = target.position.z - pose.position.z
    const before = this.physics.velocityOf(h.thing.body)
    const { mass } = h.thing
    // By how much the thing's speed must change against its place, its weight included; the robot gives way.
    let [jx, jy, jz] = this.impulseFor(mass, { x: rx, y: ry, z: rz }, {
      x: v.x + w.y * rz - w.z * ry + FOLLOWS * ex / dt - before.x,
      y: v.y + w.z * rx - w.x * rz + FOLLOWS * ey / dt - before.y,
      z: v.z + w.x * ry - w.y * rx + FOLLOWS * ez / dt - before.z + GRAVITY * dt,
    })
    const size = Math.sqrt(jx * jx + jy * jy + jz * jz)
    const most = h.strength * dt
    if (size > most) {
      jx *= most / size
      jy *= most / size
      jz *= most / size
      h.overload += dt
      if (h.overload > OVERLOAD_TIME) return false
    } else h.overload = 0
    const turn = turnBetween(now.rotation, target.rotation)
    this.physics.setMotion(h.thing.body, { x: before.x + jx / mass, y: before.y + jy / mass, z: before.z + jz / mass - GRAVITY * dt }, {
      x: w.x + FOLLOWS * turn.x / dt, y: w.y + FOLLOWS * turn.y / dt, z: w.z + FOLLOWS * turn.z / dt,
    })
    if (!this.robot.fixed) this.physics.pushAt(this.id, { x: -jx, y: -jy, z: -jz }, now.position)
    return true
  }

  /**
   * The impulse between the robot and a thing at r from its centre that changes their relative speed by
   * `change`: (1/m + 1/M - [r] I⁻¹ [r]) j = change, solved in the body's frame where I is diagonal.
   */
  private impulseFor(mass: number, r: Vector, change: Vector): [number, number, number] {
    if (this.robot.fixed) return [mass * change.x, mass * change.y, mass * change.z]
    const m = this.body.matrix
    const into = (a: Vector): [number, number, number] => [m[0]! * a.x + m[3]! * a.y + m[6]! * a.z, m[1]! * a.x + m[4]! * a.y + m[7]! * a.z, m[2]! * a.x + m[5]! * a.y + m[8]! * a.z]
    const [x, y, z] = into(r)
    const b = into(change)
    const { inertia: i } = this.robot
    const k = 1 / mass + 1 / this.robot.mass
    const j = solve3([
      k + z * z / i.y + y * y / i.z, -x * y / i.z, -x * z / i.y,
      -x * y / i.z, k + z * z / i.x + x * x / i.z, -y * z / i.x,
      -x * z / i.y, -y * z / i.x, k + y * y / i.x + x * x / i.y,
    ], b)
    return [m[0]! * j[0] + m[1]! * j[1] + m[2]! * j[2], m[3]! * j[0] + m[4]! * j[1] + m[5]! * j[2], m[6]! * j[0] + m[7]! * j[1] + m[8]! * j[2]]
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

/** Solves a 3 by 3 system (rows one after another) by Cramer's rule. */
function solve3(a: readonly number[], b: readonly [number, number, number]): [number, number, number] {
  const [a0, a1, a2, a3, a4, a5, a6, a7, a8] = a as [number, number, number, number, number, number, number, number, number]
  const c0 = a4 * a8 - a5 * a7
  const c1 = a5 * a6 - a3 * a8
  const c2 = a3 * a7 - a4 * a6
  const all = a0 * c0 + a1 * c1 + a2 * c2
  return [
    (b[0] * c0 + b[1] * (a2 * a7 - a1 * a8) + b[2] * (a1 * a5 - a2 * a4)) / all,
    (b[0] * c1 + b[1] * (a0 * a8 - a2 * a6) + b[2] * (a2 * a3 - a0 * a5)) / all,
    (b[0] * c2 + b[1] * (a1 * a6 - a0 * a7) + b[2] * (a0 * a4 - a1 * a3)) / all,
  ]
}

function inverse(pose: Pose): Pose {
  const rotation: Quaternion = { x: -pose.rotation.x, y: -pose.rotation.y, z: -pose.rotation.z, w: pose.rotation.w }
  const p = rotate(rotation, pose.position)
  return { position: { x: -p.x, y: -p.y, z: -p.z }, rotation }
}

/** The small turn from one rotation to another, as a vector (radians); exact to second order. */
function turnBetween(from: Quaternion, to: Quaternion): Vector {
  const q = multiply(to, { x: -from.x, y: -from.y, z: -from.z, w: from.w })
  const sign = q.w < 0 ? -2 : 2
  return { x: sign * q.x, y: sign * q.y, z: sign * q.z }
}

