import { groundOf, layOut, lightOf, soundOf, type Arena, type Layout, type SoundField } from '../arena'
import { WHEELS, WheelDrive, type DeviceModel, type RealismName, type Surroundings, type Work } from '../devices'
import { yawOf, type BodyState, type Pose, type Solid, type SolidShape } from '../geometry'
import { namedCells, type ProgramData } from '../program'
import type { PhysicsSnapshot } from '../physics'
import { RandomStream } from '../random'
import { channelCount, factsOf, type Robot, type RobotFacts } from '../robot'
import { Tape, layoutOf, type TapeEvent, type TapeState } from '../tape'
import type { GoalState, GoalWorld, Task } from '../task'
import { Vm, type VmEvent, type VmSnapshot } from '../vm'
import { Rasteriser } from '../vision'
import { buildWorld, GROUND, PART_OF, WALL, type BuiltWorld } from './build'
import { Limbs, movingParts, type LimbsSnapshot } from './limbs'
import { Movement } from './movement'
import { applyPoke, type Poke } from './pokes'
import { Senses, type SensesSnapshot } from './senses'

export interface SimulationInput {
  /** null: the robot stands and senses, no program runs. */
  readonly program: ProgramData | null
  readonly robot: Robot
  readonly arena: Arena
  readonly task: Task | null
  readonly realism: RealismName
  readonly seed: number
  /** Seconds after which the run ends. */
  readonly limit: number
}

export interface RunEnd {
  readonly ended: 'finished' | 'time' | 'error' | 'fell'
  readonly reason: string
  readonly time: number
}

export interface SimulationSnapshot {
  readonly physics: PhysicsSnapshot
  readonly vm: VmSnapshot | null
  readonly senses: SensesSnapshot
  readonly drive: unknown
  readonly limbs: LimbsSnapshot
  readonly sound: unknown
  readonly movement: unknown
  readonly goals: readonly GoalState[]
  readonly tape: TapeState
  readonly tick: number
  readonly path: number
  readonly fell: boolean
  readonly fallenFor: number
  readonly clipped: boolean
  readonly touching: readonly (readonly [string, number])[]
  readonly pressed: readonly string[]
  readonly touched: readonly { readonly name: string, readonly kind: string }[]
  readonly lastTouch: readonly (readonly [string, number])[]
  readonly end: RunEnd | null
  readonly counts: { readonly contacts: number, readonly falls: number }
}

/** How strong a knock of the robot's body is: what the lightest counts, and by how much a metre a second adds. */
const KNOCK_LEAST = 0.12
const KNOCK_PER_SPEED = 1.6
/** The longest physics step, seconds: tyres and stacks stay stable up to it. */
const LONGEST_STEP = 0.01
/** A thing let go and touched again within this time is the same contact, seconds. */
const SAME_CONTACT = 0.25
/** The robot has fallen when its centre is this far below where it rides, metres. */
const FALLEN = 0.05
/** So long after a fall the run ends, seconds: the fall is seen. */
const FALL_TIME = 1
/** Slower than this counts as still: metres a second, radians a second. */
const STILL_SPEED = 0.004
const STILL_SPIN = 0.02

/**
 * A program on a robot in an arena, tick by tick. The phases of a tick, in order:
 * 1. pokes, 2. looks that are due and readings that arrive, 3. the program, 4. the row on the
 * tape, 5. motors, limbs, belts, visitors and physics until the next tick, 6. contacts, falls and goals.
 */
