import { boundOf, type BodyState, type Pose, type Solid, type Vector } from '../geometry'
import { gap, type Gap, type World } from '../physics'
import type { Robot } from '../robot'
import type { Loose, WorldPart } from './build'
import type { Axle } from './links'
import { fromCentre, giveBetween, pressedThing, speedAlong, takeUp, type Thing, type Triple } from './pressed'

/**
 * A way in which parts of a robot move against its chassis: a joint's, a pair of jaws' or a roller's. How fast it goes
 * within a step is proposed by its device; what stands in the way takes from it (`press`). Its axis is where it is as the step begins.
 */
export interface Way extends Axle {
  /** Where it is and how fast it goes: radians or metres, and a second. */
  readonly motion: { at: number, speed: number }
  /** What changing its speed takes, as 1 / (kg m²) or 1 / kg; 0 for what nothing slows. */
  give: number
  readonly turning: boolean
  /** For a roller: newtons with which its surface rubs on what is within so many metres; null for parts that only push. */
  readonly rubs: { readonly force: number, readonly reach: number } | null
}

/** What a part is moved by: `rate` metres or radians for each of the way's. */
export interface Drawn { readonly way: Way, readonly rate: number }

/** How much softer than itself a contact is beside others: places of one face share what they press, instead of fighting. */
const SOFT = 1e-3
/** What goes slower towards a thing does not press it, metres a second. */
const CREEPS = 1e-5
/** Farther than a step's way by this much, a thing is not looked at, metres. */
const MARGIN = 0.002
/** Within this depth nothing is pushed out again, metres; and the share of the rest that is, in a step, and how fast at most. */
const SLOP = 0.0004
const RECOVERS = 0.2
const FASTEST_OUT = 0.2
/** What should change a thing's speed by less than this tells nothing of what is behind it, metres a second. */
const TELLING = 0.002
/** Which share of its last friction a contact begins with: less than all, so that it comes to rest. */
const KEPT = 0.8
/** A thing that is held back gets this many times what held it, and this much at most, metres a second. */
const BEYOND = 1.5
const SHOT = 1

interface Touch {
  readonly key: string
  readonly n: Vector
  /** Where they meet, in the world. */
  readonly at: Vector
  /** null: what yields to nothing. */
  readonly thing: Thing | null
  readonly other: string
  readonly drawn: readonly Drawn[]
  readonly friction: number
  /** How fast the ways bring the part nearer, and how fast all may come nearer, metres a second. */
  readonly approach: number
  readonly allowed: number
  /** By how much more than alone the thing seems to weigh: 1 alone, 0 pinned. */
  free: number
  /** What something else took of the thing's speed in the step before, metres a second. */
  readonly resisted: number
  /** Newton seconds with which bristles press. */
  readonly rub: number
  /** How fast the thing went along n before. */
  readonly before: number
  impulse: number
  /** Friction's share, as impulse in the world. */
  rubbed: Vector
}

interface Rubbed { readonly step: number, readonly places: number, readonly x: number, readonly y: number, readonly z: number }

/** What was given to a thing in the step before, to see whether it went: pinned things do not. */
interface Remembered { readonly step: number, readonly before: number, readonly alone: number, readonly n: Vector, readonly r: Vector }

/**
 * Contacts of a robot's moving parts: they push what is in their way, are slowed by its weight and stopped by what stands
 * fast; the robot feels the same the other way. The physics library knows the robot as one rigid body whose parts are put
 * where they belong, without their own speed; this is that speed's share. Contacts are speculative: a part comes as near as
 * it may within the step, so that nothing passes through at any speed (docs/devices.md has the equations).
 */
export class Pressing {
  /** Names of what stood fast against a part in the last step. */
  readonly met = new Set<string>()
  private readonly fixed: readonly Solid[]
  private readonly remembered = new Map<string, Remembered>()
  /** What rubbing came to, all places of a pair together. */
  private readonly rubbed = new Map<string, Rubbed>()
  private readonly touches: Touch[] = []
  private readonly things = new Map<string, Thing>()
  private step = 0
  /** What the chassis gets in the step, as far as it is known. */
  private readonly given: Triple = [0, 0, 0]

