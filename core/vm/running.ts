import type { LaneData, ProgramData } from '../program'
import { RandomStream } from '../random'
import { channelCount, type RobotFacts } from '../robot'
import { loadProgram, type LoadedRule, type Motion } from './load'
import type { Instruction, Machine } from './machine'
import { PHASE, type LaneState, type VmEvent, type VmSnapshot } from './state'

/** Instructions that a lane's loops may go through in one tick; more means that no time passes in one. */
const STEP_LIMIT = 10_000

/** A motion stalled for this long ends by itself, seconds. */
const BLOCKED_AFTER = 1

/**
 * What a running program is made of, and all that its compiled code can ask for: readings, cells, commands, motions, signals and
 * random numbers. Which code runs when is the affair of `Vm`.
 */
export abstract class RunningProgram implements Machine {
  /** The latest looks as they came in; not to be changed. */
  raw: Float64Array
  /** What the program reads in this tick: `raw` as it came, or a copy of it once something in it has to `seem` otherwise. */
  readings: Float64Array
  /** Readings of its own, for ticks in which they are not as they came. */
  protected readonly own: Float64Array
  readonly commands: Float64Array
  readonly cells: Float64Array
  readonly dt: number
  looks: Float64Array
  began: Float64Array
  /** What displays show. */
  readonly texts: string[]
  still = true
  /** The tick at work; -1 before the first. */
  tick = -1
  /** What this tick told, in order. */
  readonly events: VmEvent[] = []
  /** Why the program asked to end; null while it goes on. */
  finished: string | null = null

  /** What `reset` took off each reading, and the readings that it may have taken something off. */
  protected readonly offsets: Float64Array
  /** The tick in which each reading was reset last; -1 where it never was. */
  readonly resetAt: Float64Array
  protected taken: readonly number[]
  protected readonly stalledTicks: Float64Array
  /** The reading that says that an actuator is stalled; -1 where it cannot be. */
  protected readonly stalling: readonly number[]
  /** Channels that hold for a tick only: what nothing moves, brakes. */
  protected readonly passing: readonly number[]
  /** The lane that spoke to each shared actuator, and in which tick: within a tick the higher lane's word stands. */
  protected readonly claimedBy: Int32Array
  protected readonly claimedAt: Int32Array
  protected heardNow: Uint8Array
  protected sentNow: Uint8Array
  protected readonly lanes: LaneState[]
  protected readonly code: readonly Instruction[]
  protected readonly everyTick: readonly ((m: Machine) => void)[]
  protected readonly motions: readonly Motion[]
  /** Readings that the program resets somewhere. */
  private readonly resets: readonly number[]
  protected readonly rulesOf: LoadedRule[][][]
  protected readonly wants: Uint8Array[]
  protected readonly streams: RandomStream[]
  protected readonly started: Uint8Array
  protected current = 0
  /** State of the lane at work. */
  protected here!: LaneState
  /** Instructions of the loops that the lane at work went round in this tick. */
  protected looped = 0
  protected failure: { message: string, step: number } | null = null

  constructor(readonly program: ProgramData, protected readonly facts: RobotFacts, seed: number) {
    this.raw = new Float64Array(facts.readingCount)
    this.own = this.readings = new Float64Array(facts.readingCount)
    this.offsets = new Float64Array(facts.readingCount)
    this.resetAt = new Float64Array(facts.readingCount).fill(-1)
    this.looks = new Float64Array(facts.readingCount)
    this.began = new Float64Array(facts.readingCount)
    this.commands = new Float64Array(channelCount(facts))
    facts.actuators.forEach(a => this.commands.set(a.initial, a.channel))
    this.passing = facts.actuators.flatMap(a => a.stays.flatMap((stays, i) => stays ? [] : [a.channel + i]))
    this.claimedBy = new Int32Array(facts.actuators.length)
    this.claimedAt = new Int32Array(facts.actuators.length).fill(-1)
    this.texts = facts.devices.filter(d => d.kind === 'display').map(() => '')
    this.cells = Float64Array.from(program.cells)
    const { code, everyTick, motions, resets, rules } = loadProgram(program, facts)
    this.code = code
    this.everyTick = everyTick
    this.motions = motions
    this.taken = this.resets = resets
    this.dt = facts.tick
    this.stalledTicks = new Float64Array(facts.actuators.length)
    this.stalling = facts.actuators.map((a) => {
      const device = facts.devices.find(d => d.name === a.name)
      const at = device?.readings.findIndex(r => r.name === 'stalled') ?? -1
      return device === undefined || at === -1 ? -1 : device.first + at
    })
    this.heardNow = new Uint8Array(program.signals.length)
    this.sentNow = new Uint8Array(program.signals.length)
    this.rulesOf = program.lanes.map(lane => lane.modes.map(mode => [...lane.above, ...mode.rules].map(n => rules[n]!)))
    this.wants = program.lanes.map((_, i) => new Uint8Array(Math.max(0, ...this.rulesOf[i]!.map(r => r.length))))
    this.started = new Uint8Array(program.rules.length)
    this.streams = program.lanes.map(lane => RandomStream.named(seed, `program/${lane.name}`))
    this.lanes = program.lanes.map(lane => ({
      phase: lane.start === -1 ? PHASE.modeStart : PHASE.laneStart,
      mode: -1, control: -1, pc: lane.start, entered: 0, goTick: -1, pendingGo: -1, step: -1,
      motions: facts.actuators.map(() => -1),
    }))
  }

