import { resting, rotate, somePose, type BodyState, type MutablePose, type MutableVector, type Vector } from '../geometry'
import { GRAVITY } from '../maths'
import type { BodyId, World } from '../physics'
import { framesOf, placeFrames, rideOn, within, type FrameSpec, type Robot } from '../robot'
import type { Held } from './holding'

const ZERO: Vector = { x: 0, y: 0, z: 0 }
const NOTHING: readonly Held[] = []

/** Where a joint's axis is in the world. */
export interface Axle { readonly axis: MutableVector, readonly origin: MutableVector }

/** The links of a robot's joints: where each is and how it moves, and what hangs on its joint. */
export class Links {
  readonly frames: readonly FrameSpec[]
  /** The state of each frame in the world. */
  readonly states: readonly BodyState[]
  /** Where each joint is, radians or metres, and what that makes of its frame's pose in the chassis' (`place`). */
  readonly values: Float64Array
  readonly poses: readonly MutablePose[]
  // What is worked out and used at once.
  private readonly seat = somePose()
  private readonly axle: Axle = { axis: { x: 0, y: 0, z: 0 }, origin: { x: 0, y: 0, z: 0 } }
  private readonly arm: MutableVector = { x: 0, y: 0, z: 0 }
  private readonly back: MutableVector = { x: 0, y: 0, z: 0 }
  private readonly load = { inertia: 0, gravity: 0 }

  constructor(private readonly robot: Robot, private readonly physics: World, private readonly id: BodyId, private readonly body: BodyState) {
    this.frames = framesOf(robot)
    this.values = Float64Array.from(this.frames, f => f.link.start)
    this.poses = this.frames.map(() => somePose())
    this.states = this.frames.map(() => resting(body.pose))
    this.place()
  }

  /** The chassis' state, or that of a joint's link. */
  stateOf(on: string | null): BodyState {
    const at = this.frames.findIndex(f => f.name === on)
    return at === -1 ? this.body : this.states[at]!
  }

  /** Takes what the joints are at over into the frames' poses. */
  place(): void { placeFrames(this.frames, this.values, this.poses) }

  /** Takes the chassis' state over into the frames. */
  ride(): void {
    for (let i = 0; i < this.poses.length; i++) rideOn(this.body, this.poses[i]!, this.states[i]!)
  }

  /** Which frame a device's things hang on. */
  carrierOf(device: string): number {
    const on = this.robot.devices.find(d => d.name === device)?.on
    return this.frames.findIndex(f => f.name === on)
  }

  /** Where a joint's axis is in the world, written into `into`. */
  axisInWorld(i: number, { axis: into, origin }: Axle): void {
    const { seat, axis, parent } = this.frames[i]!
    const { position, rotation } = within(parent === -1 ? this.body.pose : this.states[parent]!.pose, seat, this.seat)
    rotate(rotation, axis, into)
    origin.x = position.x
    origin.y = position.y
    origin.z = position.z
  }

  /** Whether a frame is another or hangs on it. */
  hangsOn(frame: number, on: number): boolean {
    for (let at = frame; at !== -1; at = this.frames[at]!.parent) if (at === on) return true
    return false
  }

  /** Inertia (kg m², kg) and torque or force of gravity (N m, N) of all that a joint carries, some held things among it. To be read before it is asked again. */
  loadOn(joint: number, held: readonly Held[]): { readonly inertia: number, readonly gravity: number } {
    const { load, axle, arm } = this
    load.inertia = 0
    load.gravity = 0
    this.axisInWorld(joint, axle)
    for (let i = 0; i < this.frames.length; i++) {
      if (!this.hangsOn(i, joint)) continue
      const { link, center } = this.frames[i]!
      const { position, rotation } = this.states[i]!.pose
      rotate(rotation, center, arm)
      arm.x = position.x + arm.x
      arm.y = position.y + arm.y
      arm.z = position.z + arm.z
      this.carries(joint, link.mass, link.inertia)
    }
    for (const h of held) {
      const carrier = this.carrierOf(h.device)
      if (carrier === -1 || !this.hangsOn(carrier, joint)) continue
      const { solid, mass } = h.thing
      arm.x = solid.px
      arm.y = solid.py
      arm.z = solid.pz
      this.carries(joint, mass, 0)
    }
    return load
  }

  /** A joint carries a mass more, where `arm` says. */
  private carries(joint: number, mass: number, inertia: number): void {
    const { load, axle: { axis: a, origin: o }, arm } = this
    const rx = arm.x - o.x
    const ry = arm.y - o.y
    const rz = arm.z - o.z
    const weight = -mass * GRAVITY
    if (this.frames[joint]!.link.motion === 'turning') {
      const along = rx * a.x + ry * a.y + rz * a.z
      load.inertia += inertia + mass * Math.max(0, rx * rx + ry * ry + rz * rz - along * along)
      // a · (r x F) with F straight down.
      load.gravity += weight * (a.x * ry - a.y * rx)
    } else {
      load.inertia += mass
      load.gravity += weight * a.z
    }
  }

  /** The robot feels that a link's speed changes. */
  react(joint: number, change: number): void {
    if (change === 0 || this.robot.fixed) return
    // What is held gives its own reaction where it is held.
    const reaction = change * this.loadOn(joint, NOTHING).inertia
    const { axle: { axis: a }, back } = this
    back.x = -a.x * reaction
    back.y = -a.y * reaction
    back.z = -a.z * reaction
    if (this.frames[joint]!.link.motion === 'turning') this.physics.push(this.id, ZERO, back)
    else this.physics.push(this.id, back, ZERO)
  }

  /** Links weigh where they are: the body's own weight is taken at its centre, the rest is a turning force. */
  weigh(dt: number): void {
    let x = 0
    let y = 0
    const { arm, back, body } = this
    for (let i = 0; i < this.frames.length; i++) {
      const { link, center } = this.frames[i]!
      const { position, rotation } = this.states[i]!.pose
      rotate(rotation, center, arm)
      const rx = position.x + arm.x - body.pose.position.x
      const ry = position.y + arm.y - body.pose.position.y
      const weight = -link.mass * GRAVITY * dt
      x += ry * weight
      y -= rx * weight
    }
    if (x === 0 && y === 0) return
    back.x = x
    back.y = y
    back.z = 0
    this.physics.push(this.id, ZERO, back)
  }
}
