import { layOut, type Arena, type Layout } from '../arena'
import { Controller, CourseRecorder, type ControllerSnapshot, type CourseTick } from '../controller'
import { WHEELS, type DeviceModel, type RealismName } from '../devices'
import { yawOf, type SolidShape } from '../geometry'
import type { ProgramData } from '../program'
import { factsOf, type Robot, type RobotFacts } from '../robot'
import type { Keeping, Tape, TapeEvent, TapeState } from '../tape'
import type { Carried, LaneView } from '../vm'
import type { GoalState, Task } from '../task'
import type { BuiltWorld } from './build'
import { PhysicalRig, type RigSnapshot } from './physical-rig'
import { applyPoke, type Poke, type TimedPoke } from './pokes'
import { Recorder } from './recorder'
import { Referee, type RefereeSnapshot } from './referee'
import type { Heard, Line } from './wire'

export interface SimulationInput {
  /** null: the robot stands and senses, no program runs. */
  readonly program: ProgramData | null
  readonly robot: Robot
  readonly arena: Arena
  readonly task: Task | null
  readonly realism: RealismName
  /** How people call that, where it is something else: `measured`. */
  readonly called?: string
  readonly seed: number
  /** Seconds after which the run ends. */
  readonly limit: number
  /** What hands do, in the order of its ticks; nothing where it is left out. */
  readonly pokes?: readonly TimedPoke[]
  /** What is recorded; everything where it is left out. */
  readonly keeping?: Keeping
  /** What real devices read; none are where it is left out. */
  readonly heard?: Heard | null
}

export interface RunEnd {
  readonly ended: 'finished' | 'time' | 'error' | 'fell'
  readonly reason: string
  readonly time: number
}

export interface SimulationSnapshot {
  readonly rig: RigSnapshot
  readonly controller: ControllerSnapshot
  readonly referee: RefereeSnapshot
  readonly tape: TapeState
  readonly tick: number
  readonly end: RunEnd | null
}

/**
 * A program on a robot in an arena, tick by tick: a controller on a rig, with a referee and a recorder. The phases of a tick, in
 * order: 1. pokes, 2. looks that are due and readings that arrive, those of real devices over theirs, 3. the program, 4. the row on the tape, 5. motors, limbs,
 * belts, visitors and physics until the next tick, 6. contacts, falls and goals.
 */
export class Simulation {
  readonly facts: RobotFacts
  readonly layout: Layout
  /** Whether and how the run is over. */
  end: RunEnd | null = null
  private readonly rig: PhysicalRig
  private readonly controller: Controller
  private readonly referee: Referee
  private readonly recorder: Recorder
  private readonly pokes: Poke[] = []
  /** How many of the pokes that were known beforehand are done. */
  private done = 0
  private courseRecorder: CourseRecorder | null = null
  private tick = 0
  /** The wire to the devices that are real, while there is one. */
  private line: Line | null = null
  private readonly real: ReadonlySet<string>

  constructor(readonly input: SimulationInput) {
    const { program, robot, realism, seed, task } = input
    this.facts = factsOf(robot)
    this.real = new Set(input.heard?.devices)
    this.layout = layOut(input.arena, seed)
    const { arena, leftOut } = this.layout
    this.controller = new Controller(program, this.facts, seed)
    this.rig = new PhysicalRig(robot, this.facts, arena, this.layout, realism, seed, this.controller.commands, {
      touched: (other, began, time) => this.referee.contact(other, began, time),
      fed: piece => this.event('fed', `${piece} comes`, piece),
      clipped: () => this.event('clipped', 'more than the motors can do', WHEELS),
    })
    this.referee = new Referee(task, arena, this.rig, robot.height, (type, text, about) => this.event(type, text, about))
    this.recorder = new Recorder(this.rig, this.controller, program, input.keeping ?? 'all')
    for (const kind of new Set(leftOut)) this.event('arena', `no room for ${leftOut.filter(k => k === kind).length} of the ${kind}s that are scattered`, kind)
  }