export class Simulation {
  readonly facts: RobotFacts
  readonly layout: Layout
  readonly tape: Tape
  readonly world: BuiltWorld
  readonly goals: GoalState[]
  /** Whether and how the run is over. */
  end: RunEnd | null = null
  contacts = 0
  falls = 0
  private readonly vm: Vm | null
  private readonly drive: WheelDrive | null
  private readonly limbs: Limbs
  private readonly movement: Movement
  private readonly sound: SoundField
  /** Devices that act, each with its workbench. */
  private readonly acting: { readonly model: DeviceModel, readonly work: Work }[]
  /** Readings that say that something of the robot's own moves or sounds. */
  private readonly restless: readonly number[]
  private readonly shown: string[]
  /** Cells of dials and memories: what the tape keeps of them. */
  private readonly named: readonly number[]
  private still = true
  private readonly senses: Senses
  private readonly body: BodyState
  private readonly hull: Solid
  private readonly steps: number
  private readonly commands: Float64Array
  private readonly pokes: Poke[] = []
  private readonly touching = new Map<string, number>()
  private readonly lastTouch = new Map<string, number>()
  /** What stands fast and is pressed by a link of a robot that stands fast too: the physics library tells of no such contact. */
  private readonly pressed = new Set<string>()
  /** Pieces whose pose may differ from what was read last. */
  private readonly awake = new Set<string>()
  private readonly kinds = new Map<string, string>()
  /** What else pushes the robot within a step. */
  private readonly pushes: Float64Array
  private readonly impulse = { x: 0, y: 0, z: 0 }
  private readonly turning = { x: 0, y: 0, z: 0 }
  private readonly around: Surroundings & { time: number }
  /** What each device sees, by what carries it. */
  private readonly views = new Map<string, Surroundings>()
  private touched: { name: string, kind: string }[] = []
  private tick = 0
  private path = 0
  private fell = false
  private fallenFor = 0
  private clipped = false

  constructor(readonly input: SimulationInput) {
    const { program, robot, realism, seed, task } = input
    this.facts = factsOf(robot)
    this.layout = layOut(input.arena, seed)
    const { arena } = this.layout
    this.steps = Math.max(1, Math.ceil(robot.tick / LONGEST_STEP - 1e-9))
    this.world = buildWorld(arena, this.layout, robot, robot.tick / this.steps)
    this.drive = robot.drive === null ? null : new WheelDrive(robot.drive, realism, RandomStream.named(seed, `noise/${WHEELS}`))
    this.body = {
      pose: this.world.robotPose, matrix: new Float64Array(9),
      velocity: { x: 0, y: 0, z: 0 }, spin: { x: 0, y: 0, z: 0 },
    }
    const { physics, scene, parts } = this.world
    this.hull = parts[0]!.solid!
    this.pushes = physics.pushesOn(this.world.robot)
    this.limbs = new Limbs(robot, physics, this.world.robot, this.body, parts, this.world.pieces, [...scene.solids, ...scene.ground])
    this.sound = soundOf(arena)
    this.vm = program === null ? null : new Vm(program, this.facts, seed)
    this.commands = this.vm?.commands ?? new Float64Array(channelCount(this.facts))
    if (this.vm === null) for (const a of this.facts.actuators) this.commands.set(a.initial, a.channel)
    this.shown = [...this.vm?.texts ?? []]
    this.around = {
      scene, solids: scene.solids, ground: groundOf(arena), light: lightOf(arena), sound: this.sound, rasteriser: new Rasteriser(arena),
      body: this.body, chassis: this.body, commands: this.commands, time: 0, pressOn: device => physics.pressOn(device),
    }
    this.senses = new Senses(robot, this.facts, realism, seed, this.drive, device => this.viewOf(device.on))
    this.acting = robot.devices.flatMap(device => {
      const model = this.senses.modelOf(device.name)
      const channel = this.facts.actuators.find(a => a.name === device.name)?.channel ?? -1
      const motion = this.limbs.motionOf(device.name)
      if (motion !== null) model.ride?.(motion)
      return model.act === undefined ? [] : [{ model, work: this.limbs.workFor(device, channel, this.commands, robot.tick / this.steps) }]
    })
    this.movement = new Movement(arena, this.world, motor => this.facts.actuators.some(a => a.name === motor) ? this.senses.modelOf(motor) : null)
    this.restless = this.facts.devices.flatMap(d => d.kind === 'wheels' ? [] : d.readings.flatMap((r, i) => r.name === 'moving' || r.name === 'sounding' ? [d.first + i] : []))
    for (const piece of this.world.pieces) {
      this.kinds.set(piece.name, piece.kind)
      this.awake.add(piece.name)
    }
    for (const mover of [...this.world.visitors, ...this.world.belts]) this.kinds.set(mover.name, mover.kind)
    for (const crate of arena.crates) this.kinds.set(crate.name, 'crate')
    this.named = program === null ? [] : namedCells(program).map(n => n.cell)
    this.goals = task === null ? [] : task.goals.map(g => g.kind.begin(g.parameters))
    this.tape = new Tape(layoutOf(
      this.facts, program?.lanes.map(l => l.name) ?? [], program?.rules.length ?? 0,
      this.senses.beams().map(b => b.name), this.world.pieces.filter(p => p.body !== null).map(p => p.name),
      this.world.visitors.map(v => v.name), this.limbs.movingParts().length, this.named.length,
    ))
    this.readBody()
    this.senses.first()
    const { leftOut } = this.layout
    for (const kind of new Set(leftOut)) this.event('arena', `no room for ${leftOut.filter(k => k === kind).length} of the ${kind}s that are scattered`, kind)
  }