  constructor(private readonly robot: Robot, private readonly physics: World, private readonly id: number, private readonly body: BodyState, private readonly loose: readonly Loose[], solids: readonly Solid[]) {
    const own = new Set(loose.map(p => p.name))
    this.fixed = solids.filter(s => s.surface.part === null && !own.has(s.id))
  }

  /** Begins a step: forgets the contacts of the one before. */
  begin(): void {
    this.step++
    this.touches.length = 0
    this.things.clear()
    this.met.clear()
  }

  /** Finds what a part may meet within the step; `passes` names what it does not touch. */
  find(index: number, part: Pick<WorldPart, 'shape' | 'friction'>, pose: Pose, drawn: readonly Drawn[], dt: number, passes: (piece: string) => boolean): void {
    const bound = boundOf(part.shape)
    let fastest = 0
    let rubs: Way['rubs'] = null
    for (const d of drawn) {
      const { motion, turning, origin } = d.way
      const far = turning ? distance(pose.position, origin) + bound : 1
      fastest += Math.abs(motion.speed * d.rate) * far
      rubs ??= d.way.rubs
    }
    if (fastest <= CREEPS) return
    const near = fastest * dt + Math.max(MARGIN, rubs?.reach ?? 0)
    const { position: p } = pose
    for (const piece of this.loose) {
      const { solid } = piece
      // What has moved since it was last read moved little.
      const reach = bound + solid.bound + near + 0.02
      const dx = solid.px - p.x
      const dy = solid.py - p.y
      const dz = solid.pz - p.z
      if (dx * dx + dy * dy + dz * dz > reach * reach || passes(piece.name)) continue
      const at = this.physics.readPose(piece.body)
      const gaps = this.physics.gaps(this.id, index, part.shape, pose, piece.body, solid.shape, at, near)
      for (const met of gaps) this.add(index, part, met, piece.name, this.thing(piece, at, dt), solid.surface.friction, drawn, rubs, gaps.length, dt)
    }
    for (const solid of this.fixed) {
      if (!reaches(solid, p, bound + near)) continue
      const met = gap(part.shape, pose, solid.shape, { position: { x: solid.px, y: solid.py, z: solid.pz }, rotation: solid.rotation }, near)
      if (met !== null) this.add(index, part, met, solid.id, null, solid.surface.friction, drawn, null, 1, dt)
    }
  }

  private add(index: number, part: Pick<WorldPart, 'friction'>, { normal: n, at, distance }: Gap, other: string, thing: Thing | null, friction: number, drawn: readonly Drawn[], rubs: Way['rubs'], places: number, dt: number): void {
    const approach = drawn.reduce((sum, d) => sum + wayAt(d, at, n) * d.way.motion.speed, 0)
    if (approach <= CREEPS && rubs === null) return
    const allowed = distance >= 0 ? distance / dt : distance < -SLOP ? Math.max(-FASTEST_OUT, RECOVERS * (distance + SLOP) / dt) : 0
    const key = `${index}:${other}`
    if (thing !== null) thing.parts.add(index)
    this.touches.push({
      key, n, at, thing, other, drawn, friction: (part.friction + friction) / 2, approach, allowed, impulse: 0, rubbed: { x: 0, y: 0, z: 0 },
      ...(thing === null ? { free: 0, resisted: 0 } : this.freedom(key, thing)), rub: rubs !== null && distance < rubs.reach ? rubs.force * dt / places : 0,
      before: thing === null ? 0 : speedAlong(thing.v, thing.w, fromCentre(thing, at), n),
    })
  }

  private thing(piece: Loose, at: Pose, dt: number): Thing {
    const known = this.things.get(piece.name)
    if (known !== undefined) return known
    const thing = pressedThing(piece, at, this.physics, dt)
    this.things.set(piece.name, thing)
    return thing
  }

