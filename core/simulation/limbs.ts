import type { Motion, Work } from '../devices'
import { rotate, somePose, type Scene, type Solid, type BodyState, type MutablePose, type MutableVector, type Pose, type Vector } from '../geometry'
import type { BodyId, World } from '../physics'
import { seatOf, within, type Robot, type RobotDevice } from '../robot'
import type { Loose, WorldPart, WorldPiece } from './build'
import { Holding, type HoldingSnapshot } from './holding'
import { Links } from './links'
import { Pressing, type Drawn, type Way } from './pressing'

/** Links slower than this wake nothing, radians or metres a second. */
const STILL = 1e-4

/** Where jaws slide and rollers turn, in their part's frame. */
const ACROSS: Vector = { x: 0, y: 1, z: 0 }
const UPWARD: Vector = { x: 0, y: 0, z: 1 }

const goes = ({ motion }: Way): boolean => motion.speed !== 0
const stands = ({ motion }: Way): boolean => Math.abs(motion.speed) <= STILL

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

/** The robot's moving parts: how each goes on with what is in its way, and where that brings what hangs on it. */
export class Limbs {
  /** Where the links are, and what they carry. */
  readonly links: Links
  /** Ways of the frames, one each, then of jaws and rollers. */
  private readonly ways: OwnWay[]
  /** What moves each part that meets others; empty for what rides on the chassis. */
  private readonly drawn: readonly (readonly Drawn[])[]
  private readonly pressing: Pressing
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
  private readonly slid: MutableVector = { x: 0, y: 0, z: 0 }
  private readonly aside: MutableVector = { x: 0, y: 0, z: 0 }
  private readonly passes = (piece: string): boolean => this.holding.passes(piece)

  constructor(private readonly robot: Robot, private readonly physics: World, private readonly id: BodyId, private readonly body: BodyState, private readonly parts: readonly WorldPart[], pieces: readonly WorldPiece[], solids: readonly Solid[]) {
    this.links = new Links(robot, physics, id, body)
    this.locals = parts.map(p => p.local)
    this.moving = movingParts(parts)
    this.loose = pieces.filter((p): p is Loose => p.body !== null)
    this.holding = new Holding(robot, physics, id, body, this.loose, on => this.links.stateOf(on))
    this.ways = [
      ...this.links.frames.map((f, i): OwnWay => makeWay(f.name, i, f.link.start, f.link.motion === 'turning', null)),
      ...robot.devices.flatMap(d => d.kind.jaws === undefined ? [] : [makeWay(d.name, -1, d.kind.jaws(d.parameters), false, null)]),
      ...parts.flatMap((p, i) => p.rubs !== null ? [{ ...makeWay(p.device!, -1, 0, true, p.rubs), roller: i }] : []),
    ]
    this.drawn = parts.map((part, i) => this.ways.flatMap((way): Drawn[] => {
      if (way.frame !== -1) return part.frame !== -1 && this.links.hangsOn(part.frame, way.frame) ? [{ way, rate: 1 }] : []
      const rate = way.roller === null ? part.device === way.device ? part.opens : 0 : way.roller === i ? 1 : 0
      return rate === 0 ? [] : [{ way, rate }]
    }))
    this.pressing = new Pressing(robot, physics, id, body, this.loose, solids)
  }

  /** Names of what stood fast against a moving part in the last step. */
  get met(): ReadonlySet<string> { return this.pressing.met }

  /** Whether there is anything to do in a step. */
  get works(): boolean { return this.links.frames.length > 0 || this.moving.length > 0 || this.holding.works }

  /** World poses of the parts that can move against the chassis, in the order of the parts. */
  movingParts(): readonly Pose[] {
    return this.moving.map(i => this.partIn(i))
  }

  /** Takes the body's pose over into the frames, and into what sensors meet of the robot. */
  place(): void {
    this.links.ride()
    for (let i = 0; i < this.parts.length; i++) {
      const { solid } = this.parts[i]!
      if (solid === null) continue
      const { position, rotation } = this.poseOf(i)
      solid.place(position, rotation)
    }
  }

