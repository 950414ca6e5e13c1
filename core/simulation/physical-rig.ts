import { groundOf, lightOf, soundOf, type Arena, type Layout, type SoundField } from '../arena'
import type { Rig } from '../controller'
import type { DeviceModel, RealismName, Surroundings, Work } from '../devices'
import { resting, somePose, type BodyState, type Pose, type Solid, type SolidShape } from '../geometry'
import type { PhysicsSnapshot } from '../physics'
import type { Robot, RobotFacts } from '../robot'
import type { VmInput } from '../vm'
import { Rasteriser } from '../vision'
import { Dimmer, Hands, type HandsSnapshot } from './hands'
import { buildWorld, type BuiltWorld, type WorldPiece } from './build'
import { Limbs, movingShapes, type LimbsSnapshot } from './limbs'
import { Movement } from './movement'
import { Senses, type SensesSnapshot } from './senses'

/** The longest physics step, seconds: tyres and stacks stay stable up to it. */
const LONGEST_STEP = 0.01
/** Slower than this counts as still: metres a second, radians a second. */
const STILL_SPEED = 0.004
const STILL_SPIN = 0.02
/** Numbers of a pose: x y z and a quaternion. */
const POSE = 7

/** Whom a rig tells what happens while it moves. */
export interface Watcher {
  /** The robot began or ended to touch something, by what the physics calls it. */
  touched(other: string, began: boolean, time: number): void
  /** A feeder put a piece out. */
  fed(piece: string): void
  /** The wheels were asked for more than they can do. */
  clipped(): void
}

export interface RigSnapshot {
  readonly physics: PhysicsSnapshot
  readonly senses: SensesSnapshot
  readonly limbs: LimbsSnapshot
  readonly sound: unknown
  readonly movement: unknown
  readonly hands: HandsSnapshot
  readonly path: number
  readonly clipped: boolean
  readonly pressed: readonly string[]
}

/** Readings that say whether a device is at work. */
const WORKING: readonly string[] = ['moving', 'sounding', 'on', 'shows']

/** The simulated robot in its arena: senses that look, motors that push, and the world that moves on between two ticks. */
export class PhysicalRig implements Rig {
  readonly world: BuiltWorld
  readonly limbs: Limbs
  readonly senses: Senses
  readonly sound: SoundField
  readonly hands: Hands
  readonly body: BodyState
  /** The robot's chassis. */
  readonly hull: Solid
  /** Pieces that move, and their poses one behind another, seven numbers each. */
  readonly pieces: readonly (WorldPiece & { readonly body: number })[]
  readonly poses: Float64Array
  /** Whether nothing of the robot's own moved or sounded when it was sensed last. */
  still = true
  /** Metres that the robot's middle has moved in all. */
  path = 0
  private commands: Float64Array
  private readonly movement: Movement
  /** Devices that act, each with its workbench. */
  private readonly acting: readonly { readonly model: DeviceModel, readonly work: Work }[]
  /** Those that carry the robot. */
  private readonly carrying: readonly { readonly model: DeviceModel, readonly work: Work }[]
  /** Readings that say that something of the robot's own moves or sounds. */
  private readonly restless: readonly number[]
  /** Of each device that acts, the reading that says whether it does. */
  private readonly working: ReadonlyMap<string, number>
  private readonly input: { raw: Float64Array, looks: Float64Array, began: Float64Array, still: boolean }
  private readonly steps: number
  /** What stands fast and is pressed by a link of a robot that stands fast too: the physics library tells of no such contact. */
  private readonly pressed = new Set<string>()
  /** Pieces whose pose may differ from what was read last. */
  private readonly awake: Uint8Array
  /** The pose of the piece that is being read. */
  private readonly there = somePose()
  private readonly around: Surroundings & { time: number }
  /** What each device sees, by what carries it. */
  private readonly views = new Map<string, Surroundings & { readonly solids: Solid[] }>()
  /** Whether the motors were asked for too much in the tick before, and in this one. */
  private clipped = false
  private clipping = false