  /** Which share of what it was given in the step before a thing took up: 1 where it went as it would alone, 0 where something held it; and what that took of its speed. */
  private freedom(key: string, thing: Thing): { readonly free: number, readonly resisted: number } {
    const last = this.remembered.get(key)
    if (last === undefined || last.step !== this.step - 1) return { free: 1, resisted: 0 }
    const now = speedAlong(thing.v, thing.w, last.r, last.n) + last.n.z * thing.fall
    return { free: Math.min(1, Math.max(0, (now - last.before) / (last.alone - last.before))), resisted: Math.max(0, last.alone - now) }
  }

  /** Makes the ways as slow as what they meet asks, and gives their impulses to things and robot. */
  press(): void {
    if (this.touches.length === 0) return
    const { touches } = this
    this.given.fill(0)
    // What two parts hold between them is not pinned by anything else.
    for (const t of touches) if (t.thing !== null && t.thing.parts.size > 1) t.free = 1
    this.close()
    for (const t of touches) this.rub(t)
    for (const { key, rub, rubbed: { x, y, z } } of touches) {
      if (rub === 0) continue
      const now = this.rubbed.get(key)
      if (now?.step === this.step) this.rubbed.set(key, { step: now.step, places: now.places + 1, x: now.x + x, y: now.y + y, z: now.z + z })
      else this.rubbed.set(key, { step: this.step, places: 1, x, y, z })
    }
    for (const { thing, at, n, impulse, rubbed } of touches) {
      if (thing !== null) takeUp(thing, thing.alone.v, thing.alone.w, at, n.x * impulse + rubbed.x, n.y * impulse + rubbed.y, n.z * impulse + rubbed.z)
    }
    for (const t of touches) if (t.thing !== null) this.limit(t, t.thing)
    for (const t of touches) this.deliver(t)
  }

  /** A thing that something holds back gets no more than a little beyond what that took up: it would be shot out sideways. */
  private limit(t: Touch, thing: Thing): void {
    const change = speedAlong(thing.alone.v, thing.alone.w, fromCentre(thing, t.at), t.n) - t.before
    const most = Math.max(0, t.approach - t.allowed) + thing.fall + Math.min(SHOT, BEYOND * t.resisted)
    if (t.free < 1 && change > most) thing.share = Math.min(thing.share, most / change)
  }

  /** Gives thing and robot what a contact came to. */
  private deliver(t: Touch): void {
    const { thing, at, n, rubbed } = t
    if (t.impulse === 0 && rubbed.x === 0 && rubbed.y === 0 && rubbed.z === 0) return
    const share = thing?.share ?? 1
    const x = share * (n.x * t.impulse + rubbed.x)
    const y = share * (n.y * t.impulse + rubbed.y)
    const z = share * (n.z * t.impulse + rubbed.z)
    if (thing === null) this.met.add(t.other)
    else {
      this.physics.strikeAt(thing.piece.body, { x, y, z }, at)
      const r = fromCentre(thing, at)
      const change = share * (speedAlong(thing.alone.v, thing.alone.w, r, n) - t.before)
      if (change > TELLING) this.remembered.set(t.key, { step: this.step, before: t.before, alone: t.before + change, n, r })
    }
    if (!this.robot.fixed) this.physics.pushAt(this.id, { x: -x, y: -y, z: -z }, at)
  }

  /**
   * Along the normals: no nearer than they may come, all at once. Solved directly, since light things between heavy jaws would
   * take hundreds of rounds; what would pull instead of push is left out, the worst first, until none does.
   */
  private close(): void {
    const { touches } = this
    const want = touches.map((t) => {
      const s = this.slip(t)
      return s.x * t.n.x + s.y * t.n.y + s.z * t.n.z - t.allowed
    })
    let active = touches.flatMap((t, i) => want[i]! > 0 && this.give(t, t.n) > 0 ? [i] : [])
    while (active.length > 0) {
      const impulses = solve(active.map(i => active.map(j => this.between(touches[i]!, touches[j]!) * (i === j ? 1 + SOFT : 1))), active.map(i => want[i]!))
      const worst = impulses.reduce((at, x, i) => x < impulses[at]! ? i : at, 0)
      if (impulses[worst]! >= 0) {
        active.forEach((i, k) => {
          const t = touches[i]!
          t.impulse = impulses[k]!
          this.exchange(t, t.n, t.impulse)
        })
        return
      }
      active = active.filter((_, k) => k !== worst)
    }
  }