  /** Place and speed of what a device moves; null for one that moves nothing. */
  motionOf(device: string): Motion | null { return this.ways.find(w => w.device === device)?.motion ?? null }

  /** The workbench of one device that acts; made once, used in every step. */
  workFor(device: RobotDevice, channel: number, commands: Float64Array, dt: number, scene: Scene, clip: () => void): Work {
    const own = this.links.frames.findIndex(f => f.name === device.name)
    const way = this.ways.find(w => w.device === device.name) ?? makeWay(device.name, -1, 0, false, null)
    const seat = seatOf(device.mount)
    const carrier = this.links.stateOf(device.on)
    return {
      commands, channel, dt, scene, clip, body: carrier,
      loose: this.loose,
      load: () => this.links.loadOn(own, this.holding.held),
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
        this.links.values[way.frame] = motion.at
        this.links.react(way.frame, motion.speed - way.before)
      } else if (way.roller === null) this.slideJaws(way)
      if (motion.at !== was && way.roller === null) this.moved = true
    }
  }

  /** The joints that carry what a device holds. */
  private drawnWith(device: string): readonly Drawn[] {
    const carrier = this.links.carrierOf(device)
    return this.ways.flatMap(way => way.frame !== -1 && carrier !== -1 && this.links.hangsOn(carrier, way.frame) ? [{ way, rate: 1 }] : [])
  }

  /** Where a part is in the world as the step begins. To be read before another is asked for. */
  private poseOf(part: number): Pose { return this.partIn(part, this.placed) }

  private partIn(part: number, into?: MutablePose): Pose {
    const { frame } = this.parts[part]!
    return within(frame === -1 ? this.body.pose : this.links.states[frame]!.pose, this.locals[part]!, into)
  }

  /** Where a way's axis is as the step begins. */
  private aim(way: OwnWay): void {
    if (way.frame !== -1) {
      this.links.axisInWorld(way.frame, way)
      return
    }
    const at = way.roller ?? this.parts.findIndex(p => p.device === way.device)
    const { position, rotation } = this.poseOf(at)
    rotate(rotation, way.roller === null ? ACROSS : UPWARD, way.axis)
    way.origin.x = position.x
    way.origin.y = position.y
    way.origin.z = position.z
  }

  private slideJaws(way: OwnWay): void {
    const { slid, aside } = this
    for (let i = 0; i < this.parts.length; i++) {
      const { device, opens, local } = this.parts[i]!
      if (device !== way.device || opens === 0) continue
      if (this.locals[i] === local) this.locals[i] = { position: { x: local.position.x, y: local.position.y, z: local.position.z }, rotation: local.rotation }
      slid.x = 0
      slid.y = opens * (way.motion.at - way.start)
      slid.z = 0
      rotate(local.rotation, slid, aside)
      const into: MutableVector = this.locals[i]!.position
      into.x = local.position.x + aside.x
      into.y = local.position.y + aside.y
      into.z = local.position.z + aside.z
    }
  }

  /** After the devices acted, before the physics step: parts go where they belong, hands carry, weights pull. */
  step(dt: number): void {
    // The library meets the parts where they are as the step begins: what they push has gone by its end, as they have.
    if (this.moved) this.rearrange()
    this.links.ride()
    this.go(dt)
    if (this.moved) {
      this.links.place()
      this.links.ride()
      this.wakeNear()
    }
    if (!this.robot.fixed) this.links.weigh(dt)
    this.holding.step(dt)
  }

  private rearrange(): void {
    this.moved = false
    for (let i = 0; i < this.parts.length; i++) {
      const { frame, shape, local: still } = this.parts[i]!
      const local = this.locals[i]!
      if (frame === -1 && local === still) continue
      this.physics.movePart(this.id, i, shape, frame === -1 ? local : within(this.links.poses[frame]!, local, this.placed))
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
      if (way.frame !== -1) this.links.values[way.frame] = m.at
      else if (way.roller === null) this.slideJaws(way)
    })
    this.pressing.restore(state.pressing)
    this.holding.restore(state)
    this.links.place()
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
