import RAPIER from '@dimforge/rapier3d-deterministic-compat'
import { rotate, rotationMatrix, somePose, type BodyState, type MutablePose, type MutableVector, type Pose, type SolidShape, type Vector } from '../geometry'
import { GRAVITY } from '../maths'
import { describe, gap, placed, standing, type Gap } from './shapes'

/** Which of a world's bodies, counted as they were added. */
export type BodyId = number

/** A body, and what is known of it here. */
interface Kept {
  body: RAPIER.RigidBody
  /** The library's handles of its parts, in their order; none where nobody asks for one. */
  readonly parts: readonly number[]
  /** What has been pushed on it for the next step, once somebody asked (`pushesOn`). */
  pushes: Float64Array | null
}

/** What the library tells of a contact, from within: its own way of telling makes a closure and two objects for each step. Newtons, and the handles of both colliders. */
interface ForceEvent {
  total_force_magnitude(): number
  collider1(): number
  collider2(): number
  free(): void
}

/** One solid part of a body, at a pose in the body's frame. */
export interface ColliderPart {
  readonly shape: SolidShape
  readonly pose: Pose
  readonly friction: number
  /** Whose contacts are told, by this name; null for one that nobody asks about. */
  readonly tell: string | null
  /** Whether the forces on it are measured. */
  readonly pad: boolean
}

export interface ContactChange { readonly part: string, readonly other: string, readonly began: boolean }

export interface PhysicsSnapshot { readonly world: Uint8Array, readonly pressures: readonly (readonly [string, number])[] }

/** Surfaces nearer than this meet within a step, metres: a step's way at 20 cm/s. */
const TOUCHING = 0.002
/** Rolling resistance of a ball on planks: so many times its weight brakes it. A rubber ball on wood: 0.01 to 0.03 (measured figures in textbooks of mechanics). */
const ROLLING = 0.02
/** What falls or jumps faster than this rolls on nothing, metres a second. */
const IN_THE_AIR = 0.2
/** Where the one part of a body is in its frame. */
const AT_BODY: Pose = somePose()

/** Who meets whom: membership in the high half, what is met in the low one. */
const GROUPS = { all: 0xffffffff, robot: 0x0001ffff, held: 0x0002fffe } as const

/** What would be asked about pairs that touch, did any collider want that. */
const NO_HOOKS = {}
const noHook = (): null => null

/** Rigid bodies and their contacts. */
export class World {
  private world: RAPIER.World
  private readonly events = new RAPIER.EventQueue(true)
  /** What each collider is called, by its handle. */
  private readonly names = new Map<number, string>()
  private readonly parts = new Map<number, string>()
  /** Which pad each collider is of those on which forces are measured; what pads are called, and newtons on each in the last step. */
  private readonly pads = new Map<number, number>()
  private readonly padNames: string[] = []
  private forces = new Float64Array(0)
  private readonly bodies: Kept[] = []
  readonly changes: ContactChange[] = []
  /** Balls: the turning impulse (N m s) that resists their rolling within a step, and their moment of inertia (kg m²). */
  private readonly rolling: { readonly id: BodyId, readonly resistance: number, readonly inertia: number }[] = []
  /** The library's vector that each call of `lend` fills. */
  private readonly lent = RAPIER.VectorOps.intoRaw({ x: 0, y: 0, z: 0 })
  /** Bodies that forces act on in the next step. */
  private readonly forced: Kept[] = []
  /** What is read of a body, or handed to it, at once. */
  private readonly read: MutableVector = { x: 0, y: 0, z: 0 }
  private readonly gravity = RAPIER.VectorOps.intoRaw({ x: 0, y: 0, z: -GRAVITY })

  constructor(readonly dt: number) {
    this.world = new RAPIER.World({ x: 0, y: 0, z: -GRAVITY })
    this.world.timestep = dt
    // Surfaces touch where they are drawn: what is farther apart than this neither pushes nor counts as touching.
    this.world.integrationParameters.normalizedPredictionDistance = TOUCHING
    // Four rounds of the solver, the library's own default, hold stacks of five crab pots.
    this.world.integrationParameters.numSolverIterations = 4
  }

