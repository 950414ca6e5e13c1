import type { LooseThing, Motion, Work } from '../devices'
import { multiply, rotate, type Scene, type Solid, type BodyState, type Pose, type Quaternion, type Vector } from '../geometry'
import type { BodyId, World } from '../physics'
import { axisOf, framesOf, placeFrames, rideOn, seatOf, within, type FrameSpec, type Robot, type RobotDevice } from '../robot'
import type { WorldPart, WorldPiece } from './build'
import { Pressing, type Drawn, type Way } from './pressing'

const GRAVITY = 9.81
/** A thing that is held follows its place by this share of the way in one step. */
const FOLLOWS = 0.4
/** More than it can hold for this long, and a hand loses it, seconds. */
const OVERLOAD_TIME = 0.06
/** Farther from its place than this, and it has been torn out, metres. */
const TORN = 0.02
/** After letting go, the robot's own parts stay out of the thing's way for this long, seconds. */
const CLEAR_TIME = 0.3
/** Links slower than this wake nothing, radians or metres a second. */
const STILL = 1e-4

interface Held {
  readonly thing: WorldPiece & { readonly body: BodyId }
  readonly device: string
  readonly strength: number
  /** The thing's pose in the frame of the device's seat. */
  readonly local: Pose
  overload: number
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
  const zero = { x: 0, y: 0, z: 0 }
  return { device, frame, roller: null, start, motion: { at: start, speed: 0 }, give: 0, turning, axis: zero, origin: zero, rubs, before: 0, from: -Infinity, to: Infinity }
}

export interface LimbsSnapshot {
  readonly motions: readonly { readonly at: number, readonly speed: number }[]
  readonly pressing: unknown
  readonly moved: boolean
  readonly held: readonly { readonly thing: string, readonly device: string, readonly strength: number, readonly local: Pose, readonly overload: number }[]
  readonly clearing: readonly (readonly [string, number])[]
}