  /** `commands`: those of the controller, which motors read as they stand. */
  constructor(robot: Robot, readonly facts: RobotFacts, readonly arena: Arena, layout: Layout, realism: RealismName, seed: number, commands: Float64Array, private readonly watcher: Watcher) {
    this.steps = Math.max(1, Math.ceil(robot.tick / LONGEST_STEP - 1e-9))
    this.world = buildWorld(arena, layout, robot, robot.tick / this.steps)
    this.body = resting(this.world.robotPose)
    const { physics, scene, parts } = this.world
    this.hull = parts[0]!.solid!
    this.limbs = new Limbs(robot, physics, this.world.robot, this.body, parts, this.world.pieces, [...scene.solids, ...scene.ground])
    this.sound = soundOf(arena)
    this.commands = commands
    const lamps = new Dimmer(lightOf(arena))
    this.around = {
      scene, solids: scene.solids, ground: groundOf(arena), light: lamps, sound: this.sound, rasteriser: new Rasteriser(arena),
      body: this.body, chassis: this.body, commands, time: 0, pressOn: device => physics.pressOn(device) + this.hands.pressOn(device),
    }
    this.senses = new Senses(robot, facts, realism, seed, device => this.viewOf(device.on))
    this.hands = new Hands(
      robot.fitted, this.world, lamps, on => this.limbs.links.stateOf(on), on => this.viewOf(on), (device, around) => this.senses.see(device, around),
      () => [scene.solids, ...[...this.views.values()].map(v => v.solids)],
    )
    this.input = { raw: this.senses.raw, looks: this.senses.looks, began: this.senses.began, still: true }
    const atWork = robot.fitted.map((device) => {
      const model = this.senses.modelOf(device.name)
      const channel = facts.actuators.find(a => a.name === device.name)?.channel ?? -1
      const motion = this.limbs.motionOf(device.name)
      if (motion !== null) model.ride?.(motion)
      return { model, work: this.limbs.workFor(device, channel, commands, robot.tick / this.steps, scene, () => { this.clipping = true }) }
    })
    this.acting = atWork.filter(({ model }) => model.act !== undefined)
    this.carrying = atWork.filter(({ model }) => model.carry !== undefined)
    this.movement = new Movement(arena, this.world, motor => facts.actuators.some(a => a.name === motor) ? this.senses.modelOf(motor) : null)
    this.restless = facts.devices.flatMap(d => d.readings.flatMap((r, i) => r.name === 'moving' || r.name === 'sounding' ? [d.first + i] : []))
    this.working = new Map(facts.devices.flatMap(d => d.readings.flatMap((r, i) => WORKING.includes(r.name) || (d.kind === 'lamp' && r.name === 'color') ? [[d.name, d.first + i] as const] : [])))
    this.pieces = this.world.pieces.filter((p): p is WorldPiece & { body: number } => p.body !== null)
    this.poses = new Float64Array(POSE * this.pieces.length)
    this.awake = new Uint8Array(this.pieces.length).fill(1)
    this.read()
    this.senses.first()
  }

  /** What a device sees from the chassis (null) or from a joint's link: all but the part that it sits on. */
  private viewOf(on: string | null): Surroundings {
    const part = on ?? 'chassis'
    let view = this.views.get(part)
    if (view === undefined) {
      view = Object.create(this.around, {
        body: { value: this.limbs.links.stateOf(on) },
        solids: { value: this.world.scene.solids.filter(s => s.surface.part !== part) },
      }) as Surroundings & { readonly solids: Solid[] }
      this.views.set(part, view)
    }
    return view
  }

  /** Looks that are due at the beginning of a tick, and readings that arrive with it. */
  look(time: number, tick: number): void {
    this.around.time = time
    if (tick > 0) this.senses.update(time, tick)
  }

  /** Whether a device is at work; false for one that the robot has not. */
  acts(device: string): boolean {
    const at = this.working.get(device)
    return at !== undefined && this.senses.raw[at] !== 0
  }

  /** How light it is all about. */
  get lightNow(): number { return this.around.light.ambient(this.around.time) }

  sense(): VmInput {
    const { velocity: v, spin: w } = this.body
    const { raw } = this.senses
    let still = v.x * v.x + v.y * v.y + v.z * v.z < STILL_SPEED * STILL_SPEED && w.x * w.x + w.y * w.y + w.z * w.z < STILL_SPIN * STILL_SPIN
    for (let i = 0; still && i < this.restless.length; i++) if (raw[this.restless[i]!] !== 0) still = false
    this.still = this.input.still = still
    return this.input
  }

  /** Motors read the controller's commands as they stand, in every physics step. */
  obey(commands: Float64Array): void { if (commands !== this.commands) this.commands.set(commands) }

  /** A feeder put a piece out. */
  private readonly fed = (piece: string): void => {
    this.stir(piece)
    this.watcher.fed(piece)
  }