  /** Sets a dial's value, SI, within its range. False when there is no such dial. */
  setDial(name: string, value: number): boolean {
    const dial = this.program.dials.find(d => d.name === name)
    if (dial === undefined || !Number.isFinite(value)) return false
    this.cells[dial.cell] = Math.min(dial.to, Math.max(dial.from, value))
    return true
  }

  /** From now on the lanes draw anew, as this seed says. */
  drawAnew(seed: number): void { this.streams.forEach((stream, i) => stream.beginAnew(seed, `anew/program/${this.program.lanes[i]!.name}`)) }

  /** What the motions of a lane that are in force move: actuators, each with the step that moves it; a higher lane's come first. */
  moving(): readonly { readonly actuator: string, readonly lane: number, readonly step: number }[] {
    return this.lanes.flatMap((l, lane) => l.motions.flatMap((motion, a) => motion === -1 ? [] : [{ actuator: this.facts.actuators[a]!.name, lane, step: this.motions[motion]!.step }]))
  }

  snapshot(): VmSnapshot {
    return {
      tick: this.tick, cells: [...this.cells], commands: [...this.commands], texts: [...this.texts], offsets: [...this.offsets], resetAt: [...this.resetAt], stalled: [...this.stalledTicks],
      heard: [...this.heardNow], sent: [...this.sentNow],
      lanes: this.lanes.map(l => ({ ...l, motions: [...l.motions] })),
      streams: this.streams.map(s => s.snapshot()),
    }
  }

  restore(state: VmSnapshot): void {
    this.tick = state.tick
    this.cells.set(state.cells)
    this.commands.set(state.commands)
    this.texts.splice(0, this.texts.length, ...state.texts)
    this.claimedAt.fill(-1)
    this.offsets.set(state.offsets)
    this.resetAt.set(state.resetAt)
    // What was taken off by a program that was another then stays taken off.
    this.taken = [...new Set([...this.resets, ...state.offsets.flatMap((x, i) => x === 0 ? [] : [i])])]
    this.stalledTicks.set(state.stalled)
    this.heardNow.set(state.heard)
    this.sentNow.set(state.sent)
    state.lanes.forEach((l, i) => Object.assign(this.lanes[i]!, l, { motions: [...l.motions] }))
    state.streams.forEach((s, i) => this.streams[i]!.restore(s))
    this.events.length = 0
    this.finished = null
  }

  /** Enters a mode of a lane. */
  protected abstract enter(l: LaneState, lane: LaneData, mode: number): void

  /** Ends a lane whose code failed; its motions brake, other lanes go on. Whether it is over. */
  protected abstract stopped(l: LaneState): boolean

  // Motions.

  protected clearMotions(l: LaneState): void {
    const { motions } = l
    for (let a = 0; a < motions.length; a++) motions[a] = -1
  }

  protected applyMotions(l: LaneState): void {
    const { motions } = l
    for (let a = 0; a < motions.length; a++) {
      const motion = motions[a]!
      if (motion === -1) continue
      const { plan, at, step, actuators, shared } = this.motions[motion]!
      // One that moves several actuators is applied once, by the first.
      if (actuators[0] !== a || (shared && !this.claim(actuators))) continue
      plan.apply(this, at)
      if (this.failure !== null) { this.standStill(l, this.failure, step); return }
    }
  }

  /** A motion could not be worked out: its lane stops, and all that it moved. */
  private standStill(l: LaneState, failure: { readonly message: string }, step: number): void {
    this.failure = { message: failure.message, step }
    const moved = l.motions.flatMap((m, i) => m === -1 ? [] : [i])
    this.stopped(l)
    for (const i of moved) this.brakeOne(i)
  }

  /** What one actuator was told for this tick alone is taken back. */
  protected brakeOne(actuator: number): void {
    const { channel, stays } = this.facts.actuators[actuator]!
    stays.forEach((stay, i) => { if (!stay) this.commands[channel + i] = 0 })
  }

  protected brake(): void {
    const { passing, commands } = this
    for (let i = 0; i < passing.length; i++) commands[passing[i]!] = 0
  }

  /** Whether the lane at work may speak to these actuators in this tick: no higher lane has. */
  protected claim(actuators: readonly number[]): boolean {
    for (const a of actuators) if (this.claimedAt[a] === this.tick && this.claimedBy[a] !== this.current) return false
    for (const a of actuators) {
      this.claimedAt[a] = this.tick
      this.claimedBy[a] = this.current
    }
    return true
  }