  /** What a device sees from the chassis (null) or from a joint's link: all but the part that it sits on. */
  private viewOf(on: string | null): Surroundings {
    const part = on ?? 'chassis'
    let view = this.views.get(part)
    if (view === undefined) {
      view = Object.create(this.around, {
        body: { value: this.limbs.stateOf(on) },
        solids: { value: this.world.scene.solids.filter(s => s.surface.part !== part) },
      }) as Surroundings
      this.views.set(part, view)
    }
    return view
  }

  /** Seconds since the run began. */
  get time(): number { return this.tick * this.facts.tick }

  /** Interferes before the next tick. */
  poke(poke: Poke): void { this.pokes.push(poke) }

  /** One tick. What happened is the tape's last row and its new events. Nothing happens after the end. */
  advance(): void {
    if (this.end !== null) return
    this.applyPokes()
    this.around.time = this.time
    if (this.tick > 0) this.senses.update(this.time, this.tick)
    this.control()
    this.record()
    this.move()
    this.tick++
    this.judge()
  }

  /** Ticks until the run is over. */
  runToEnd(): RunEnd {
    while (this.end === null) this.advance()
    return this.end
  }

  private applyPokes(): void {
    const { world, facts, body, sound, vm, commands, time } = this
    for (const poke of this.pokes) {
      const done = applyPoke(poke, { world, robot: this.input.robot, facts, body, sound, vm, commands, time })
      if (done === null) continue
      if (done.moved !== null) {
        this.awake.add(done.moved)
        this.readBody()
      }
      this.event('poke', done.text, done.about)
    }
    this.pokes.length = 0
  }

  private control(): void {
    if (this.vm === null) return
    const { velocity: v, spin: w } = this.body
    const { raw, looks, began } = this.senses
    const still = v.x * v.x + v.y * v.y + v.z * v.z < STILL_SPEED * STILL_SPEED && w.x * w.x + w.y * w.y + w.z * w.z < STILL_SPIN * STILL_SPIN
      && this.restless.every(at => raw[at] === 0)
    this.still = still
    this.vm.run({ raw, looks, began, still })
    this.vm.texts.forEach((text, i) => {
      if (text === this.shown[i]) return
      this.shown[i] = text
      this.event('show', text, this.facts.devices.filter(d => d.kind === 'display')[i]!.name)
    })
    for (const e of this.vm.events) this.programEvent(e)
    if (this.vm.finished !== null) this.finish('finished', this.vm.finished)
    else if (this.vm.over) {
      const error = this.vm.failed ? this.tape.events.find(e => e.type === 'error') : undefined
      this.finish(error === undefined ? 'finished' : 'error', error?.text ?? 'every lane is done')
    }
  }

  private finish(ended: RunEnd['ended'], reason: string): void {
    this.end ??= { ended, reason, time: this.time }
  }

  private programEvent(e: VmEvent): void {
    switch (e.type) {
      case 'note': return this.event('note', e.text, e.lane)
      case 'finish': return this.event('finish', e.why, e.lane)
      case 'signal': return this.event('signal', e.name, e.lane)
      case 'clipped': return this.event('clipped', 'beyond its range: it goes to the end', e.actuator)
      case 'blocked': return this.event('blocked', `line ${e.line}`, e.actuator)
      case 'error': return this.event('error', `line ${e.line}: ${e.message}`, e.lane)
    }
  }