/**
 * The robot's moving parts: where each frame is, what hangs on it, and what the hands hold. A thing
 * that is held follows its place by the force that it needs, and the robot feels that force.
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
  private poses: Pose[]
  /** Poses of parts in their frames: a claw's jaws move. */
  private readonly locals: Pose[]
  private readonly held: Held[] = []
  private readonly clearing = new Map<string, number>()
  private readonly loose: readonly (WorldPiece & { readonly body: BodyId })[]
  private moved = false
  /** Parts that can move against the chassis: those on links, and jaws. */
  private readonly moving: readonly number[]

  constructor(private readonly robot: Robot, private readonly physics: World, private readonly id: BodyId, private readonly body: BodyState, private readonly parts: readonly WorldPart[], pieces: readonly WorldPiece[], solids: readonly Solid[]) {
    this.frames = framesOf(robot)
    this.values = Float64Array.from(this.frames, f => f.link.start)
    this.poses = placeFrames(this.frames, this.values)
    this.locals = parts.map(p => p.local)
    this.states = this.frames.map(() => ({ pose: body.pose, matrix: new Float64Array(9), velocity: { x: 0, y: 0, z: 0 }, spin: { x: 0, y: 0, z: 0 } }))
    this.moving = movingParts(parts)
    this.loose = pieces.filter((p): p is WorldPiece & { body: BodyId } => p.body !== null)
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
  get works(): boolean { return this.frames.length > 0 || this.moving.length > 0 || this.held.length > 0 || this.clearing.size > 0 }

  /** The chassis' state, or that of a joint's link. */
  stateOf(on: string | null): BodyState {
    const at = this.frames.findIndex(f => f.name === on)
    return at === -1 ? this.body : this.states[at]!
  }

  /** What each hand holds, by its device. */
  holding(): readonly { readonly device: string, readonly piece: string }[] { return this.held.map(h => ({ device: h.device, piece: h.thing.name })) }

  /** Whether a piece is in the robot's hands. */
  holds(piece: string): boolean { return this.held.some(h => h.thing.name === piece) }

  /** World poses of the parts that can move against the chassis, in the order of the parts. */
  movingParts(): readonly Pose[] {
    return this.moving.map(i => {
      const part = this.parts[i]!
      return within(part.frame === -1 ? this.body.pose : this.states[part.frame]!.pose, this.locals[i]!)
    })
  }

  /** Takes the body's pose over into the frames, and into what sensors meet of the robot. */
  place(): void {
    this.frames.forEach((_, i) => rideOn(this.body, this.poses[i]!, this.states[i]!))
    this.parts.forEach((part, i) => {
      if (part.solid === null) return
      const carrier = part.frame === -1 ? this.body.pose : this.states[part.frame]!.pose
      const { position, rotation } = within(carrier, this.locals[i]!)
      part.solid.place(position, rotation)
    })
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
      hold: (thing, strength) => this.hold(thing, device.name, strength, within(carrier.pose, seat)),
      release: () => this.release(device.name),
      held: () => this.held.find(h => h.device === device.name)?.thing ?? null,
      pull: (thing, at, x, y, z) => this.pull(thing, at, x * dt, y * dt, z * dt),
      pushes: this.physics.pushesOn(this.id),
      push: (impulse, turning) => this.physics.push(this.id, impulse, turning),
    }
  }

  /** Which frame a device's things hang on. */
  private carrierIndex(device: string): number {
    const on = this.robot.devices.find(d => d.name === device)?.on
    return this.frames.findIndex(f => f.name === on)
  }

  private axisInWorld(i: number): { axis: Vector, origin: Vector } {
    const { mount, link, parent } = this.frames[i]!
    const carrier = parent === -1 ? this.body : this.states[parent]!
    const [x, y, z] = axisOf(link.axis)
    const seat = within(carrier.pose, seatOf(mount))
    return { axis: rotate(seat.rotation, { x, y, z }), origin: seat.position }
  }

  /** Whether a frame is another or hangs on it. */
  private hangsOn(frame: number, on: number): boolean {
    for (let at = frame; at !== -1; at = this.frames[at]!.parent) if (at === on) return true
    return false
  }

  /** Masses that a joint carries, each at its place in the world. */
  private *masses(joint: number, withHeld: boolean): Generator<{ mass: number, inertia: number, x: number, y: number, z: number }> {
    for (let i = 0; i < this.frames.length; i++) {
      if (!this.hangsOn(i, joint)) continue
      const { link } = this.frames[i]!
      const [x, y, z] = link.center
      const p = rotate(this.states[i]!.pose.rotation, { x, y, z })
      const { position } = this.states[i]!.pose
      yield { mass: link.mass, inertia: link.inertia, x: position.x + p.x, y: position.y + p.y, z: position.z + p.z }
    }
    if (!withHeld) return
    for (const h of this.held) {
      const carrier = this.carrierIndex(h.device)
      if (carrier === -1 || !this.hangsOn(carrier, joint)) continue
      const { solid, mass } = h.thing
      yield { mass, inertia: 0, x: solid.px, y: solid.py, z: solid.pz }
    }
  }

  private loadOn(joint: number, withHeld: boolean): { inertia: number, gravity: number } {
    const { axis: a, origin: o } = this.axisInWorld(joint)
    const turning = this.frames[joint]!.link.motion === 'turning'
    let inertia = 0
    let gravity = 0
    for (const m of this.masses(joint, withHeld)) {
      const rx = m.x - o.x
      const ry = m.y - o.y
      const rz = m.z - o.z
      const weight = -m.mass * GRAVITY
      if (turning) {
        const along = rx * a.x + ry * a.y + rz * a.z
        inertia += m.inertia + m.mass * Math.max(0, rx * rx + ry * ry + rz * rz - along * along)
        // a · (r x F) with F straight down.
        gravity += weight * (a.x * ry - a.y * rx)
      } else {
        inertia += m.mass
        gravity += weight * a.z
      }
    }
    return { inertia, gravity }
  }

  /** All ways go on by their step: as fast as what is in their way lets them. */
  private go(dt: number): void {
    const { ways, pressing } = this
    pressing.begin()
    if (ways.some(w => w.motion.speed !== 0)) {
      ways.forEach(way => this.aim(way))
      this.drawn.forEach((drawn, i) => {
        if (drawn.length > 0) pressing.find(i, this.parts[i]!, this.poseOf(i), drawn, dt, piece => this.passes(piece))
      })
      // What is held is pressed against what stands fast as if it were of the hand.
      this.held.forEach((h, i) => {
        const { solid } = h.thing
        pressing.find(this.parts.length + i, { shape: solid.shape, friction: solid.surface.friction }, this.placeOf(h), this.drawnWith(h.device), dt, () => true)
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

  /** Where a part is in the world as the step begins. */
  private poseOf(part: number): Pose {
    const { frame } = this.parts[part]!
    return within(frame === -1 ? this.body.pose : this.states[frame]!.pose, this.locals[part]!)
  }

  /** Where a way's axis is as the step begins. */
  private aim(way: OwnWay): void {
    if (way.frame !== -1) {
      Object.assign(way, this.axisInWorld(way.frame))
      return
    }
    const at = way.roller ?? this.parts.findIndex(p => p.device === way.device)
    const pose = this.poseOf(at)
    way.axis = rotate(pose.rotation, way.roller === null ? { x: 0, y: 1, z: 0 } : { x: 0, y: 0, z: 1 })
    way.origin = pose.position
  }

  private slideJaws(way: OwnWay): void {
    this.parts.forEach((part, i) => {
      if (part.device !== way.device || part.opens === 0) return
      const left = rotate(part.local.rotation, { x: 0, y: part.opens * (way.motion.at - way.start), z: 0 })
      const { x, y, z } = part.local.position
      this.locals[i] = { position: { x: x + left.x, y: y + left.y, z: z + left.z }, rotation: part.local.rotation }
    })
  }

  /** Whether the robot's parts go through a piece: it holds it, or has just let it go. */
  private passes(piece: string): boolean { return this.clearing.has(piece) || this.holds(piece) }

  /** The robot feels that a link's speed changes. */
  private react(joint: number, change: number): void {
    if (change === 0 || this.robot.fixed) return
    // What is held gives its own reaction where it is held.
    const reaction = change * this.loadOn(joint, false).inertia
    const { axis: a } = this.axisInWorld(joint)
    const zero = { x: 0, y: 0, z: 0 }
    const back = { x: -a.x * reaction, y: -a.y * reaction, z: -a.z * reaction }
    if (this.frames[joint]!.link.motion === 'turning') this.physics.push(this.id, zero, back)
    else this.physics.push(this.id, back, zero)
  }

  private hold(thing: LooseThing, device: string, strength: number, seat: Pose): void {
    const piece = this.loose.find(p => p.name === thing.name)
    if (piece === undefined || this.held.some(h => h.thing === piece)) return
    const now = this.physics.readPose(piece.body)
    this.held.push({ thing: piece, device, strength, local: within(inverse(seat), now), overload: 0 })
    this.clearing.delete(piece.name)
    this.physics.setHeld(piece.body, true)
    this.physics.setWeightless(piece.body, true)
  }

  private release(device: string): void {
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

  private pull(thing: LooseThing, place: Vector, x: number, y: number, z: number): void {
    const piece = this.loose.find(p => p.name === thing.name)
    if (piece === undefined) return
    this.physics.pushAt(piece.body, { x, y, z }, place)
    if (!this.robot.fixed) this.physics.pushAt(this.id, { x: -x, y: -y, z: -z }, place)
  }

  /** After the devices acted, before the physics step: parts go where they belong, hands carry, weights pull. */
  step(dt: number): void {
    // The library meets the parts where they are as the step begins: what they push has gone by its end, as they have.
    if (this.moved) this.rearrange()
    this.frames.forEach((_, i) => rideOn(this.body, this.poses[i]!, this.states[i]!))
    this.go(dt)
    if (this.moved) {
      this.poses = placeFrames(this.frames, this.values)
      this.frames.forEach((_, i) => rideOn(this.body, this.poses[i]!, this.states[i]!))
      this.wakeNear()
    }
    if (!this.robot.fixed) this.weigh(dt)
    for (let i = this.held.length - 1; i >= 0; i--) if (!this.carry(this.held[i]!, dt)) this.release(this.held[i]!.device)
    for (const [name, left] of this.clearing) {
      if (left > dt) { this.clearing.set(name, left - dt); continue }
      this.clearing.delete(name)
      const piece = this.loose.find(p => p.name === name)
      if (piece !== undefined) this.physics.setHeld(piece.body, false)
    }
  }

  private rearrange(): void {
    this.moved = false
    this.parts.forEach((part, i) => {
      const local = this.locals[i]!
      if (part.frame === -1 && local === part.local) return
      this.physics.movePart(this.id, i, part.shape, part.frame === -1 ? local : within(this.poses[part.frame]!, local))
    })
  }

  /** A thing asleep does not feel a part that comes upon it: it is woken first. */
  private wakeNear(): void {
    if (this.ways.every(w => Math.abs(w.motion.speed) <= STILL)) return
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
    this.frames.forEach(({ link }, i) => {
      const [cx, cy, cz] = link.center
      const p = rotate(this.states[i]!.pose.rotation, { x: cx, y: cy, z: cz })
      const rx = this.states[i]!.pose.position.x + p.x - this.body.pose.position.x
      const ry = this.states[i]!.pose.position.y + p.y - this.body.pose.position.y
      const weight = -link.mass * GRAVITY * dt
      x += ry * weight
      y -= rx * weight
    })
    if (x !== 0 || y !== 0) this.physics.push(this.id, { x: 0, y: 0, z: 0 }, { x, y, z: 0 })
  }

  /** Where a held thing belongs. */
  private placeOf(h: Held): Pose {
    const device = this.robot.devices.find(d => d.name === h.device)!
    return within(within(this.stateOf(device.on).pose, seatOf(device.mount)), h.local)
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

  snapshot(): LimbsSnapshot {
    return {
      motions: this.ways.map(w => ({ ...w.motion })), pressing: this.pressing.snapshot(), moved: this.moved,
      held: this.held.map(h => ({ thing: h.thing.name, device: h.device, strength: h.strength, local: h.local, overload: h.overload })),
      clearing: [...this.clearing],
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
    this.held.splice(0, this.held.length, ...state.held.map(h => ({ ...h, thing: this.loose.find(p => p.name === h.thing)! })))
    this.clearing.clear()
    for (const [name, left] of state.clearing) this.clearing.set(name, left)
    this.poses = placeFrames(this.frames, this.values)
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

