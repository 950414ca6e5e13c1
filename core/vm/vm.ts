import type { LaneData, ProgramData } from '../program'
import { RandomStream, type StreamState } from '../random'
import { channelCount, type RobotFacts } from '../robot'
import { loadProgram, type Loaded, type LoadedRule } from './load'
import { DONE, FINISHED, GONE, WAIT, type Machine } from './machine'

/** Steps that a lane may run in one tick; more means that no time passes in a loop. */
export const STEP_LIMIT = 10_000
/** A motion stalled for this long ends by itself, seconds. */
const BLOCKED_AFTER = 1

/** What a lane is at. `rules` covers the time in which none has control. */
export const PHASE = { laneStart: 0, modeStart: 1, rules: 2, ended: 3, failed: 4 } as const

export type VmEvent =
  | { readonly type: 'note', readonly lane: string, readonly text: string }
  | { readonly type: 'finish', readonly lane: string, readonly why: string }
  | { readonly type: 'signal', readonly lane: string, readonly name: string }
  | { readonly type: 'blocked', readonly lane: string, readonly actuator: string, readonly line: number }
  /** An actuator was asked for more than it can do. */
  | { readonly type: 'clipped', readonly lane: string, readonly actuator: string }
  | { readonly type: 'error', readonly lane: string, readonly message: string, readonly line: number }

/** What the world tells the program at the beginning of a tick. */
export interface VmInput {
  /** Latest looks, one value per reading, before resets. */
  readonly raw: Float64Array
  /** Looks taken by each device, at the index of its first reading. */
  readonly looks: Float64Array
  /** The tick in which the latest look of each device was begun, at the same places. */
  readonly began: Float64Array
  readonly still: boolean
}

/** A lane as others see it. */
export interface LaneView {
  readonly name: string
  readonly phase: number
  readonly mode: number
  /** Number of the rule in control; -1 when none is. */
  readonly rule: number
  /** Number of the step it is at; -1 when none. */
  readonly step: number
  /** The tick in which it entered its mode. */
  readonly entered: number
}

export interface LaneState {
  phase: number
  mode: number
  /** Place of the rule in control among the rules above and of the mode; -1 none. */
  control: number
  /** -1 when no stepped rule is in the middle of its steps. */
  pc: number
  entered: number
  goTick: number
  pendingGo: number
  step: number
  loop: number
  motions: number[]
}

export interface VmSnapshot {
  readonly tick: number
  readonly cells: readonly number[]
  readonly commands: readonly number[]
  readonly texts: readonly string[]
  readonly offsets: readonly number[]
  readonly stalled: readonly number[]
  readonly heard: readonly number[]
  readonly sent: readonly number[]
  readonly lanes: readonly LaneState[]
  readonly streams: readonly StreamState[]
}

/**
 * Runs a compiled program, one tick at a time. All of its state is plain data
 * (`snapshot`), and what it did in a tick are the commands, the events and the lanes.
 */
export class Vm implements Machine {
  /** The latest looks as they came in; not to be changed. */
  raw: Float64Array
  readonly readings: Float64Array
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

  /** What `reset` took off each reading. */
  private readonly offsets: Float64Array
  private readonly stalledTicks: Float64Array
  /** Actuators that can stall, each followed by the reading that says so. */
  private readonly stalling: Int32Array
  /** Channels that hold for a tick only: what nothing moves, brakes. */
  private readonly passing: Int32Array
  /** The lane that spoke to each shared actuator, and in which tick: within a tick the higher lane's word stands. */
  private readonly claimedBy: Int32Array
  private readonly claimedAt: Int32Array
  private heardNow: Uint8Array
  private sentNow: Uint8Array
  private readonly lanes: LaneState[]
  private readonly loaded: Loaded
  private readonly rulesOf: LoadedRule[][][]
  private readonly wants: Uint8Array[]
  private readonly streams: RandomStream[]
  private readonly started: Uint8Array
  private current = 0
  /** State of the lane at work. */
  private here!: LaneState
  private budget = 0
  private failure: { message: string, step: number } | null = null