  /** Seconds since the run began. */
  get time(): number { return this.tick * this.facts.tick }
  get tape(): Tape { return this.recorder.tape }
  get world(): BuiltWorld { return this.rig.world }
  get goals(): readonly GoalState[] { return this.referee.goals }
  /** How nearly each goal is met or lost at this instant, in its own unit; null where that says nothing. */
  margins(): readonly (number | null)[] { return this.referee.margins() }
  get contacts(): number { return this.referee.contacts }
  get falls(): number { return this.referee.falls }

  /** Interferes before the next tick. */
  poke(poke: Poke): void { this.pokes.push(poke) }

  /** One tick. What happened is the tape's last row and its new events. Nothing happens after the end. */
  advance(): void {
    if (this.end !== null) return
    const { rig, controller, time } = this
    this.takePlanned()
    if (this.pokes.length > 0) this.applyPokes()
    const { isHeard } = this
    rig.senses.leaveTo(isHeard ? this.real : null)
    rig.look(time, this.tick)
    const live = isHeard && this.hear()
    controller.tick(this.courseRecorder ?? rig)
    if (live) this.line!.obey(controller.commands)
    for (const { type, text, about } of controller.told) this.event(type, text, about)
    if (controller.end !== null) this.finish(controller.end.ended, controller.end.reason)
    this.recorder.record()
    rig.move(time, this.tick)
    this.tick++
    if (this.referee.fall()) this.finish('fell', 'the robot fell off the deck')
    if (this.time >= this.input.limit - 1e-9) this.finish('time', 'time is up')
    this.referee.judge(this.time, controller.finished, this.end !== null)
    if (live && this.end !== null) this.line!.rest()
  }

  /** From now on real devices are asked what they read, and told what is commanded; with null what was heard is all, and they are simulated from then on. */
  connect(line: Line | null): void { this.line = line }

  /** What real devices read in this run; null where none are. */
  get heard(): Heard | null { return this.input.heard ?? null }

  /** Whether what real devices read is known in this tick, or can be asked. */
  private get isHeard(): boolean {
    const { heard, line, tick } = this
    return heard !== null && tick >= heard.first && (tick < heard.end || line !== null)
  }

  /** Readings of real devices over the simulated ones: as they were heard, else as they are now. Whether it is now, and they can be told something. */
  private hear(): boolean {
    const heard = this.heard!
    const live = this.tick >= heard.end
    if (live) heard.add((into) => { this.line!.hear(into) })
    this.rig.senses.hear(heard, this.tick)
    return live
  }

  /** Ticks until the run is over. */
  runToEnd(): RunEnd {
    while (this.end === null) this.advance()
    return this.end
  }

  /** Pokes that were known beforehand and whose tick it is come before those of now. */
  private takePlanned(): void {
    const planned = this.input.pokes
    if (planned === undefined || this.done === planned.length) return
    const due: Poke[] = []
    for (let next = planned[this.done]; next !== undefined && next.tick <= this.tick; next = planned[this.done]) {
      due.push(next)
      this.done++
    }
    this.pokes.unshift(...due)
  }

  private applyPokes(): void {
    const { rig, controller, facts, time } = this
    const { world, body, sound, limbs, hands } = rig
    for (const poke of this.pokes) {
      const done = applyPoke(poke, { world, robot: this.input.robot, facts, body, limbs, hands, sound, controller, time, drawAnew: (seed) => { rig.senses.drawAnew(seed); controller.drawAnew(seed) } })
      if (done === null) continue
      if (done.moved !== null) {
        rig.stir(done.moved)
        rig.read()
      }
      this.tape.event({ tick: this.tick, type: 'poke', text: done.text, about: done.about, poke: { ...poke, tick: this.tick } })
    }
    this.pokes.length = 0
  }

  private finish(ended: RunEnd['ended'], reason: string): void {
    this.end ??= { ended, reason, time: this.time }
  }

  private event(type: TapeEvent['type'], text: string, about: string): void {
    this.tape.event({ tick: this.tick, type, text, about })
  }

  /** How things stand before the first tick, as a row of the tape; nothing is recorded. */
  peek(): Float64Array { return this.recorder.peek() }