  /** By how much an impulse at one contact changes the approach at another, 1 / kg. */
  private between(a: Touch, b: Touch): number {
    let sum = this.robot.fixed ? 0 : (a.n.x * b.n.x + a.n.y * b.n.y + a.n.z * b.n.z) / this.robot.mass
    for (const d of a.drawn) {
      for (const e of b.drawn) if (d.way === e.way) sum += wayAt(d, a.at, a.n) * d.way.give * wayAt(e, b.at, b.n)
    }
    if (a.thing !== null && a.thing === b.thing) sum += Math.min(a.free, b.free) * giveBetween(a.thing, a.at, a.n, b.at, b.n)
    return sum
  }

  /** Across it: Coulomb's friction on what presses, and what bristles rub. */
  private rub(t: Touch): void {
    const most = t.friction * t.impulse + t.rub
    if (most <= 0) return
    const { n } = t
    const s = this.slip(t)
    // What a roller takes along stands on something, which carries its weight; what jaws press may hang between them.
    if (t.thing !== null && t.rub > 0) s.z -= t.thing.fall
    const along = s.x * n.x + s.y * n.y + s.z * n.z
    let x = s.x - along * n.x
    let y = s.y - along * n.y
    let z = s.z - along * n.z
    const speed = Math.sqrt(x * x + y * y + z * z)
    if (speed < CREEPS) return
    const resistance = this.give(t, { x: x / speed, y: y / speed, z: z / speed })
    if (resistance <= 0) return
    // What a roller's rubbing took in the step before, against what else holds the thing, it takes again.
    const last = t.rub > 0 ? this.rubbed.get(t.key) : undefined
    const kept = last?.step === this.step - 1 ? KEPT / last.places : 0
    x = x / resistance + kept * (last?.x ?? 0)
    y = y / resistance + kept * (last?.y ?? 0)
    z = z / resistance + kept * (last?.z ?? 0)
    const size = Math.sqrt(x * x + y * y + z * z)
    if (size < 1e-12) return
    const impulse = Math.min(most, size)
    const dir = { x: x / size, y: y / size, z: z / size }
    this.exchange(t, dir, impulse)
    t.rubbed = { x: dir.x * impulse, y: dir.y * impulse, z: dir.z * impulse }
  }

  /** The part's speed against the thing's where they meet. */
  private slip(t: Touch): { x: number, y: number, z: number } {
    const { at, thing } = t
    const { velocity: v, spin: w, pose } = this.body
    const rx = at.x - pose.position.x
    const ry = at.y - pose.position.y
    const rz = at.z - pose.position.z
    // What the step has given the chassis so far is counted by its mass alone; its turning is small against the ways'.
    const mass = this.robot.fixed ? Infinity : this.robot.mass
    let x = v.x + w.y * rz - w.z * ry + this.given[0] / mass
    let y = v.y + w.z * rx - w.x * rz + this.given[1] / mass
    let z = v.z + w.x * ry - w.y * rx + this.given[2] / mass
    for (const { way, rate } of t.drawn) {
      const u = velocityPer(way, at)
      const speed = rate * way.motion.speed
      x += u.x * speed
      y += u.y * speed
      z += u.z * speed
    }
    if (thing !== null) {
      const { v: tv, w: tw, position: p } = thing
      const qx = at.x - p.x
      const qy = at.y - p.y
      const qz = at.z - p.z
      x -= tv[0] + tw[1] * qz - tw[2] * qy
      y -= tv[1] + tw[2] * qx - tw[0] * qz
      z -= tv[2] + tw[0] * qy - tw[1] * qx
    }
    return { x, y, z }
  }