  addFixed(id: string, shape: SolidShape, pose: Pose, friction: number): void {
    const collider = this.world.createCollider(describe(shape, pose, friction))
    this.names.set(collider.handle, id)
  }

  /** A loose thing: one shape, mass in kg. */
  addLoose(id: string, shape: SolidShape, pose: Pose, friction: number, mass: number): BodyId {
    const body = this.world.createRigidBody(RAPIER.RigidBodyDesc.dynamic()
      .setTranslation(pose.position.x, pose.position.y, pose.position.z)
      .setRotation(pose.rotation)
      // What rolls on planks comes to rest; balls by their own resistance.
      .setAngularDamping(shape.shape === 'ball' ? 0 : 0.6))
    const collider = this.world.createCollider(describe(shape, AT_BODY, friction).setMass(mass), body)
    this.names.set(collider.handle, id)
    const kept = this.keep(body)
    if (shape.shape === 'ball') this.rolling.push({ id: kept, resistance: ROLLING * mass * GRAVITY * shape.radius * this.dt, inertia: 0.4 * mass * shape.radius * shape.radius })
    return kept
  }

  /**
   * A body of several parts with given mass (kg) and principal moments (kg m²) about its origin; it
   * never sleeps. A fixed one stands where it is; its parts can be moved all the same.
   */
  addBody(id: string, parts: readonly ColliderPart[], pose: Pose, mass: number, inertia: Vector, fixed = false): BodyId {
    const zero = { x: 0, y: 0, z: 0 }
    const kind = fixed ? RAPIER.RigidBodyDesc.fixed() : RAPIER.RigidBodyDesc.dynamic().setAdditionalMassProperties(mass, zero, inertia, { x: 0, y: 0, z: 0, w: 1 })
    const body = this.world.createRigidBody(kind
      .setTranslation(pose.position.x, pose.position.y, pose.position.z)
      .setRotation(pose.rotation)
      .setCanSleep(false))
    const handles: number[] = []
    for (const part of parts) {
      const description = describe(part.shape, part.pose, part.friction).setDensity(0)
      let events = 0
      if (part.tell !== null) events |= RAPIER.ActiveEvents.COLLISION_EVENTS
      if (part.pad) events |= RAPIER.ActiveEvents.CONTACT_FORCE_EVENTS
      const collider = this.world.createCollider(description.setActiveEvents(events).setContactForceEventThreshold(0).setCollisionGroups(GROUPS.robot), body)
      handles.push(collider.handle)
      this.names.set(collider.handle, id)
      if (part.tell !== null) this.parts.set(collider.handle, part.tell)
      if (part.pad && part.tell !== null) this.pads.set(collider.handle, this.padOf(part.tell))
    }
    // Mass is otherwise known from the first step on only; a push before it would do nothing.
    body.recomputeMassPropertiesFromColliders()
    return this.keep(body, handles)
  }

  /** Something that goes its own way (`moveTo`) and yields to nothing. */
  addMover(id: string, shape: SolidShape, pose: Pose, friction: number): BodyId {
    return this.addDriven(RAPIER.RigidBodyDesc.kinematicPositionBased(), id, shape, pose, friction)
  }

  /** A band that carries what lies on it: it stands, and its surface moves (`runBelt`). */
  addBelt(id: string, shape: SolidShape, pose: Pose, friction: number): BodyId {
    return this.addDriven(RAPIER.RigidBodyDesc.kinematicVelocityBased(), id, shape, pose, friction)
  }

  private addDriven(description: RAPIER.RigidBodyDesc, id: string, shape: SolidShape, pose: Pose, friction: number): BodyId {
    const body = this.world.createRigidBody(description
      .setTranslation(pose.position.x, pose.position.y, pose.position.z)
      .setRotation(pose.rotation))
    this.names.set(this.world.createCollider(describe(shape, AT_BODY, friction), body).handle, id)
    return this.keep(body)
  }

