import type { Motion, Work } from '../devices'
import { resting, rotate, somePose, type Scene, type Solid, type BodyState, type MutablePose, type MutableVector, type Pose, type Vector } from '../geometry'
import { GRAVITY } from '../maths'
import type { BodyId, World } from '../physics'
import { framesOf, placeFrames, rideOn, seatOf, within, type FrameSpec, type Robot, type RobotDevice } from '../robot'
import type { Loose, WorldPart, WorldPiece } from './build'
import { Holding, type HoldingSnapshot } from './holding'
import { Pressing, type Drawn, type Way } from './pressing'

/** Links slower than this wake nothing, radians or metres a second. */
const STILL = 1e-4

const ZERO: Vector = { x: 0, y: 0, z: 0 }
/** Where jaws slide and rollers turn, in their part's frame. */
const ACROSS: Vector = { x: 0, y: 1, z: 0 }
const UPWARD: Vector = { x: 0, y: 0, z: 1 }

const goes = ({ motion }: Way): boolean => motion.speed !== 0
const stands = ({ motion }: Way): boolean => Math.abs(motion.speed) <= STILL

function copy({ x, y, z }: Vector, into: MutableVector): void {
  into.x = x
  into.y = y
  into.z = z
}

interface OwnWay extends Way {
  readonly device: string
  /** The frame that it moves; -1 for jaws and rollers. */
  readonly frame: number
  /** The part that turns in its place; null for joints and jaws. */
  readonly roller: number | null
  readonly start: number
  /** Its speed before the step, and its ends. */
  before: number
  from: number
  to: number
}

function makeWay(device: string, frame: number, start: number, turning: boolean, rubs: Way['rubs']): OwnWay {
  return { device, frame, roller: null, start, motion: { at: start, speed: 0 }, give: 0, turning, axis: { x: 0, y: 0, z: 0 }, origin: { x: 0, y: 0, z: 0 }, rubs, before: 0, from: -Infinity, to: Infinity }
}

export interface LimbsSnapshot extends HoldingSnapshot {
  readonly motions: readonly { readonly at: number, readonly speed: number }[]
  readonly pressing: unknown
  readonly moved: boolean
}

/**
 * The robot's moving parts: where each frame is, what hangs on it, and how fast each goes on with what is in its way.
 */
export class Limbs {
  readonly frames: readonly FrameSpec[]
  /** The state of each frame in the world. */
  readonly states: readonly BodyState[]
  /** Ways of the frames, one each, then of jaws and rollers. */
  private readonly ways: OwnWay[]
  /** What moves each part that meets others; empty for what rides on the chassis. */
  private readonly drawn: readonly (readonly Drawn[])[]
  private readonly pressing: Pressing
  private readonly values: Float64Array
  private readonly poses: MutablePose[]
  /** Poses of parts in their frames: jaws have one of their own once they have moved. */
  private readonly locals: Pose[]
  /** What the hands hold. */
  readonly holding: Holding
  private readonly loose: readonly Loose[]
  private moved = false
  /** Parts that can move against the chassis: those on links, and jaws. */
  private readonly moving: readonly number[]

  /** Poses and vectors that are worked out and used at once. */
  private readonly placed = somePose()
  private readonly arm: MutableVector = { x: 0, y: 0, z: 0 }
  private readonly axle = { axis: { x: 0, y: 0, z: 0 }, origin: { x: 0, y: 0, z: 0 } }
  private readonly back: MutableVector = { x: 0, y: 0, z: 0 }
  private readonly load = { inertia: 0, gravity: 0 }
  private readonly passes = (piece: string): boolean => this.holding.passes(piece)

