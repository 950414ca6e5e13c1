import type { LaneData } from '../program'
import type { LoadedRule } from './load'
import { FINISHED, GONE, WAIT } from './machine'
import { wantsStill } from './wants'
import { RunningProgram } from './running'
import { PHASE, type LaneState, type LaneView, type VmInput } from './state'

/**
 * Runs a compiled program, one tick at a time: which rule has control, and which code runs. All of its state is plain data
 * (`snapshot`), and what it did in a tick are the commands, the events and the lanes.
 */
export class Vm extends RunningProgram {
  /** Of the lane at work: the rules of its mode, those above first, and which of them want control. */
  private rulesHere: readonly LoadedRule[] = []
  private wantsHere: Uint8Array = new Uint8Array()

  /** One tick: readings in, commands and events out. */
  run(input: VmInput): void {
    this.tick++
    if (this.events.length > 0) this.events.length = 0
    this.looks = input.looks
    this.began = input.began
    this.still = input.still
    this.raw = this.readings = input.raw
    if (this.taken.length > 0) this.takeOff()
    if (this.sentNow.length > 0) this.hear()
    this.brake()
    if (this.everyTick.length > 0) this.workOut()
    const { lanes } = this
    for (let i = 0; i < lanes.length; i++) {
      const lane = lanes[i]!
      this.current = i
      this.here = lane
      this.wantsHere = this.wants[i]!
      this.turnTo(i, lane.mode)
      this.runLane(lane, this.program.lanes[i]!)
      this.applyMotions(lane)
    }
  }

  /** What was sent in the tick before is heard in this one. */
  private hear(): void {
    const heard = this.heardNow
    this.heardNow = this.sentNow
    this.sentNow = heard.fill(0)
  }

  /** Named values and those over time, in their order. */
  private workOut(): void {
    const { everyTick } = this
    for (let i = 0; i < everyTick.length; i++) {
      everyTick[i]!(this)
      if (this.failure !== null) { this.failEvery(); return }
    }
  }

  /** Whether nothing more will happen: every lane is over. */
  get over(): boolean {
    for (const { phase } of this.lanes) if (phase < PHASE.ended) return false
    return true
  }

  get failed(): boolean {
    return this.lanes.some(l => l.phase === PHASE.failed)
  }

  lane(i: number): LaneView {
    const l = this.lanes[i]!
    const rule = l.control === -1 || l.mode === -1 ? -1 : this.rulesOf[i]![l.mode]![l.control]!.number
    return { name: this.program.lanes[i]!.name, phase: l.phase, mode: l.mode, rule, step: l.step, entered: l.entered }
  }

  // One lane, one tick.

  private runLane(l: LaneState, lane: LaneData): void {
    if (l.phase >= PHASE.ended) return
    this.looped = 0
    if ((l.phase !== PHASE.rules || l.pendingGo !== -1) && !this.getsToRules(l, lane)) return
    if (lane.above.length > 0) this.evaluateAbove(l, lane)
    // Each round enters a mode or settles the tick; a second `go` in a tick waits, so there are few.
    for (;;) {
      if (l.phase === PHASE.modeStart && !this.starts(l, lane)) return
      this.evaluateMode(lane)
      if (this.failure !== null) { this.fails(l, this.failure); return }
      const went = this.decide(l)
      if (this.stopped(l) || !went || l.pendingGo !== -1) return
    }
  }

  /** Runs what comes before a lane's rules, its start and modes that are to be entered. False when this tick is over with that. */
  private getsToRules(l: LaneState, lane: LaneData): boolean {
    if (l.phase === PHASE.laneStart) {
      const how = this.execute(l)
      if (how === WAIT) return false
      if (this.stopped(l)) return false
      if (how === FINISHED) return false
      if (how !== GONE) {
        if (lane.sequence) { this.clearMotions(l); l.phase = PHASE.ended; l.step = -1; return false }
        this.enter(l, lane, 0)
      }
    } else if (l.mode === -1) this.enter(l, lane, 0)
    if (l.pendingGo !== -1) {
      const mode = l.pendingGo
      l.pendingGo = -1
      l.goTick = this.tick
      this.enter(l, lane, mode)
    }
    return true
  }

  /** Runs the start of the mode that a lane is in, and of those that it goes to. False when this tick is over with that. */
  private starts(l: LaneState, lane: LaneData): boolean {
    while (l.phase === PHASE.modeStart) {
      const how = this.execute(l)
      if (this.stopped(l) || how === FINISHED) return false
      if (how === WAIT) {
        this.evaluateMode(lane)
        this.stopped(l)
        return false
      }
      if (how === GONE) {
        if (l.pendingGo !== -1) return false
        continue
      }
      this.clearMotions(l)
      l.phase = PHASE.rules
      l.pc = -1
    }
    return true
  }

  /** The rules of a lane's mode are those at hand. */
  private turnTo(lane: number, mode: number): void { if (mode !== -1) this.rulesHere = this.rulesOf[lane]![mode]! }