  /** Metres a second of a belt's surface during the next step; the band itself stays at `at`. */
  runBelt(id: BodyId, at: Vector, velocity: Vector): void {
    const body = this.body(id)
    body.setTranslation(at, false)
    body.setLinvel(velocity, velocity.x !== 0 || velocity.y !== 0)
  }

  /** Where a mover goes within the next step. */
  moveTo(id: BodyId, pose: Pose): void {
    const body = this.body(id)
    body.setNextKinematicTranslation(pose.position)
    body.setNextKinematicRotation(pose.rotation)
  }

  /** Puts one part of a body at another pose in the body's frame. */
  movePart(id: BodyId, part: number, shape: SolidShape, pose: Pose): void {
    const collider = this.world.getCollider(this.kept(id).parts[part]!)
    collider.setTranslationWrtParent(pose.position)
    collider.setRotationWrtParent(standing(shape, pose.rotation))
  }

  /** Whether the robot holds it: then the robot's own parts pass through. */
  setHeld(id: BodyId, held: boolean): void {
    const body = this.body(id)
    for (let i = 0; i < body.numColliders(); i++) body.collider(i).setCollisionGroups(held ? GROUPS.held : GROUPS.all)
    body.wakeUp()
  }

  /** Whether it takes part in the world at all. */
  setPresent(id: BodyId, present: boolean): void { this.body(id).setEnabled(present) }

  wake(id: BodyId): void { this.body(id).wakeUp() }

  /** Metres a second and radians a second, in the world; it is woken. */
  setMotion(id: BodyId, velocity: Vector, spin: Vector): void {
    const body = this.body(id)
    body.setLinvel(velocity, true)
    body.setAngvel(spin, true)
  }

  velocityOf(id: BodyId, into?: MutableVector): Vector { return this.body(id).linvel(into) }

  spinOf(id: BodyId): Vector { return this.body(id).angvel() }

  /**
   * Where a part of a body and a loose thing at these poses meet: several places where their faces lie on one another, else
   * the nearest; none when they are farther apart than `within` metres.
   */
  gaps(id: BodyId, part: number, shape: SolidShape, at: Pose, thing: BodyId, its: SolidShape, there: Pose, within: number): Gap[] {
    const found: Gap[] = []
    const first = this.world.getCollider(this.kept(id).parts[part]!)
    this.world.contactPair(first, this.body(thing).collider(0), (manifold, flipped) => {
      const n = manifold.numContacts()
      if (n < 2) return
      // The library's places are of its last step: they are taken along to where both are now.
      const from = { position: at.position, rotation: standing(shape, at.rotation) }
      const to = { position: there.position, rotation: standing(its, there.rotation) }
      const away = flipped ? manifold.localNormal2() : manifold.localNormal1()
      const normal = rotate(from.rotation, away)
      for (let i = 0; i < n; i++) {
        const p = placed(from, (flipped ? manifold.localContactPoint2(i) : manifold.localContactPoint1(i))!)
        const q = placed(to, (flipped ? manifold.localContactPoint1(i) : manifold.localContactPoint2(i))!)
        const distance = (q.x - p.x) * normal.x + (q.y - p.y) * normal.y + (q.z - p.z) * normal.z
        if (distance <= within) found.push({ distance, at: { x: (p.x + q.x) / 2, y: (p.y + q.y) / 2, z: (p.z + q.z) / 2 }, normal })
      }
    })
    if (found.length > 0) return found
    const nearest = gap(shape, at, its, there, within)
    return nearest === null ? [] : [nearest]
  }

  /** A force that gives an impulse (N s) at a place in the world evenly over the next step. */
  pushAt(id: BodyId, impulse: Vector, place: Vector): void {
    const kept = this.kept(id)
    kept.body.addForceAtPoint(this.overStep(impulse), place, true)
    this.forced.push(kept)
    if (kept.pushes === null) return
    const at = kept.body.translation(this.read)
    const rx = place.x - at.x
    const ry = place.y - at.y
    const rz = place.z - at.z
    addTo(kept.pushes, impulse, ry * impulse.z - rz * impulse.y, rz * impulse.x - rx * impulse.z, rx * impulse.y - ry * impulse.x)
  }