  constructor(private readonly robot: Robot, private readonly physics: World, private readonly id: BodyId, private readonly body: BodyState, private readonly parts: readonly WorldPart[], pieces: readonly WorldPiece[], solids: readonly Solid[]) {
    this.frames = framesOf(robot)
    this.values = Float64Array.from(this.frames, f => f.link.start)
    this.poses = this.frames.map(() => somePose())
    placeFrames(this.frames, this.values, this.poses)
    this.locals = parts.map(p => p.local)
    this.states = this.frames.map(() => resting(body.pose))
    this.moving = movingParts(parts)
    this.loose = pieces.filter((p): p is Loose => p.body !== null)
    this.holding = new Holding(robot, physics, id, body, this.loose, on => this.stateOf(on))
    this.ways = [
      ...this.frames.map((f, i): OwnWay => makeWay(f.name, i, f.link.start, f.link.motion === 'turning', null)),
      ...robot.devices.flatMap(d => d.kind.jaws === undefined ? [] : [makeWay(d.name, -1, d.kind.jaws(d.parameters), false, null)]),
      ...parts.flatMap((p, i) => p.rubs !== null ? [{ ...makeWay(p.device!, -1, 0, true, p.rubs), roller: i }] : []),
    ]
    this.drawn = parts.map((part, i) => this.ways.flatMap((way): Drawn[] => {
      if (way.frame !== -1) return part.frame !== -1 && this.hangsOn(part.frame, way.frame) ? [{ way, rate: 1 }] : []
      const rate = way.roller === null ? part.device === way.device ? part.opens : 0 : way.roller === i ? 1 : 0
      return rate === 0 ? [] : [{ way, rate }]
    }))
    this.pressing = new Pressing(robot, physics, id, body, this.loose, solids)
  }

  /** Names of what stood fast against a moving part in the last step. */
  get met(): ReadonlySet<string> { return this.pressing.met }

  /** Whether there is anything to do in a step. */
  get works(): boolean { return this.frames.length > 0 || this.moving.length > 0 || this.holding.works }

  /** The chassis' state, or that of a joint's link. */
  stateOf(on: string | null): BodyState {
    const at = this.frames.findIndex(f => f.name === on)
    return at === -1 ? this.body : this.states[at]!
  }

  /** World poses of the parts that can move against the chassis, in the order of the parts. */
  movingParts(): readonly Pose[] {
    return this.moving.map(i => this.partIn(i))
  }

  /** Takes the body's pose over into the frames, and into what sensors meet of the robot. */
  place(): void {
    this.ride()
    for (let i = 0; i < this.parts.length; i++) {
      const { solid } = this.parts[i]!
      if (solid === null) continue
      const { position, rotation } = this.poseOf(i)
      solid.place(position, rotation)
    }
  }

  private ride(): void {
    for (let i = 0; i < this.poses.length; i++) rideOn(this.body, this.poses[i]!, this.states[i]!)
  }

  /** Place and speed of what a device moves; null for one that moves nothing. */
  motionOf(device: string): Motion | null { return this.ways.find(w => w.device === device)?.motion ?? null }

  /** The workbench of one device that acts; made once, used in every step. */
  workFor(device: RobotDevice, channel: number, commands: Float64Array, dt: number, scene: Scene, clip: () => void): Work {
    const own = this.frames.findIndex(f => f.name === device.name)
    const way = this.ways.find(w => w.device === device.name) ?? makeWay(device.name, -1, 0, false, null)
    const seat = seatOf(device.mount)
    const carrier = this.stateOf(device.on)
    return {
      commands, channel, dt, scene, clip, body: carrier,
      loose: this.loose,
      load: () => this.loadOn(own, true),
      go: (speed, inertia, from, to) => {
        way.before = way.motion.speed
        way.motion.speed = speed
        way.give = 1 / inertia
        way.from = from
        way.to = to
      },
      hold: (thing, strength) => this.holding.hold(thing, device.name, strength, within(carrier.pose, seat)),
      release: () => this.holding.release(device.name),
      held: () => this.holding.by(device.name),
      pull: (thing, at, x, y, z) => this.holding.pull(thing, at, x * dt, y * dt, z * dt),
      pushes: this.physics.pushesOn(this.id),
      push: (impulse, turning) => this.physics.push(this.id, impulse, turning),
    }
  }