  // What compiled code asks for.

  modeEntered(): number { return this.here.entered }

  heard(signal: number): boolean { return this.heardNow[signal] === 1 }

  send(signal: number): void {
    this.sentNow[signal] = 1
    this.events.push({ type: 'signal', lane: this.program.lanes[this.current]!.name, name: this.program.signals[signal]! })
  }

  random(low: number, high: number): number { return this.streams[this.current]!.between(low, high) }

  /** What a run is asked afterwards: which steps set which cells. Kept only where somebody listens. */
  sets: { readonly cell: number, readonly step: number, readonly lane: number }[] | null = null
  set(cell: number, value: number, step: number): void {
    // A step that failed while its values were worked out does nothing.
    if (this.failure !== null) return
    this.cells[cell] = value
    this.sets?.push({ cell, step, lane: this.current })
  }

  reset(reading: number): void {
    this.offsets[reading] = this.raw[reading]!
    this.resetAt[reading] = this.tick
    this.seem(reading, 0)
  }

  /** Something is taken off those only that the program resets somewhere. */
  protected takeOff(): void {
    const { offsets, taken, raw } = this
    for (let i = 0; i < taken.length; i++) this.seem(taken[i]!, raw[taken[i]!]! - offsets[taken[i]!]!)
  }

  seem(reading: number, value: number): void {
    if (this.readings !== this.own) {
      this.own.set(this.raw)
      this.readings = this.own
    }
    this.own[reading] = value
  }

  note(text: string): void {
    if (this.failure !== null) return
    this.events.push({ type: 'note', lane: this.program.lanes[this.current]!.name, text })
  }

  finish(why: string): void {
    if (this.failure !== null) return
    this.finished ??= why
    this.events.push({ type: 'finish', lane: this.program.lanes[this.current]!.name, why })
  }

  go(mode: number): void {
    const l = this.here
    if (l.goTick === this.tick) { l.pendingGo = mode; return }
    l.goTick = this.tick
    this.enter(l, this.program.lanes[this.current]!, mode)
  }

  at(step: number): void { this.here.step = step }

  startMotion(motion: number): void {
    const { actuators } = this.motions[motion]!
    const { motions } = this.here
    for (let i = 0; i < actuators.length; i++) motions[actuators[i]!] = motion
  }

  /** Starts a motion that is asked in this tick and those to come whether it is `blocked`. */
  beginMotion(motion: number): void {
    this.startMotion(motion)
    // How long an earlier motion stood against something says nothing of this one, nor what is read in the tick in which it begins.
    for (const a of this.motions[motion]!.actuators) this.stalledTicks[a] = -1
  }

  stopMotion(motion: number): void {
    const { motions } = this.here
    for (const a of this.motions[motion]!.actuators) motions[a] = -1
  }

  stopMotions(first: number, end: number): void {
    const { motions } = this.here
    for (let a = 0; a < motions.length; a++) if (motions[a]! >= first && motions[a]! < end) motions[a] = -1
  }

  applySetting(motion: number): void {
    if (this.failure !== null) return
    const { actuators, plan, at, shared } = this.motions[motion]!
    if (!shared || this.claim(actuators)) plan.apply(this, at)
  }

  blocked(motion: number): boolean {
    const { actuators, step } = this.motions[motion]!
    const { raw, stalling, stalledTicks } = this
    for (const a of actuators) {
      const says = stalling[a]!
      if (says === -1) continue
      stalledTicks[a] = raw[says]! > 0 ? stalledTicks[a]! + 1 : 0
      if (stalledTicks[a]! * this.dt < BLOCKED_AFTER) continue
      stalledTicks[a] = 0
      this.events.push({ type: 'blocked', lane: this.program.lanes[this.current]!.name, actuator: this.facts.actuators[a]!.name, line: this.program.steps[step]!.line })
      return true
    }
    return false
  }

  clip(actuator: string): void {
    this.events.push({ type: 'clipped', lane: this.program.lanes[this.current]!.name, actuator })
  }

  edge(cell: number): boolean {
    // The tick in which it was reached last, and a half where it acted then: rounds of a loop in one tick do as the first did.
    const before = this.cells[cell]!
    const reached = Math.floor(before)
    const acts = reached === this.tick ? before !== reached : reached !== this.tick - 1
    this.cells[cell] = this.tick + (acts ? 0.5 : 0)
    return acts
  }

  fail(message: string, step: number): void { this.failure ??= { message, step } }

  round(instructions: number, step: number): void {
    this.looped += instructions
    if (this.looped > STEP_LIMIT) this.fail('no time passes in this loop: it ran more than 10,000 steps within one tick. Put a wait, or a step that takes time, inside', step)
  }
}