  /**
   * What has been pushed on a body for the next step so far: impulse (N s) and turning impulse (N m s) about its centre, six
   * numbers that are always up to date.
   */
  pushesOn(id: BodyId): Float64Array {
    return this.kept(id).pushes ??= new Float64Array(6)
  }

  /** Whether gravity acts on it; what is held is carried by the hand. */
  setWeightless(id: BodyId, weightless: boolean): void { this.body(id).setGravityScale(weightless ? 0 : 1, true) }

  private padOf(name: string): number {
    const known = this.padNames.indexOf(name)
    if (known !== -1) return known
    this.padNames.push(name)
    this.forces = new Float64Array(this.padNames.length)
    return this.padNames.length - 1
  }

  private keep(body: RAPIER.RigidBody, parts: readonly number[] = []): BodyId {
    this.bodies.push({ body, parts, pushes: null })
    return this.bodies.length - 1
  }

  /** One step of `dt` seconds; what began and ended to touch stands in `changes` afterwards. */
  step(): void {
    this.resist()
    // Not the world's own step: that looks afterwards, every time, for bodies that its soft bodies made. There are none here, and
    // it takes a fifth of the time. Nor the pipeline's, which makes gravity anew for each: a fiftieth.
    const { world: w } = this
    w.physicsPipeline.raw.stepWithEvents(
      this.gravity, w.integrationParameters.raw, w.islands.raw, w.broadPhase.raw, w.narrowPhase.raw, w.bodies.raw, w.colliders.raw, w.softBodies.raw,
      w.impulseJoints.raw, w.multibodyJoints.raw, w.ccdSolver.raw, this.events.raw, NO_HOOKS, noHook, noHook,
    )
    for (let kept = this.forced.pop(); kept !== undefined; kept = this.forced.pop()) {
      kept.body.resetForces(false)
      kept.body.resetTorques(false)
      kept.pushes?.fill(0)
    }
  }

  /** What rolls is braked: a ball that rolls on planks comes to rest. */
  private resist(): void {
    for (const { id, resistance, inertia } of this.rolling) {
      const body = this.body(id)
      if (body.isSleeping() || !body.isEnabled() || Math.abs(body.linvel(this.read).z) > IN_THE_AIR) continue
      const { x, y } = body.angvel(this.read)
      const spin = Math.sqrt(x * x + y * y)
      if (spin < 1e-9) continue
      const by = Math.min(resistance, inertia * spin) / spin
      body.applyTorqueImpulse({ x: -x * by, y: -y * by, z: 0 }, false)
    }
  }

  /** What gives an impulse over a step, in the one vector of the library's that is lent to its calls: a body's own methods make and free one for each. */
  private lend(impulse: Vector): ReturnType<typeof RAPIER.VectorOps.intoRaw> {
    const { lent } = this
    lent.x = impulse.x / this.dt
    lent.y = impulse.y / this.dt
    lent.z = impulse.z / this.dt
    return lent
  }

  /** What gives an impulse over a step, to be handed on at once. */
  private overStep(impulse: Vector): Vector {
    const { read } = this
    read.x = impulse.x / this.dt
    read.y = impulse.y / this.dt
    read.z = impulse.z / this.dt
    return read
  }

  /** Reads what the last step told: contacts into `changes`, forces on pads. */
  readEvents(): void {
    if (this.changes.length > 0) this.changes.length = 0
    this.forces.fill(0)
    this.events.drainCollisionEvents(this.met)
    if (this.pads.size > 0) this.events.raw.drainContactForceEvents(this.pressed)
  }

  private readonly met = (a: number, b: number, began: boolean): void => {
    const part = this.parts.get(a) ?? this.parts.get(b)
    const other = this.names.get(this.parts.has(a) ? b : a)
    if (part !== undefined && other !== undefined) this.changes.push({ part, other, began })
  }