  private event(type: TapeEvent['type'], text: string, about: string): void {
    this.tape.event({ tick: this.tick, type, text, about })
  }

  /** How things stand before the first tick, as a row of the tape; nothing is recorded. */
  peek(): Float64Array {
    const { layout } = this.tape
    this.fillRow(this.senses.raw)
    const row = this.tape.row.slice()
    for (let i = 0; i < layout.laneNames.length; i++) row.fill(-1, layout.lanes + 4 * i + 1, layout.lanes + 4 * i + 4)
    row.fill(0, layout.wants, layout.wants + layout.ruleCount)
    return row
  }

  private record(): void {
    this.fillRow(this.vm?.readings ?? this.senses.raw)
    this.tape.commit()
  }

  private fillRow(readings: Float64Array): void {
    const { row, layout } = this.tape
    row.set(readings, layout.readings)
    row.set(this.commands, layout.commands)
    this.writePose(layout.body, this.body.pose)
    if (this.drive !== null) {
      const [left, right] = this.drive.spins()
      row[layout.wheels] = left
      row[layout.wheels + 1] = right
    }
    this.limbs.movingParts().forEach((pose, i) => this.writePose(layout.parts + 7 * i, pose))
    this.world.visitors.forEach((v, i) => {
      row[layout.visitors + 3 * i] = v.solid.px
      row[layout.visitors + 3 * i + 1] = v.solid.py
      row[layout.visitors + 3 * i + 2] = v.solid.pz
    })
    if (this.vm !== null) {
      for (let i = 0; i < layout.laneNames.length; i++) {
        const lane = this.vm.lane(i)
        row[layout.lanes + 4 * i] = lane.phase
        row[layout.lanes + 4 * i + 1] = lane.mode
        row[layout.lanes + 4 * i + 2] = lane.rule
        row[layout.lanes + 4 * i + 3] = lane.step
        row[layout.entered + i] = lane.entered
      }
      this.named.forEach((cell, i) => { row[layout.named + i] = this.vm!.cells[cell]! })
      row[layout.still] = this.still ? 1 : 0
      const { rules } = this.vm.program
      for (let i = 0; i < rules.length; i++) row[layout.wants + i] = this.vm.cells[rules[i]!.wantCell]!
    }
    let at = layout.beams
    for (const { beam } of this.senses.beams()) {
      row.set(beam, at)
      at += 7
    }
    // Poses of pieces stand in the row already: they are written as they move.
  }

  private writePose(at: number, pose: Pose): void {
    const { row } = this.tape
    row[at] = pose.position.x
    row[at + 1] = pose.position.y
    row[at + 2] = pose.position.z
    row[at + 3] = pose.rotation.x
    row[at + 4] = pose.rotation.y
    row[at + 5] = pose.rotation.z
    row[at + 6] = pose.rotation.w
  }

  private move(): void {
    const { physics, scene, robot } = this.world
    const dt = this.facts.tick / this.steps
    for (let i = 0; i < this.steps; i++) {
      for (const { model, work } of this.acting) model.act!(work)
      if (this.limbs.works) this.limbs.step(dt)
      // The wheels come last: they know then what else pushes the robot within the step.
      if (this.drive !== null) {
        this.drive.step(this.commands, 0, this.body, scene, dt, this.pushes, this.impulse, this.turning)
        physics.push(robot, this.impulse, this.turning)
      }
      this.movement.step(this.time + i * dt, dt, fed => this.fed(fed))
      physics.step()
      physics.readEvents()
      for (const change of physics.changes) this.contact(change.other, change.began)
      if (this.drive === null) this.press()
      const { x, y } = this.body.pose.position
      physics.readState(robot, this.body)
      const dx = this.body.pose.position.x - x
      const dy = this.body.pose.position.y - y
      this.path += Math.sqrt(dx * dx + dy * dy)
      // A device looks when it is due, to the physics step, not only with the ticks.
      const now = this.time + (i + 1) * dt
      if (i + 1 < this.steps && this.senses.isDue(now)) {
        this.readBody()
        this.around.time = now
        this.senses.between(now, this.tick + 1)
      }
    }
    if (this.drive !== null) {
      if (this.drive.clipped && !this.clipped) this.event('clipped', 'more than the motors can do', WHEELS)
      this.clipped = this.drive.clipped
      this.drive.clipped = false
    }
    this.readBody()
  }

