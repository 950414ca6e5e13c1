import type { Motion, Work } from '../devices'
import { resting, rotate, somePose, type Scene, type Solid, type BodyState, type Pose, type Vector } from '../geometry'
import { GRAVITY } from '../maths'
import type { BodyId, World } from '../physics'
import { axisOf, framesOf, placeFrames, rideOn, seatOf, within, type FrameSpec, type Robot, type RobotDevice } from '../robot'
import type { Loose, WorldPart, WorldPiece } from './build'
import { Holding, type HoldingSnapshot } from './holding'
import { Pressing, type Drawn, type Way } from './pressing'

/** Links slower than this wake nothing, radians or metres a second. */
const STILL = 1e-4

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
  private poses: Pose[]
  /** Poses of parts in their frames: a claw's jaws move. */
  private readonly locals: Pose[]
  /** What the hands hold. */
  readonly holding: Holding
  private readonly loose: readonly Loose[]
  private moved = false
  /** Parts that can move against the chassis: those on links, and jaws. */
  private readonly moving: readonly number[]

  /** The pose of the part that is being placed. */
  private readonly placed = somePose()

  constructor(private readonly robot: Robot, private readonly physics: World, private readonly id: BodyId, private readonly body: BodyState, private readonly parts: readonly WorldPart[], pieces: readonly WorldPiece[], solids: readonly Solid[]) {
    this.frames = framesOf(robot)
    this.values = Float64Array.from(this.frames, f => f.link.start)
    this.poses = placeFrames(this.frames, this.values)
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
      const { position, rotation } = within(carrier, this.locals[i]!, this.placed)
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
    for (const h of this.holding.held) {
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
        if (drawn.length > 0) pressing.find(i, this.parts[i]!, this.poseOf(i), drawn, dt, piece => this.holding.passes(piece))
      })
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
    this.holding.step(dt)
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