  constructor(readonly program: ProgramData, private readonly facts: RobotFacts, seed: number) {
    this.raw = new Float64Array(facts.readingCount)
    this.readings = new Float64Array(facts.readingCount)
    this.offsets = new Float64Array(facts.readingCount)
    this.looks = new Float64Array(facts.readingCount)
    this.began = new Float64Array(facts.readingCount)
    this.commands = new Float64Array(channelCount(facts))
    facts.actuators.forEach(a => this.commands.set(a.initial, a.channel))
    this.passing = Int32Array.from(facts.actuators.flatMap(a => a.stays.flatMap((stays, i) => stays ? [] : [a.channel + i])))
    this.claimedBy = new Int32Array(facts.actuators.length)
    this.claimedAt = new Int32Array(facts.actuators.length).fill(-1)
    this.texts = facts.devices.filter(d => d.kind === 'display').map(() => '')
    this.cells = Float64Array.from(program.cells)
    this.loaded = loadProgram(program, facts)
    this.dt = facts.tick
    this.stalledTicks = new Float64Array(facts.actuators.length)
    this.stalling = Int32Array.from(facts.actuators.flatMap((a, i) => {
      const device = facts.devices.find(d => d.name === a.name)
      const at = device?.readings.findIndex(r => r.name === 'stalled') ?? -1
      return device === undefined || at === -1 ? [] : [i, device.first + at]
    }))
    this.heardNow = new Uint8Array(program.signals.length)
    this.sentNow = new Uint8Array(program.signals.length)
    this.rulesOf = program.lanes.map(lane => lane.modes.map(mode => [...lane.above, ...mode.rules].map(n => this.loaded.rules[n]!)))
    this.wants = program.lanes.map((_, i) => new Uint8Array(Math.max(0, ...this.rulesOf[i]!.map(r => r.length))))
    this.started = new Uint8Array(program.rules.length)
    this.streams = program.lanes.map(lane => RandomStream.named(seed, `program/${lane.name}`))
    this.lanes = program.lanes.map(lane => ({
      phase: lane.start === -1 ? PHASE.modeStart : PHASE.laneStart,
      mode: -1, control: -1, pc: lane.start, entered: 0, goTick: -1, pendingGo: -1, step: -1, loop: -1,
      motions: facts.actuators.map(() => -1),
    }))
  }

  /** One tick: readings in, commands and events out. */
  run(input: VmInput): void {
    this.tick++
    if (this.events.length > 0) this.events.length = 0
    this.looks = input.looks
    this.began = input.began
    this.still = input.still
    const { raw } = input
    this.raw = raw
    const { readings, offsets } = this
    // Nothing is ever taken off most of them: one loop over a few numbers is faster than two, and than copying the array.
    for (let i = 0; i < readings.length; i++) readings[i] = raw[i]! - offsets[i]!
    if (this.sentNow.length > 0) {
      const heard = this.heardNow
      this.heardNow = this.sentNow
      this.sentNow = heard.fill(0)
    }
    for (let i = 0; i < this.stalling.length; i += 2) {
      const a = this.stalling[i]!
      this.stalledTicks[a] = raw[this.stalling[i + 1]!]! > 0 ? this.stalledTicks[a]! + 1 : 0
    }
    this.brake()
    for (const work of this.loaded.everyTick) {
      work(this)
      if (this.failure !== null) { this.failEvery(); break }
    }
    for (let i = 0; i < this.lanes.length; i++) {
      this.current = i
      this.here = this.lanes[i]!
      this.runLane(this.lanes[i]!, this.program.lanes[i]!)
      this.applyMotions(this.lanes[i]!)
    }
  }

  /** Whether nothing more will happen: every lane is over. */
  get over(): boolean {
    return this.lanes.every(l => l.phase >= PHASE.ended)
  }

  get failed(): boolean {
    return this.lanes.some(l => l.phase === PHASE.failed)
  }

