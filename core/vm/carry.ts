import { SaidReader, cellsOf, type LaneData, type ModeData, type ProgramData, type RuleData, type RuleSaid, type Said } from '../program'
import type { RobotFacts } from '../robot'
import { PHASE, type LaneState, type VmSnapshot } from './state'
import { Vm } from './vm'

/** A part of a program that goes on as it was, or begins anew, and why. */
export interface Carried {
  readonly part: 'dial' | 'memory' | 'followed' | 'lane' | 'rule'
  /** Its name; a rule's lane, and its mode where it has one. */
  readonly name: string
  /** Line of the rule in the new text; null for what has a name. */
  readonly line: number | null
  readonly goesOn: boolean
  /** '' where it goes on as it was. */
  readonly why: string
}

export interface CarryOver { readonly state: VmSnapshot, readonly parts: readonly Carried[] }

/**
 * The state in which a changed program goes on from where another was: dials, memories, lanes and modes by name, rules by what
 * they say, wherever they stand in their mode now. What fits is carried over; the rest begins anew, and `parts` says which.
 * Both programs are for the same robot. The lanes' own random numbers go on.
 */
export function carryOver(from: ProgramData, state: VmSnapshot, to: ProgramData, facts: RobotFacts, seed: number): CarryOver {
  return new Carrier(from, state, to, new Vm(to, facts, seed).snapshot()).run()
}

class Carrier {
  private readonly parts: Carried[] = []
  private readonly cells: number[]
  private readonly before: SaidReader
  private readonly after: SaidReader

  constructor(private readonly from: ProgramData, private readonly state: VmSnapshot, private readonly to: ProgramData, private readonly fresh: VmSnapshot) {
    this.cells = [...fresh.cells]
    this.before = new SaidReader(from)
    this.after = new SaidReader(to)
  }

  run(): CarryOver {
    const { from, state, to, fresh } = this
    for (const dial of to.dials) {
      const old = from.dials.find(d => d.name === dial.name && same(d.kind, dial.kind))
      // A dial that was turned stays so; one that stands as its text says follows the text.
      const turned = old !== undefined && state.cells[old.cell] !== old.value
      if (turned) this.cells[dial.cell] = Math.min(dial.to, Math.max(dial.from, state.cells[old.cell]!))
      this.tell('dial', dial.name, null, old !== undefined, 'it is new')
    }
    for (const memory of to.memories) {
      const old = from.memories.find(m => m.name === memory.name)
      const fits = old !== undefined && same(old.shown, memory.shown) && old.per === memory.per && old.count === memory.count
      if (fits) this.copy(old.cell, memory.cell, memory.count)
      this.tell('memory', memory.name, null, fits, old === undefined ? 'it is new' : 'it holds another kind of value')
    }
    // What is followed over time goes on where it is followed still; named values are worked out anew at once.
    for (const what of to.everyTick) {
      if (what.does === 'let') continue
      const old = from.everyTick.find(o => o.name === what.name)
      const fits = old !== undefined && old.does === what.does && cellsOf(old) === cellsOf(what)
      if (fits) this.copy(old.cell, what.cell, cellsOf(what))
      this.tell('followed', what.name, null, fits, 'it is new')
    }
    const lanes = to.lanes.map((lane, i): LaneState => {
      const old = from.lanes.findIndex(l => l.name === lane.name)
      return { ...(old === -1 ? this.anew(lane, i, 'it is new') : this.lane(from.lanes[old]!, state.lanes[old]!, lane, i)) }
    })
    const streams = to.lanes.map((lane, i) => state.streams[from.lanes.findIndex(l => l.name === lane.name)] ?? fresh.streams[i]!)
    const signals = (of: readonly number[]): number[] => to.signals.map(s => of[from.signals.indexOf(s)] ?? 0)
    return { state: { ...state, cells: this.cells, lanes, streams, heard: signals(state.heard), sent: signals(state.sent) }, parts: this.parts }
  }

  private tell(part: Carried['part'], name: string, line: number | null, goesOn: boolean, why: string): void {
    this.parts.push({ part, name, line, goesOn, why: goesOn ? '' : why })
  }

  private anew(lane: LaneData, i: number, why: string): LaneState {
    this.tell('lane', lane.name, null, false, why)
    return this.fresh.lanes[i]!
  }

