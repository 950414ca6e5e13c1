import type { LaneData } from '../program'
import type { LoadedRule } from './load'
import { DONE, FINISHED, GONE, WAIT } from './machine'
import { wantsStill } from './wants'
import { RunningProgram } from './running'
import { PHASE, type LaneState, type LaneView, type VmInput } from './state'

/** Steps that a lane may run in one tick; more means that no time passes in a loop. */
export const STEP_LIMIT = 10_000

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
    const { raw } = input
    this.raw = raw
    const { offsets, taken } = this
    this.readings = raw
    // Something is taken off those only that the program resets somewhere.
    for (let i = 0; i < taken.length; i++) this.seem(taken[i]!, raw[taken[i]!]! - offsets[taken[i]!]!)
    if (this.sentNow.length > 0) {
      const heard = this.heardNow
      this.heardNow = this.sentNow
      this.sentNow = heard.fill(0)
    }
    const { stalling, stalledTicks } = this
    for (let i = 0; i < stalling.length; i += 2) {
      const a = stalling[i]!
      stalledTicks[a] = raw[stalling[i + 1]!]! > 0 ? stalledTicks[a]! + 1 : 0
    }
    this.brake()
    const { everyTick } = this.loaded
    for (let i = 0; i < everyTick.length; i++) {
      everyTick[i]!(this)
      if (this.failure !== null) { this.failEvery(); break }
    }
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
          if (evaluated !== l.mode) this.evaluateMode(lane)
          this.stopped(l)
          return
        }
        this.clearMotions(l)
        l.phase = PHASE.rules
        l.pc = -1
      }
      if (evaluated !== l.mode) {
        this.evaluateMode(lane)
        evaluated = l.mode
        if (this.stopped(l)) return
      }
      const went = this.decide(l)
      if (this.stopped(l) || !went || l.pendingGo !== -1) return
      evaluated = -1
    }
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
    const rules = this.rulesHere
    const wants = this.wantsHere
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
  protected stopped(l: LaneState): boolean {
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
}