  /** By how much an impulse of 1 N s along n changes their approach, 1 / kg. */
  private give(t: Touch, n: Vector): number {
    let sum = this.robot.fixed ? 0 : 1 / this.robot.mass
    for (const d of t.drawn) {
      const j = wayAt(d, t.at, n)
      sum += j * j * d.way.give
    }
    if (t.thing !== null) sum += t.free * giveBetween(t.thing, t.at, n, t.at, n)
    return sum
  }

  /** Gives an impulse along n to the thing, and the opposite to ways and chassis. */
  private exchange(t: Touch, n: Vector, impulse: number): void {
    if (impulse === 0) return
    for (const d of t.drawn) d.way.motion.speed -= wayAt(d, t.at, n) * d.way.give * impulse
    this.given[0] -= n.x * impulse
    this.given[1] -= n.y * impulse
    this.given[2] -= n.z * impulse
    const { thing } = t
    if (thing === null) return
    const felt = impulse * t.free
    takeUp(thing, thing.v, thing.w, t.at, n.x * felt, n.y * felt, n.z * felt)
  }

  snapshot(): unknown {
    const fresh = (kept: { readonly step: number }): boolean => kept.step >= this.step - 1
    return { step: this.step, remembered: [...this.remembered].filter(([, r]) => fresh(r)), rubbed: [...this.rubbed].filter(([, r]) => fresh(r)) }
  }

  restore(state: unknown): void {
    const { step, remembered, rubbed } = state as { step: number, remembered: [string, Remembered][], rubbed: [string, Rubbed][] }
    this.step = step
    this.remembered.clear()
    for (const [key, r] of remembered) this.remembered.set(key, r)
    this.rubbed.clear()
    for (const [key, r] of rubbed) this.rubbed.set(key, r)
    this.met.clear()
  }
}

/** Velocity of a point that rides on a way, per unit of the way's speed. */
function velocityPer(way: Way, at: Vector): Vector {
  if (!way.turning) return way.axis
  const { axis: a, origin: o } = way
  const rx = at.x - o.x
  const ry = at.y - o.y
  const rz = at.z - o.z
  return { x: a.y * rz - a.z * ry, y: a.z * rx - a.x * rz, z: a.x * ry - a.y * rx }
}

/** Its share along n. */
function wayAt(d: Drawn, at: Vector, n: Vector): number {
  const u = velocityPer(d.way, at)
  return d.rate * (u.x * n.x + u.y * n.y + u.z * n.z)
}

/** Solves a symmetric positive system by elimination. */
function solve(a: number[][], b: number[]): number[] {
  const n = b.length
  for (let k = 0; k < n; k++) {
    for (let i = k + 1; i < n; i++) {
      const share = a[i]![k]! / a[k]![k]!
      if (share === 0) continue
      for (let j = k; j < n; j++) a[i]![j]! -= share * a[k]![j]!
      b[i]! -= share * b[k]!
    }
  }
  for (let k = n - 1; k >= 0; k--) {
    for (let j = k + 1; j < n; j++) b[k]! -= a[k]![j]! * b[j]!
    b[k]! /= a[k]![k]!
  }
  return b
}

function distance(a: Vector, b: Vector): number {
  const dx = a.x - b.x
  const dy = a.y - b.y
  const dz = a.z - b.z
  return Math.sqrt(dx * dx + dy * dy + dz * dz)
}

/** Whether a point is within `reach` of a solid's own box. */
function reaches(solid: Solid, p: Vector, reach: number): boolean {
  const m = solid.matrix
  const x = p.x - solid.px
  const y = p.y - solid.py
  const z = p.z - solid.pz
  const s = solid.shape
  const hx = s.shape === 'box' ? s.hx : s.radius
  const hy = s.shape === 'box' ? s.hy : s.radius
  return Math.abs(m[0]! * x + m[3]! * y + m[6]! * z) <= hx + reach
    && Math.abs(m[1]! * x + m[4]! * y + m[7]! * z) <= hy + reach
    && Math.abs(m[2]! * x + m[5]! * y + m[8]! * z) <= s.hz + reach
}