  lane(i: number): LaneView {
    const l = this.lanes[i]!
    const rule = l.control === -1 || l.mode === -1 ? -1 : this.rulesOf[i]![l.mode]![l.control]!.number
    return { name: this.program.lanes[i]!.name, phase: l.phase, mode: l.mode, rule, step: l.step, entered: l.entered }
  }

  /** Sets a dial's value, SI, within its range. False when there is no such dial. */
  setDial(name: string, value: number): boolean {
    const dial = this.program.dials.find(d => d.name === name)
    if (dial === undefined || !Number.isFinite(value)) return false
    this.cells[dial.cell] = Math.min(dial.to, Math.max(dial.from, value))
    return true
  }

  snapshot(): VmSnapshot {
    return {
      tick: this.tick, cells: [...this.cells], commands: [...this.commands], texts: [...this.texts], offsets: [...this.offsets], stalled: [...this.stalledTicks],
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
    this.stalledTicks.set(state.stalled)
    this.heardNow.set(state.heard)
    this.sentNow.set(state.sent)
    state.lanes.forEach((l, i) => Object.assign(this.lanes[i]!, l, { motions: [...l.motions] }))
    state.streams.forEach((s, i) => this.streams[i]!.restore(s))
    this.events.length = 0
    this.finished = null
  }

  // One lane, one tick.

  private runLane(l: LaneState, lane: LaneData): void {
    if (l.phase >= PHASE.ended) return
    this.budget = 0
    if (l.phase === PHASE.laneStart) {
      const how = this.execute(l)
      if (how === WAIT) return
      if (this.stopped(l)) return
      if (how === FINISHED) return
      if (how !== GONE) {
        if (lane.sequence) { this.clearMotions(l); l.phase = PHASE.ended; l.step = -1; return }
        this.enter(l, lane, 0)
      }
    } else if (l.mode === -1) this.enter(l, lane, 0)
    if (l.pendingGo !== -1) {
      const mode = l.pendingGo
      l.pendingGo = -1
      l.goTick = this.tick
      this.enter(l, lane, mode)
    }
    if (lane.above.length > 0) this.evaluateAbove(l, lane)
    let evaluated = -1
    // Each round enters a mode or settles the tick; a second `go` in a tick waits, so there are few.
    for (;;) {
      if (l.phase === PHASE.modeStart) {
        const how = this.execute(l)
        if (this.stopped(l) || how === FINISHED) return
        if (how === GONE) {
          if (l.pendingGo !== -1) return
          evaluated = -1
          continue
        }
        if (how === WAIT) {
          if (evaluated !== l.mode) this.evaluateMode(l, lane)
          this.stopped(l)
          return
        }
        this.clearMotions(l)
        l.phase = PHASE.rules
        l.pc = -1
      }
      if (evaluated !== l.mode) {
        this.evaluateMode(l, lane)
        evaluated = l.mode
        if (this.stopped(l)) return
      }
      const went = this.decide(l)
      if (this.stopped(l) || !went || l.pendingGo !== -1) return
      evaluated = -1
    }
  }

  private rules(l: LaneState): readonly LoadedRule[] {
    return this.rulesOf[this.current]![l.mode]!
  }

  private evaluateAbove(l: LaneState, lane: LaneData): void {
    const wants = this.wants[this.current]!
    const rules = this.rulesOf[this.current]![l.mode]!
    for (let i = 0; i < lane.above.length; i++) wants[i] = rules[i]!.wants(this) ? 1 : 0
    this.stopped(l)
  }

  private evaluateMode(l: LaneState, lane: LaneData): void {
    const wants = this.wants[this.current]!
    const rules = this.rulesOf[this.current]![l.mode]!
    for (let i = lane.above.length; i < rules.length; i++) wants[i] = rules[i]!.wants(this) ? 1 : 0
  }

  /** Who has control, and its steps. True when a `go` entered another mode. */
  private decide(l: LaneState): boolean {
    const rules = this.rules(l)
    const wants = this.wants[this.current]!
    const middle = l.control !== -1 && !rules[l.control]!.live && l.pc !== -1
    let top = -1
    for (let i = 0; i < rules.length && top === -1; i++) {
      if (wants[i] === 0) continue
      const rule = rules[i]!
      if (!(rule.live && rule.once)) { top = i; continue }
      if (middle && i > l.control) break
      // Acts, and what is in control goes on.
      wants[i] = 0
      const how = this.act(l, rule)
      if (how === GONE) return l.pendingGo === -1
      if (how === FINISHED || this.failure !== null) return false
    }
    if (top !== -1 && (l.control === -1 || top < l.control)) this.take(l, top)
    else if (!middle && l.control !== top) this.take(l, top)
    return this.play(l)
  }

  /** Runs a live `once` rule beside what has control; the rule's own place is kept. */
  private act(l: LaneState, rule: LoadedRule): number {
    const { pc, step } = l
    const motions = [...l.motions]
    l.pc = rule.body
    const how = this.execute(l)
    this.cells[rule.doneCell] = 1
    if (how !== GONE) { l.pc = pc; l.step = step; l.motions = motions }
    return how
  }

  /** Plays the rule in control until it has to wait; passes control on when its steps are done. */
  private play(l: LaneState): boolean {
    const rules = this.rules(l)
    const wants = this.wants[this.current]!
    const started = this.started
    let fresh = false
    while (l.control !== -1) {
      const rule = rules[l.control]!
      if (rule.live) {
        this.clearMotions(l)
        l.pc = rule.body
        const how = this.execute(l)
        if (how === GONE) return l.pendingGo === -1
        l.pc = -1
        return false
      }
      if (!fresh) { started.fill(0); fresh = true }
      if (l.pc === -1) {
        if (started[l.control] === 1) return false
        started[l.control] = 1
        this.clearMotions(l)
        l.pc = rule.body
      }
      const place = l.control
      const how = this.execute(l)
      if (how === WAIT || how === FINISHED || this.failure !== null) return false
      // Also where it went to a mode and has no control there: among the rules above it is asked on in this tick.
      if (rule.once) { this.cells[rule.doneCell] = 1; wants[place] = 0 }
      if (how === GONE) return l.pendingGo === -1
      l.pc = -1
      const next = this.firstWanting(rules, wants)
      if (next === l.control) {
        if (started[next] === 1) return false
        continue
      }
      if (next !== -1 && started[next] === 1) { this.take(l, -1); return false }
      this.take(l, next)
    }
    return false
  }


  private firstWanting(rules: readonly LoadedRule[], wants: Uint8Array): number {
    for (let i = 0; i < rules.length; i++) if (wants[i] === 1 && !(rules[i]!.live && rules[i]!.once)) return i
    return -1
  }

  private take(l: LaneState, rule: number): void {
    this.clearMotions(l)
    l.control = rule
    l.pc = -1
    l.step = -1
  }

  private enter(l: LaneState, lane: LaneData, mode: number): void {
    this.clearMotions(l)
    l.mode = mode
    l.control = -1
    l.step = -1
    l.entered = this.tick
    const target = lane.modes[mode]!
    for (const n of target.rules) for (const cell of this.program.rules[n]!.cells) this.cells[cell] = -1
    for (const cell of target.totals) this.cells[cell] = 0
    l.pc = target.start
    l.phase = target.start === -1 ? PHASE.rules : PHASE.modeStart
  }

  private execute(l: LaneState): number {
    const { code } = this.loaded
    let pc = l.pc
    for (;;) {
      const next = code[pc]!(this)
      if (this.failure !== null) { l.pc = -1; return FINISHED }
      if (next >= 0) {
        pc = next
        if (++this.budget > STEP_LIMIT) {
          this.failure = { message: 'no time passes in this loop: it ran more than 10,000 steps within one tick. Put a wait, or a step that takes time, inside', step: l.loop === -1 ? l.step : l.loop }
          l.pc = -1
          return FINISHED
        }
        continue
      }
      if (next === WAIT) { l.pc = pc; return WAIT }
      if (next === GONE) {
        // It has control until the mode is entered, with the next tick.
        if (l.pendingGo !== -1) { l.pc = -1; l.phase = PHASE.rules }
        return GONE
      }
      l.pc = -1
      if (next === FINISHED) { l.phase = PHASE.ended; this.clearMotions(l) }
      return next === DONE ? DONE : FINISHED
    }
  }

  /** Ends a lane whose code failed; its motions brake, other lanes go on. */
  private stopped(l: LaneState): boolean {
    if (this.failure === null) return l.phase >= PHASE.ended
    const { message, step } = this.failure
    this.failure = null
    this.clearMotions(l)
    l.phase = PHASE.failed
    const line = this.program.steps[step]?.line ?? 0
    this.events.push({ type: 'error', lane: this.program.lanes[this.current]!.name, message, line })
    return true
  }

  /** What is worked out on every tick belongs to all lanes: where that fails, each stops. */
  private failEvery(): void {
    const { failure } = this
    this.lanes.forEach((l, i) => {
      this.current = i
      this.failure = failure
      if (l.phase < PHASE.ended) this.stopped(l)
    })
    this.failure = null
  }

  private clearMotions(l: LaneState): void {
    for (let a = 0; a < l.motions.length; a++) l.motions[a] = -1
  }

  private applyMotions(l: LaneState): void {
    for (let a = 0; a < l.motions.length; a++) {
      const motion = l.motions[a]!
      if (motion === -1) continue
      const { plan, at, step, actuators, shared } = this.loaded.motions[motion]!
      // One that moves several actuators is applied once, by the first.
      if (actuators[0] !== a || (shared && !this.claim(actuators))) continue
      plan.apply(this, at)
      if (this.failure !== null) {
        this.failure = { ...this.failure as { message: string, step: number }, step }
        const moved = l.motions.flatMap((m, i) => m === -1 ? [] : [i])
        this.stopped(l)
        for (const i of moved) this.brakeOne(i)
        return
      }
    }
  }

  /** What one actuator was told for this tick alone is taken back. */
  private brakeOne(actuator: number): void {
    const { channel, stays } = this.facts.actuators[actuator]!
    stays.forEach((stay, i) => { if (!stay) this.commands[channel + i] = 0 })
  }

  private brake(): void {
    for (let i = 0; i < this.passing.length; i++) this.commands[this.passing[i]!] = 0
  }

  /** Whether the lane at work may speak to these actuators in this tick: no higher lane has. */
  private claim(actuators: readonly number[]): boolean {
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

  reset(reading: number): void {
    this.offsets[reading] = this.raw[reading]!
    this.readings[reading] = 0
  }

  note(text: string): void {
    this.events.push({ type: 'note', lane: this.program.lanes[this.current]!.name, text })
  }

  finish(why: string): void {
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
    // How long an earlier motion stood against something says nothing of this one.
    for (const a of this.loaded.motions[motion]!.actuators) {
      this.here.motions[a] = motion
      this.stalledTicks[a] = 0
    }
  }

  stopMotion(motion: number): void {
    const { motions } = this.here
    for (const a of this.loaded.motions[motion]!.actuators) motions[a] = -1
  }

  stopMotions(first: number, end: number): void {
    const { motions } = this.here
    for (let a = 0; a < motions.length; a++) if (motions[a]! >= first && motions[a]! < end) motions[a] = -1
  }

  applySetting(motion: number): void {
    const { actuators, plan, at, shared } = this.loaded.motions[motion]!
    if (!shared || this.claim(actuators)) plan.apply(this, at)
  }

  blocked(motion: number): boolean {
    const { actuators, step } = this.loaded.motions[motion]!
    for (const a of actuators) {
      if (this.stalledTicks[a]! * this.dt < BLOCKED_AFTER) continue
      this.stalledTicks[a] = 0
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

  loop(step: number): void { this.here.loop = step }
}