  private lane(was: LaneData, at: LaneState, is: LaneData, i: number): LaneState {
    if (at.phase === PHASE.failed) return this.anew(is, i, 'it had stopped with an error')
    const begun: LaneState = { ...at, motions: at.motions.map(() => -1), control: -1, pc: -1, step: -1 }
    if (at.mode === -1 || at.phase === PHASE.ended) {
      // In its start, or over.
      const [old, now] = [this.before.code(was.start), this.after.code(is.start)]
      if (old.text !== now.text || was.sequence !== is.sequence) return this.anew(is, i, 'its start is another')
      this.move(old, now)
      this.tell('lane', is.name, null, true, '')
      return this.going(begun, at, old, now, was.start, is.start)
    }
    const mode = is.modes.findIndex(m => m.name === was.modes[at.mode]!.name)
    if (mode === -1) return this.anew(is, i, `its mode ${was.modes[at.mode]!.name} is gone`)
    this.tell('lane', is.name, null, true, '')
    const pending = at.pendingGo === -1 ? -1 : is.modes.findIndex(m => m.name === was.modes[at.pendingGo]!.name)
    const entered = { ...begun, mode, pendingGo: pending }
    const oldList = rulesOf(this.from, was, was.modes[at.mode]!)
    const newList = rulesOf(this.to, is, is.modes[mode]!)
    const matched = this.rules(was, is, at.mode, mode)
    if (at.phase === PHASE.modeStart) {
      const [old, now] = [this.before.code(was.modes[at.mode]!.start), this.after.code(is.modes[mode]!.start)]
      if (old.text === now.text) {
        this.move(old, now)
        return this.going(entered, at, old, now, was.modes[at.mode]!.start, is.modes[mode]!.start)
      }
      const { start } = is.modes[mode]!
      return { ...entered, pc: start, phase: start === -1 ? PHASE.rules : PHASE.modeStart, entered: this.state.tick }
    }
    if (at.control === -1) return entered
    const rule = oldList[at.control]!
    const now = newList.findIndex(r => matched.get(r.number) === rule.number)
    if (now === -1) return entered
    const [old, next] = [this.before.code(rule.body), this.after.code(newList[now]!.body)]
    return this.going({ ...entered, control: now }, at, old, next, rule.body, newList[now]!.body)
  }

  /** In the middle of steps that stayed what they were. */
  private going(begun: LaneState, at: LaneState, old: Said, now: Said, was: number, is: number): LaneState {
    const mapped = (one: number, of: readonly number[], to: readonly number[]): number => { const k = of.indexOf(one); return k === -1 ? -1 : to[k]! }
    return {
      ...begun, pc: at.pc === -1 ? -1 : at.pc - was + is, step: mapped(at.step, old.steps, now.steps),
      motions: at.motions.map(m => mapped(m, old.motions, now.motions)),
    }
  }

  /** Carries what the rules of a lane remember; the old rule's number of each new one whose steps stayed what they were. */
  private rules(was: LaneData, is: LaneData, oldMode: number, newMode: number): ReadonlyMap<number, number> {
    const stays = new Map<number, number>()
    this.match(was.above, is.above, is.name, stays)
    is.modes.forEach((mode, i) => {
      const old = i === newMode ? was.modes[oldMode]! : was.modes.find(m => m.name === mode.name)
      this.match(old?.rules ?? [], mode.rules, mode.name === is.name ? is.name : `${is.name}, ${mode.name}`, stays)
    })
    return stays
  }

  private match(old: readonly number[], now: readonly number[], place: string, stays: Map<number, number>): void {
    const left = old.map(n => this.before.rule(this.from.rules[n]!))
    const open = new Set(now.map(n => this.after.rule(this.to.rules[n]!)))
    const pass = (condition: boolean, body: boolean): void => {
      for (const rule of open) {
        const at = left.findIndex(o => (!condition || o.condition.text === rule.condition.text) && (!body || o.body.text === rule.body.text))
        if (at === -1) continue
        const [was] = left.splice(at, 1) as [RuleSaid]
        open.delete(rule)
        if (condition) this.move(was.condition, rule.condition)
        if (body) {
          this.move(was.body, rule.body)
          stays.set(rule.rule.number, was.rule.number)
        }
        this.tell('rule', place, rule.rule.line, condition && body, condition ? 'its steps are others' : 'its condition is another; steps that had begun go on')
      }
    }
    pass(true, true)
    pass(false, true)
    pass(true, false)
    for (const { rule } of open) this.tell('rule', place, rule.line, false, 'it is new')
  }

  private copy(from: number, to: number, count: number): void {
    for (let i = 0; i < count; i++) this.cells[to + i] = this.state.cells[from + i]!
  }

  private move(old: Said, now: Said): void {
    old.cells.forEach((cell, k) => { this.cells[now.cells[k]!] = this.state.cells[cell]! })
  }
}

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b)

const rulesOf = (program: ProgramData, lane: LaneData, mode: ModeData): readonly RuleData[] => [...lane.above, ...mode.rules].map(n => program.rules[n]!)