  /** A feeder put a piece on its belt. */
  private fed(piece: string): void {
    this.awake.add(piece)
    this.event('fed', `${piece} comes`, piece)
  }

  /** Reads where everything is; a piece that sleeps has not moved. */
  private readBody(): void {
    const { physics, robot, pieces } = this.world
    physics.readState(robot, this.body)
    this.limbs.place()
    let at = this.tape.layout.pieces
    for (const piece of pieces) {
      if (piece.body === null) continue
      const asleep = physics.isAsleep(piece.body)
      // The step in which it falls asleep has moved it once more.
      if (!asleep || this.awake.has(piece.name)) {
        if (asleep) this.awake.delete(piece.name)
        else this.awake.add(piece.name)
        const pose = physics.readPose(piece.body)
        piece.solid.place(pose.position, pose.rotation)
        this.writePose(at, pose)
      }
      at += 7
    }
  }

  private press(): void {
    const { met } = this.limbs
    for (const name of met) {
      if (this.pressed.has(name)) continue
      this.pressed.add(name)
      this.contact(name, true)
    }
    for (const name of this.pressed) {
      if (met.has(name)) continue
      this.pressed.delete(name)
      this.contact(name, false)
    }
  }

  private contact(other: string, began: boolean): void {
    if (other.startsWith(GROUND) || other === 'robot') return
    const count = Math.max(0, (this.touching.get(other) ?? 0) + (began ? 1 : -1))
    this.touching.set(other, count)
    if (!began || count !== 1) {
      if (count === 0) this.lastTouch.set(other, this.time)
      return
    }
    if (this.time - (this.lastTouch.get(other) ?? -Infinity) < SAME_CONTACT) return
    const name = other.startsWith(WALL) ? 'wall' : other.split(PART_OF)[0]!
    this.contacts++
    this.touched.push({ name, kind: other.startsWith(WALL) ? 'wall' : this.kinds.get(name) ?? '' })
    const { x, y } = this.body.velocity
    this.sound.knock(Math.min(1, KNOCK_LEAST + KNOCK_PER_SPEED * Math.sqrt(x * x + y * y)), this.time)
    this.event('contact', `touched ${name}`, name)
  }

  private judge(): void {
    const { z } = this.body.pose.position
    const fallen = z < this.input.robot.height - FALLEN
    if (fallen && !this.fell) {
      this.falls++
      this.event('fall', 'fell off the deck', 'robot')
    }
    this.fell = fallen
    if (fallen) this.fallenFor += this.facts.tick
    if (this.fallenFor > FALL_TIME && this.input.task?.fallsGoOn !== true) this.finish('fell', 'the robot fell off the deck')
    if (this.time >= this.input.limit - 1e-9) this.finish('time', 'time is up')
    // What is held when all is over was not put down anywhere: whoever counted on that is told.
    if (this.end !== null) for (const { device, piece } of this.limbs.holding()) this.event('held', `still holds ${piece}`, device)
    const touched = this.touched
    this.touched = []
    const { task } = this.input
    if (task === null) return
    const world: GoalWorld = {
      time: this.time, body: this.body, hull: this.hull, pieces: this.world.pieces, touched,
      visitors: this.world.visitors, fell: fallen, finished: this.vm !== null && this.vm.finished !== null, path: this.path,
      onDeck: (x, y) => this.onDeck(x, y), arena: this.layout.arena,
      holds: piece => this.limbs.holds(piece),
    }
    task.goals.forEach((goal, i) => {
      const state = this.goals[i]!
      const before = state.status
      goal.kind.update(goal.parameters, state, world)
      if (state.status !== before) this.event('goal', state.status, goal.sentence)
    })
    if (this.end !== null) {
      for (const state of this.goals) {
        if (state.status === 'held') { state.status = 'met'; state.at = this.time }
        else if (state.status === 'open') { state.status = 'failed'; state.at = null }
      }
    }
  }