  /** From now on, all that goes in and out of the controller is kept in this list. */
  recordCourse(): readonly CourseTick[] {
    this.courseRecorder ??= new CourseRecorder(this.rig)
    return this.courseRecorder.course
  }

  /** Where the robot's middle is on the plan (metres), and its turn to the left (radians). */
  pose(): { readonly x: number, readonly y: number, readonly yaw: number } {
    const { position, rotation } = this.rig.body.pose
    return { x: position.x, y: position.y, yaw: yawOf(rotation) }
  }

  /** Metres that the robot's middle has moved in all. */
  get pathLength(): number { return this.rig.path }

  /** What is true of each reading now, SI, in the order of the readings; NaN where it cannot be told. */
  truths(): Float64Array { return this.rig.senses.truths(-this.layout.start.heading) }

  /** The tick in which the look that each reading tells of was begun, at the index of its device's first reading. */
  get lookedAt(): Float64Array { return this.rig.senses.began }

  /** Readings as they came in last, before any reset, SI. */
  get readings(): Float64Array { return this.rig.senses.raw }

  /** The tick in which the program last reset a reading; -1 where it never did. */
  resetAt(reading: number): number { return this.controller.resetAt?.[reading] ?? -1 }

  /** The lanes as they stand, in the order of the program; none without one. */
  lanes(): readonly LaneView[] { return this.input.program === null ? [] : this.input.program.lanes.map((_, i) => this.controller.lane(i)) }

  /** What moves the motors in the latest tick. */
  moving(): ReturnType<Controller['moving']> { return this.controller.moving() }

  /** A tick, and which of the program's cells were set in it by which steps. */
  advanceWatched(): ReturnType<Controller['watched']> { return this.controller.watched(() => this.advance()) }

  /** The dials as they stand, SI. */
  dials(): Readonly<Record<string, number>> { return this.controller.dials() }

  /** Sets a dial before the run, SI, within its range. False when there is none of that name. */
  setDial(name: string, value: number): boolean { return this.controller.setDial(name, value) }

  /** Whether a point of the plan (metres) is over a deck. */
  onDeck(x: number, y: number): boolean { return this.rig.onDeck(x, y) }

  snapshot(): SimulationSnapshot {
    return { rig: this.rig.snapshot(), controller: this.controller.snapshot(), referee: this.referee.snapshot(), tape: this.tape.state(), tick: this.tick, end: this.end }
  }

  /** To a state of this simulation, or of another of the same inputs; the tape forgets what came after, and of another's what came before. */
  restore(state: SimulationSnapshot): void {
    this.controller.restore(state.controller)
    this.place(state)
  }

  /**
   * Goes on from a state of a run of another program on the same robot, arena and task; says what of the program's state goes on
   * and what begins anew. Of the same program everything goes on, and nothing is said.
   */
  goOn(from: ProgramData | null, state: SimulationSnapshot): readonly Carried[] {
    if (JSON.stringify(from) === JSON.stringify(this.input.program)) {
      this.restore(state)
      return []
    }
    const carried = this.controller.takeOver(from, state.controller)
    this.place(state)
    return carried
  }

  private place(state: SimulationSnapshot): void {
    this.rig.restore(state.rig)
    this.referee.restore(state.referee)
    this.tape.rewind(state.tape)
    this.tick = state.tick
    this.end = state.end
    this.pokes.length = 0
    this.done = (this.input.pokes ?? []).filter(p => p.tick < state.tick).length
  }

  /** Shapes of the robot's parts that move against its chassis, in the order of the tape. */
  movingParts(): readonly { readonly shape: SolidShape, readonly device: string | null }[] { return this.rig.movingParts() }

  /** The latest picture of each camera, by name: rows from the top, four bytes a pixel. */
  pictures(): readonly { readonly name: string, readonly picture: NonNullable<DeviceModel['picture']> }[] { return this.rig.pictures() }

  /** Frees what the physics library holds; the tape stays readable. */
  free(): void { this.rig.free() }
}