  private evaluateAbove(l: LaneState, lane: LaneData): void {
    this.evaluate(0, lane.above.length)
    this.stopped(l)
  }

  private evaluateMode(lane: LaneData): void { this.evaluate(lane.above.length, this.rulesHere.length) }

  /** Works out, exactly once a tick, which of some rules want control. */
  private evaluate(from: number, end: number): void {
    const { cells, rulesHere: rules, wantsHere: wants } = this
    for (let i = from; i < end; i++) {
      const rule = rules[i]!
      const { test } = rule
      const is = test === null || test(this)
      cells[rule.wantCell] = wants[i] = (rule.plain ? is : wantsStill(is, rule, this)) ? 1 : 0
    }
  }

  /** Who has control, and its steps. True when a `go` entered another mode. */
  private decide(l: LaneState): boolean {
    const rules = this.rulesHere
    const wants = this.wantsHere
    const middle = l.pc !== -1 && l.control !== -1 && !rules[l.control]!.live
    let top = -1
    for (let i = 0; i < rules.length && top === -1; i++) {
      if (wants[i] === 0) continue
      const rule = rules[i]!
      if (!rule.acts) top = i
      else {
        if (middle && i > l.control) break
        // What is in control goes on.
        wants[i] = 0
        const how = this.act(l, rule)
        if (how === GONE) return l.pendingGo === -1
        if (how === FINISHED || this.failure !== null) return false
      }
    }
    if (top !== l.control && (!middle || (top !== -1 && top < l.control))) this.take(l, top)
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

  /** Plays the rule in control for this tick. True when a `go` entered another mode. */
  private play(l: LaneState): boolean {
    const rule = this.rulesHere[l.control]
    if (rule === undefined) return false
    if (!rule.live) return this.playSteps(l)
    this.clearMotions(l)
    l.pc = rule.body
    if (this.execute(l) === GONE) return l.pendingGo === -1
    l.pc = -1
    return false
  }

  /** Plays the steps of the rule in control until it has to wait; passes control on when they are done. */
  private playSteps(l: LaneState): boolean {
    const rules = this.rulesHere
    const wants = this.wantsHere
    const started = this.started
    started.fill(0)
    while (l.control !== -1) {
      const place = l.control
      const rule = rules[place]!
      if (rule.live) return this.play(l)
      if (l.pc === -1) {
        if (started[place] === 1) return false
        started[place] = 1
        this.clearMotions(l)
        l.pc = rule.body
      }
      const how = this.execute(l)
      if (how === WAIT || how === FINISHED || this.failure !== null) return false
      // Also where it went to a mode and has no control there: among the rules above it is asked on in this tick.
      if (rule.once) { this.cells[rule.doneCell] = 1; wants[place] = 0 }
      if (how === GONE) return l.pendingGo === -1
      l.pc = -1
      const next = this.firstWanting(rules, wants)
      if (next === place) {
        if (started[next] === 1) return false
        continue
      }
      if (next !== -1 && started[next] === 1) { this.take(l, -1); return false }
      this.take(l, next)
    }
    return false
  }


  private firstWanting(rules: readonly LoadedRule[], wants: Uint8Array): number {
    for (let i = 0; i < rules.length; i++) if (wants[i] === 1 && !rules[i]!.acts) return i
    return -1
  }

  private take(l: LaneState, rule: number): void {
    this.clearMotions(l)
    l.control = rule
    l.pc = -1
    l.step = -1
  }

  protected enter(l: LaneState, lane: LaneData, mode: number): void {
    this.clearMotions(l)
    l.mode = mode
    this.turnTo(this.current, mode)
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
    const { code } = this
    let pc = l.pc
    for (;;) {
      const next = code[pc]!(this)
      if (this.failure !== null) { l.pc = -1; return FINISHED }
      if (next >= 0) {
        pc = next
        continue
      }
      l.pc = next === WAIT ? pc : next === GONE ? this.left(l) : -1
      if (next === FINISHED) { l.phase = PHASE.ended; this.clearMotions(l) }
      return next
    }
  }

  /** Where a lane that went to a mode goes on: when that was entered, there; else nowhere, and what went has control until it is, with the next tick. */
  private left(l: LaneState): number {
    if (l.pendingGo === -1) return l.pc
    l.phase = PHASE.rules
    return -1
  }

  /** Ends a lane whose code failed; its motions brake, other lanes go on. */
  protected stopped(l: LaneState): boolean {
    if (this.failure !== null) this.fails(l, this.failure)
    return l.phase >= PHASE.ended
  }

  private fails(l: LaneState, { message, step }: { readonly message: string, readonly step: number }): void {
    this.failure = null
    this.clearMotions(l)
    l.phase = PHASE.failed
    const line = this.program.steps[step]?.line ?? 0
    this.events.push({ type: 'error', lane: this.program.lanes[this.current]!.name, message, line })
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
}