  private readonly pressed = (event: ForceEvent): void => {
    const force = event.total_force_magnitude()
    this.press(event.collider1(), force)
    this.press(event.collider2(), force)
    event.free()
  }

  private press(handle: number, force: number): void {
    const pad = this.pads.get(handle)
    if (pad !== undefined) this.forces[pad] = this.forces[pad]! + force
  }

  /** Newtons on a pad during the last step. */
  pressOn(pad: string): number {
    return this.forces[this.padNames.indexOf(pad)] ?? 0
  }

  /** Reads a body's state into what is there: its pose is changed in place. */
  readState(id: BodyId, into: BodyState): void {
    const body = this.body(id)
    this.readPose(id, into.pose)
    rotationMatrix(into.pose.rotation, into.matrix)
    body.linvel(into.velocity)
    body.angvel(into.spin)
  }

  /** Reads where a body is into what is there. */
  readPose(id: BodyId, into: MutablePose = somePose()): Pose {
    const body = this.body(id)
    body.translation(into.position)
    body.rotation(into.rotation)
    return into
  }

  isAsleep(id: BodyId): boolean {
    return this.body(id).isSleeping()
  }

  /**
   * A force and a torque that give an impulse at the centre (N s) and a turning one (N m s), both in the world, evenly over
   * the next step: as gravity does, so that forces in balance leave a body at rest.
   */
  push(id: BodyId, impulse: Vector, turning: Vector): void {
    const kept = this.kept(id)
    const { handle } = kept.body
    const { raw } = this.world.bodies
    raw.rbAddForce(handle, this.lend(impulse), true)
    raw.rbAddTorque(handle, this.lend(turning), true)
    this.forced.push(kept)
    if (kept.pushes !== null) addTo(kept.pushes, impulse, turning.x, turning.y, turning.z)
  }

  /** A blow: changes of speed and turning at once. */
  strike(id: BodyId, impulse: Vector, turning: Vector): void {
    const body = this.body(id)
    body.applyImpulse(impulse, true)
    body.applyTorqueImpulse(turning, true)
  }

  /** A blow at a place in the world (N s). */
  strikeAt(id: BodyId, impulse: Vector, place: Vector): void { this.body(id).applyImpulseAtPoint(impulse, place, true) }

  /** Moves a body by hand: it stands where it is put, at rest. */
  put(id: BodyId, pose: Pose): void {
    const body = this.body(id)
    body.setTranslation(pose.position, true)
    body.setRotation(pose.rotation, true)
    body.setLinvel({ x: 0, y: 0, z: 0 }, true)
    body.setAngvel({ x: 0, y: 0, z: 0 }, true)
  }

  snapshot(): PhysicsSnapshot {
    return { world: this.world.takeSnapshot(), pressures: this.padNames.map((pad, i) => [pad, this.forces[i]!] as const) }
  }

  /** Back to a snapshot of this same world: handles stay what they were. */
  restore(state: PhysicsSnapshot): void {
    this.world.free()
    this.world = RAPIER.World.restoreSnapshot(state.world)
    this.world.timestep = this.dt
    for (const kept of this.bodies) {
      kept.body = this.world.getRigidBody(kept.body.handle)
      kept.pushes?.fill(0)
    }
    this.changes.length = 0
    this.forced.length = 0
    this.forces.fill(0)
    for (const [pad, force] of state.pressures) this.forces[this.padOf(pad)] = force
  }

  /** Frees the library's memory; the world cannot be used afterwards. */
  free(): void {
    this.world.free()
    this.events.free()
    this.lent.free()
    this.gravity.free()
  }

  private body(id: BodyId): RAPIER.RigidBody {
    return this.kept(id).body
  }

  private kept(id: BodyId): Kept {
    const kept = this.bodies[id]
    if (kept === undefined) throw new Error(`no body ${id}`)
    return kept
  }
}

function addTo(known: Float64Array, impulse: Vector, tx: number, ty: number, tz: number): void {
  known[0]! += impulse.x
  known[1]! += impulse.y
  known[2]! += impulse.z
  known[3]! += tx
  known[4]! += ty
  known[5]! += tz
}