  /** Which frame a device's things hang on. */
  private carrierIndex(device: string): number {
    const on = this.robot.devices.find(d => d.name === device)?.on
    return this.frames.findIndex(f => f.name === on)
  }

  /** Where a joint's axis is in the world, written into `into`. */
  private axisInWorld(i: number, into: { readonly axis: MutableVector, readonly origin: MutableVector }): void {
    const { seat, axis, parent } = this.frames[i]!
    const { position, rotation } = within(parent === -1 ? this.body.pose : this.states[parent]!.pose, seat, this.placed)
    rotate(rotation, axis, into.axis)
    copy(position, into.origin)
  }

  /** Whether a frame is another or hangs on it. */
  private hangsOn(frame: number, on: number): boolean {
    for (let at = frame; at !== -1; at = this.frames[at]!.parent) if (at === on) return true
    return false
  }

  /** Inertia (kg m², kg) and torque or force of gravity (N m, N) of all that a joint carries. To be read before it is asked again. */
  private loadOn(joint: number, withHeld: boolean): { readonly inertia: number, readonly gravity: number } {
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
    if (!withHeld) return load
    for (const h of this.holding.held) {
      const carrier = this.carrierIndex(h.device)
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

  /** All ways go on by their step: as fast as what is in their way lets them. */
  private go(dt: number): void {
    const { ways, pressing } = this
    pressing.begin()
    if (ways.some(goes)) {
      for (const way of ways) this.aim(way)
      for (let i = 0; i < this.parts.length; i++) {
        const drawn = this.drawn[i]!
        if (drawn.length > 0) pressing.find(i, this.parts[i]!, this.poseOf(i), drawn, dt, this.passes)
      }
      // What is held is pressed against what stands fast as if it were of the hand.
      this.holding.held.forEach((h, i) => {
        const { solid } = h.thing
        pressing.find(this.parts.length + i, { shape: solid.shape, friction: solid.surface.friction }, this.holding.placeOf(h), this.drawnWith(h.device), dt, () => true)
      })
      pressing.press()
    }
    for (const way of ways) {
      const { motion } = way
      const was = motion.at
      motion.at += motion.speed * dt
      if (motion.at < way.from) { motion.at = way.from; motion.speed = Math.max(0, motion.speed) }
      if (motion.at > way.to) { motion.at = way.to; motion.speed = Math.min(0, motion.speed) }
      if (motion.at === was && motion.speed === way.before) continue
      if (way.frame !== -1) {
        this.values[way.frame] = motion.at
        this.react(way.frame, motion.speed - way.before)
      } else if (way.roller === null) this.slideJaws(way)
      if (motion.at !== was && way.roller === null) this.moved = true
    }
  }

  /** The joints that carry what a device holds. */
  private drawnWith(device: string): readonly Drawn[] {
    const carrier = this.carrierIndex(device)
    return this.ways.flatMap(way => way.frame !== -1 && carrier !== -1 && this.hangsOn(carrier, way.frame) ? [{ way, rate: 1 }] : [])
  }

  /** Where a part is in the world as the step begins. To be read before another is asked for. */
  private poseOf(part: number): Pose { return this.partIn(part, this.placed) }

  private partIn(part: number, into?: MutablePose): Pose {
    const { frame } = this.parts[part]!
    return within(frame === -1 ? this.body.pose : this.states[frame]!.pose, this.locals[part]!, into)
  }

  /** Where a way's axis is as the step begins. */
  private aim(way: OwnWay): void {
    if (way.frame !== -1) {
      this.axisInWorld(way.frame, way)
      return
    }
    const at = way.roller ?? this.parts.findIndex(p => p.device === way.device)
    const { position, rotation } = this.poseOf(at)
    rotate(rotation, way.roller === null ? ACROSS : UPWARD, way.axis)
    copy(position, way.origin)
  }

  private slideJaws(way: OwnWay): void {
    const { arm, back } = this
    for (let i = 0; i < this.parts.length; i++) {
      const { device, opens, local } = this.parts[i]!
      if (device !== way.device || opens === 0) continue
      if (this.locals[i] === local) this.locals[i] = { position: { x: local.position.x, y: local.position.y, z: local.position.z }, rotation: local.rotation }
      back.x = 0
      back.y = opens * (way.motion.at - way.start)
      back.z = 0
      rotate(local.rotation, back, arm)
      const into: MutableVector = this.locals[i]!.position
      into.x = local.position.x + arm.x
      into.y = local.position.y + arm.y
      into.z = local.position.z + arm.z
    }
  }

  /** The robot feels that a link's speed changes. */
  private react(joint: number, change: number): void {
    if (change === 0 || this.robot.fixed) return
    // What is held gives its own reaction where it is held.
    const reaction = change * this.loadOn(joint, false).inertia
    const { axle: { axis: a }, back } = this
    back.x = -a.x * reaction
    back.y = -a.y * reaction
    back.z = -a.z * reaction
    if (this.frames[joint]!.link.motion === 'turning') this.physics.push(this.id, ZERO, back)
    else this.physics.push(this.id, back, ZERO)
  }

  /** After the devices acted, before the physics step: parts go where they belong, hands carry, weights pull. */
  step(dt: number): void {
    // The library meets the parts where they are as the step begins: what they push has gone by its end, as they have.
    if (this.moved) this.rearrange()
    this.ride()
    this.go(dt)
    if (this.moved) {
      placeFrames(this.frames, this.values, this.poses)
      this.ride()
      this.wakeNear()
    }
    if (!this.robot.fixed) this.weigh(dt)
    this.holding.step(dt)
  }

  private rearrange(): void {
    this.moved = false
    for (let i = 0; i < this.parts.length; i++) {
      const { frame, shape, local: still } = this.parts[i]!
      const local = this.locals[i]!
      if (frame === -1 && local === still) continue
      this.physics.movePart(this.id, i, shape, frame === -1 ? local : within(this.poses[frame]!, local, this.placed))
    }
  }

  /** A thing asleep does not feel a part that comes upon it: it is woken first. */
  private wakeNear(): void {
    if (this.ways.every(stands)) return
    for (const part of this.parts) {
      if (part.solid === null) continue
      for (const piece of this.loose) {
        const dx = piece.solid.px - part.solid.px
        const dy = piece.solid.py - part.solid.py
        const dz = piece.solid.pz - part.solid.pz
        const near = piece.solid.bound + part.solid.bound + 0.01
        if (dx * dx + dy * dy + dz * dz < near * near && this.physics.isAsleep(piece.body)) this.physics.wake(piece.body)
      }
    }
  }

  /** Links weigh where they are: the body's own weight is taken at its centre, the rest is a turning force. */
  private weigh(dt: number): void {
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

  snapshot(): LimbsSnapshot {
    return {
      motions: this.ways.map(w => ({ ...w.motion })), pressing: this.pressing.snapshot(), moved: this.moved,
      ...this.holding.snapshot(),
    }
  }

  restore(state: LimbsSnapshot): void {
    state.motions.forEach((m, i) => {
      const way = this.ways[i]!
      Object.assign(way.motion, m)
      if (way.frame !== -1) this.values[way.frame] = m.at
      else if (way.roller === null) this.slideJaws(way)
    })
    this.pressing.restore(state.pressing)
    this.holding.restore(state)
    placeFrames(this.frames, this.values, this.poses)
    this.moved = state.moved
  }
}

/** Indices of the parts that can move against the chassis. */
export function movingParts(parts: readonly Pick<WorldPart, 'frame' | 'device' | 'pad' | 'solid'>[]): readonly number[] {
  return parts.flatMap((p, i) => p.frame !== -1 || (p.device !== null && !p.pad) ? [i] : [])
}

/** Shapes of those parts, in the order of the tape, and the device that each is of. */
export const movingShapes = (parts: readonly WorldPart[]): readonly Pick<WorldPart, 'shape' | 'device'>[] =>
  movingParts(parts).map(i => ({ shape: parts[i]!.shape, device: parts[i]!.device }))