  /** Motors, limbs, belts, visitors and physics from a tick to the next. */
  move(time: number, tick: number): void {
    const { physics, robot } = this.world
    const dt = this.facts.tick / this.steps
    for (let i = 0; i < this.steps; i++) {
      for (const { model, work } of this.acting) model.act!(work)
      if (this.limbs.works) this.limbs.step(dt)
      for (const { model, work } of this.carrying) model.carry!(work)
      this.movement.step(time + i * dt, dt, this.fed)
      physics.step()
      physics.readEvents()
      for (const change of physics.changes) this.watcher.touched(change.other, change.began, time)
      if (this.carrying.length === 0) this.press(time)
      const { x, y } = this.body.pose.position
      physics.readState(robot, this.body)
      const dx = this.body.pose.position.x - x
      const dy = this.body.pose.position.y - y
      this.path += Math.sqrt(dx * dx + dy * dy)
      // A device looks when it is due, to the physics step, not only with the ticks.
      const now = time + (i + 1) * dt
      if (i + 1 < this.steps && this.senses.isDue(now)) {
        this.readAround()
        this.around.time = now
        this.senses.between(now, tick + 1)
      }
    }
    if (this.clipping && !this.clipped) this.watcher.clipped()
    this.clipped = this.clipping
    this.clipping = false
    this.readAround()
  }

  private press(time: number): void {
    const { met } = this.limbs
    for (const name of met) {
      if (this.pressed.has(name)) continue
      this.pressed.add(name)
      this.watcher.touched(name, true, time)
    }
    for (const name of this.pressed) {
      if (met.has(name)) continue
      this.pressed.delete(name)
      this.watcher.touched(name, false, time)
    }
  }

  /** A piece was moved by something else than physics: its pose is read anew. */
  stir(piece: string): void {
    const at = this.pieces.findIndex(p => p.name === piece)
    if (at !== -1) this.awake[at] = 1
  }

  /** Reads where everything is; a piece that sleeps has not moved. */
  read(): void {
    this.world.physics.readState(this.world.robot, this.body)
    this.readAround()
  }

  /** Where all else is than the chassis, which was read. */
  private readAround(): void {
    const { physics } = this.world
    this.limbs.place()
    this.hands.place()
    for (let i = 0; i < this.pieces.length; i++) {
      const { body, solid } = this.pieces[i]!
      const asleep = physics.isAsleep(body)
      // The step in which it falls asleep has moved it once more.
      if (asleep && this.awake[i] === 0) continue
      this.awake[i] = asleep ? 0 : 1
      const pose = physics.readPose(body, this.there)
      solid.place(pose.position, pose.rotation)
      writePose(this.poses, POSE * i, pose)
    }
  }

  /** Whether a point of the plan (metres) is over a deck. */
  onDeck(x: number, y: number): boolean {
    return this.world.scene.ground.some((deck) => {
      const p = deck.nearest(x, y, deck.pz)
      return Math.abs(p.x - x) < 1e-9 && Math.abs(p.y - y) < 1e-9
    })
  }

  /** How far (rad) the left and the right wheel have turned; null where nothing carries the robot. */
  get spins(): Float64Array | null { return this.carrying[0]?.model.spins ?? null }

  /** Shapes of the robot's parts that move against its chassis, in the order of the tape. */
  movingParts(): readonly { readonly shape: SolidShape, readonly device: string | null }[] {
    return movingShapes(this.world.parts)
  }

  /** The latest picture of each camera, by name: rows from the top, four bytes a pixel. */
  pictures(): readonly { readonly name: string, readonly picture: NonNullable<DeviceModel['picture']> }[] {
    return this.facts.devices.flatMap((d) => {
      const { picture } = this.senses.modelOf(d.name)
      return picture === undefined ? [] : [{ name: d.name, picture }]
    })
  }

  snapshot(): RigSnapshot {
    return {
      physics: this.world.physics.snapshot(), senses: this.senses.snapshot(), limbs: this.limbs.snapshot(),
      sound: this.sound.snapshot(), movement: this.movement.snapshot(), hands: this.hands.snapshot(), path: this.path, clipped: this.clipped, pressed: [...this.pressed],
    }
  }

  restore(state: RigSnapshot): void {
    this.world.physics.restore(state.physics)
    this.senses.restore(state.senses)
    this.limbs.restore(state.limbs)
    this.sound.restore(state.sound)
    this.movement.restore(state.movement)
    this.hands.restore(state.hands)
    this.path = state.path
    this.clipped = state.clipped
    this.pressed.clear()
    for (const name of state.pressed) this.pressed.add(name)
    this.awake.fill(1)
    this.read()
  }

  /** Frees what the physics library holds. */
  free(): void { this.world.physics.free() }
}

/** A pose as seven numbers, from a place on. */
export function writePose(into: Float64Array, at: number, { position, rotation }: Pose): void {
  into[at] = position.x
  into[at + 1] = position.y
  into[at + 2] = position.z
  into[at + 3] = rotation.x
  into[at + 4] = rotation.y
  into[at + 5] = rotation.z
  into[at + 6] = rotation.w
}