  /** Where the robot's middle is on the plan (metres), and its turn to the left (radians). */
  pose(): { readonly x: number, readonly y: number, readonly yaw: number } {
    const { position, rotation } = this.body.pose
    return { x: position.x, y: position.y, yaw: yawOf(rotation) }
  }

  /** Metres that the robot's middle has moved in all. */
  get pathLength(): number { return this.path }

  /** The dials as they stand, SI. */
  dials(): Readonly<Record<string, number>> {
    return Object.fromEntries((this.vm?.program.dials ?? []).map(d => [d.name, this.vm!.cells[d.cell]!]))
  }

  /** Sets a dial before the run, SI, within its range. False when there is none of that name. */
  setDial(name: string, value: number): boolean { return this.vm?.setDial(name, value) ?? false }

  /** Whether a point of the plan (metres) is over a deck. */
  onDeck(x: number, y: number): boolean {
    return this.world.scene.ground.some(deck => {
      const p = deck.nearest(x, y, deck.pz)
      return Math.abs(p.x - x) < 1e-9 && Math.abs(p.y - y) < 1e-9
    })
  }

  snapshot(): SimulationSnapshot {
    return {
      physics: this.world.physics.snapshot(), vm: this.vm?.snapshot() ?? null, senses: this.senses.snapshot(), drive: this.drive?.snapshot() ?? null,
      limbs: this.limbs.snapshot(), sound: this.sound.snapshot(), movement: this.movement.snapshot(),
      goals: this.goals.map(g => ({ ...g, memo: [...g.memo] })), tape: this.tape.state(), tick: this.tick, path: this.path, fell: this.fell, fallenFor: this.fallenFor, clipped: this.clipped,
      touched: this.touched.map(t => ({ ...t })), touching: [...this.touching], pressed: [...this.pressed], lastTouch: [...this.lastTouch], end: this.end, counts: { contacts: this.contacts, falls: this.falls },
    }
  }

  /** To a state of this simulation, or of another of the same inputs; the tape forgets what came after, and of another's what came before. */
  restore(state: SimulationSnapshot): void {
    this.world.physics.restore(state.physics)
    if (state.vm !== null) this.vm?.restore(state.vm)
    this.senses.restore(state.senses)
    this.drive?.restore(state.drive)
    this.limbs.restore(state.limbs)
    this.sound.restore(state.sound)
    this.shown.splice(0, this.shown.length, ...this.vm?.texts ?? [])
    state.goals.forEach((g, i) => Object.assign(this.goals[i]!, g, { memo: [...g.memo] }))
    this.tape.rewind(state.tape)
    this.tick = state.tick
    this.movement.restore(state.movement)
    this.path = state.path
    this.fell = state.fell
    this.fallenFor = state.fallenFor
    this.clipped = state.clipped
    this.end = state.end
    this.contacts = state.counts.contacts
    this.falls = state.counts.falls
    this.touched = state.touched.map(t => ({ ...t }))
    this.touching.clear()
    for (const [name, count] of state.touching) this.touching.set(name, count)
    this.pressed.clear()
    for (const name of state.pressed) this.pressed.add(name)
    this.lastTouch.clear()
    for (const [name, time] of state.lastTouch) this.lastTouch.set(name, time)
    this.pokes.length = 0
    for (const piece of this.world.pieces) this.awake.add(piece.name)
    this.readBody()
  }

  /** Shapes of the robot's parts that move against its chassis, in the order of the tape. */
  movingParts(): readonly { readonly shape: SolidShape, readonly device: string | null }[] {
    return movingParts(this.world.parts).map(i => ({ shape: this.world.parts[i]!.shape, device: this.world.parts[i]!.device }))
  }

  /** The latest picture of each camera, by name: rows from the top, four bytes a pixel. */
  pictures(): readonly { readonly name: string, readonly picture: NonNullable<DeviceModel['picture']> }[] {
    return this.facts.devices.flatMap(d => {
      const picture = d.kind === 'wheels' ? undefined : this.senses.modelOf(d.name).picture
      return picture === undefined ? [] : [{ name: d.name, picture }]
    })
  }

  /** Frees what the physics library holds; the tape stays readable. */
  free(): void { this.world.physics.free() }
}
