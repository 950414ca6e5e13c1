import { DEVICE_STEPS, plainParts } from '../devices'
import { PROGRAM_VERSION, type DialData, type Draw, type EveryTick, type Guard, type LaneData, type MemoryData, type ModeData, type MotionData, type Op, type ProgramData, type RuleData, type SlotData, type StepData, type Threshold, type Value } from '../program'
import { kindOf, PLAIN, sameKind, type Kind } from '../units'
import type { Analysis } from './analysis'
import { numberOf } from './constants'
import type { LaneShape } from './lanes'
import { ExpressionLowerer, initialValue, type Followed, type Names } from './lower-expressions'
import { MAX_CODE } from './size'
import { thresholdsIn } from './thresholds'
import type { Action, Block, Branch, Expression, Keep, Local, Program, Range, Remembered, Rule, Step } from './tree'
import { UNKNOWN, fixed, type Entry, type Type } from './types'
import { actsOnce, onlyMoments } from './moments'

const STEP_BY_FORM = new Map(DEVICE_STEPS.map(s => [s.form.id, s]))

/** Turns a program without errors into plain data that runs. Throws RangeError when it grows beyond MAX_CODE. */
export function compileProgram(analysis: Analysis): ProgramData {
  return new Compiler(analysis).run()
}

/** The dials of a program without errors, as they are written; without a range of their own, from nothing to twice their value. */
export function dialsOf(program: Analysis): readonly Omit<DialData, 'cell'>[] {
  return [...program.dials].map(([name, { node, type }]) => {
    const value = numberOf(node.value)!
    const { kind, share } = type as Extract<Type, { type: 'quantity' }>
    return {
      name, kind, share, value,
      from: node.from === null ? Math.min(0, 2 * value) : numberOf(node.from)!,
      to: node.to === null ? Math.max(0, 2 * value, value === 0 ? 1 : 0) : numberOf(node.to)!,
      unit: node.value.tag === 'number' ? node.value.unit : null,
      range: node.value.range,
    }
  })
}

/** A name that a block or routine gives: its cell, and what it stands for. */
interface LocalCell { readonly cell: number, readonly entry: Entry }

/** What surrounds the steps being compiled. */
interface Context {
  readonly live: boolean
  /** Parameters, and what the blocks around name. */
  readonly locals: ReadonlyMap<string, LocalCell>
  /** Deadlines of enclosing `do … at most`. */
  readonly guards: readonly Guard[]
  /** Jumps that `leave` makes, to be filled in. */
  readonly leaves: number[] | null
  /** Whose time sums run over: a mode, or a lane without modes; '' for the whole run. */
  readonly owner: string
  /** The routine that they belong to; '' outside. */
  readonly routine: string
}

const PLAIN_CONTEXT: Context = { live: false, locals: new Map(), guards: [], leaves: null, owner: '', routine: '' }

class Compiler {
  private readonly expressions: ExpressionLowerer
  private readonly code: Op[] = []
  private readonly motions: MotionData[] = []
  private readonly steps: StepData[] = []
  private readonly rules: RuleData[] = []
  private readonly thresholds: Threshold[] = []
  private readonly cells: number[] = []
  private readonly named = new Map<string, number>()
  private readonly signals: string[] = []
  private readonly memories: MemoryData[] = []
  private readonly everyTick: EveryTick[] = []
  private readonly followed = new Map<string, number>()
  /** Sums over the time of a mode, by whose they are. */
  private readonly totals = new Map<string, number[]>()
  /** Memories of routines: one however often the routine stands in the code. */
  private readonly kept = new Map<Keep, number>()

  constructor(private readonly program: Analysis) {
    this.expressions = new ExpressionLowerer(program)
  }

  run(): ProgramData {
    const { program } = this
    const dials = dialsOf(program).map((dial): DialData => {
      const cell = this.cell(dial.value)
      this.named.set(dial.name, cell)
      return { cell, ...dial }
    })
    for (const [name, memory] of program.memories) this.named.set(name, this.memory(name, memory.node, memory))
    for (const [name, { node, type }] of program.lets) {
      const step = this.step(node.range, false)
      const value = this.expressions.compared(node.value, this.names(PLAIN_CONTEXT, step, () => -1))
      const cell = this.cell(0)
      this.named.set(name, cell)
      this.everyTick.push({ name, cell, step, does: 'let', value, shown: type })
    }
    const lanes = program.lanes.map(lane => this.lane(lane))
    return {
      mindpath: 'program', version: PROGRAM_VERSION, title: titleOf(program.tree), robot: program.facts.robot, colors: program.facts.colors,
      cells: this.cells, dials, memories: this.memories, everyTick: this.everyTick, lanes, signals: this.signals,
      rules: this.rules, steps: this.steps, code: this.code, motions: this.motions, thresholds: this.thresholds,
    }
  }

  /** Cells for a memory; the first of them. */
  private memory(name: string, { value }: Remembered, { type, several }: Entry): number {
    const count = several?.count ?? 1
    const cell = this.cellsOf(count, initialValue(value, this.program.facts.colors))
    this.memories.push({ name, cell, count, per: several?.per ?? null, kind: type.type === 'quantity' ? type.kind : null, shown: type })
    return cell
  }

  /** The cell of what is followed over time. */
  private follow(text: string, does: Followed['does'], owner: string, step: number, lowered: () => Followed): number {
    const name = does === 'total' && owner !== '' ? `${text} in ${owner}` : text
    let cell = this.followed.get(name)
    if (cell !== undefined) return cell
    const what = lowered()
    cell = this.cell(what.does === 'since' ? -1 : 0)
    if ('most' in what) this.cellsOf(1 + what.most, 0)
    if (what.does === 'rate') { this.cell(0); this.cellsOf(1 + what.devices.length, -1) }
    if (name !== text) this.totals.set(owner, [...this.totals.get(owner) ?? [], cell])
    this.everyTick.push({ name, cell, step, ...what })
    this.followed.set(name, cell)
    return cell
  }

  private cell(initial: number): number {
    this.cells.push(initial)
    return this.cells.length - 1
  }

  private cellsOf(count: number, initial: number): number {
    const first = this.cells.length
    for (let i = 0; i < count; i++) this.cells.push(initial)
    return first
  }

  private emit(op: Op): number {
    if (this.code.length >= MAX_CODE) throw new RangeError('program too long')
    this.code.push(op)
    return this.code.length - 1
  }

  /** A place for an instruction that is known later. */
  private reserve(): number { return this.emit({ op: 'end' }) }

  private get here(): number { return this.code.length }

  private names(context: Context, step: number, timers: (count: number) => number): Names {
    return {
      scope: this.program.scope(new Map([...context.locals].map(([name, { entry }]) => [name, entry]))), step,
      cell: name => context.locals.get(name)?.cell ?? this.named.get(name),
      timer: timers,
      signal: name => this.signal(name),
      follow: (name, does, lowered) => this.follow(name, does, context.owner, step, lowered),
    }
  }

  /** Names for a step: its timers begin anew with it, and are collected. */
  private timed(context: Context, step: number): { readonly names: Names, readonly timers: number[] } {
    const timers: number[] = []
    return {
      timers,
      names: this.names(context, step, (count) => {
        const first = this.cellsOf(count, -1)
        for (let i = 0; i < count; i++) timers.push(first + i)
        return first
      }),
    }
  }

  private signal(name: string): number {
    const at = this.signals.indexOf(name)
    if (at !== -1) return at
    this.signals.push(name)
    return this.signals.length - 1
  }

  private lane(lane: LaneShape): LaneData {
    const start = lane.start === null ? -1 : this.body(lane.start.body, PLAIN_CONTEXT)
    const above = lane.above.map((rule, i) => this.rule(rule, i + 1, '', ''))
    const modes = lane.modes.map((mode): ModeData => {
      const owner = mode.node === null ? `lane ${lane.name}` : mode.name
      const data = {
        name: mode.name,
        start: mode.start === null ? -1 : this.body(mode.start.body, { ...PLAIN_CONTEXT, owner }),
        rules: mode.rules.map((rule, i) => this.rule(rule, lane.above.length + i + 1, mode.node === null ? '' : mode.name, owner)),
      }
      return { ...data, totals: this.totals.get(owner) ?? [] }
    })
    return { name: lane.name, start, above, modes, sequence: above.length === 0 && modes.every(m => m.rules.length === 0 && m.start === -1) && start !== -1 }
  }

  /** Compiles a rule; its number. */
  private rule(rule: Rule, urgency: number, mode: string, owner: string): number {
    const live = !rule.body.steps.some(s => this.program.takesTime(s))
    const number = this.rules.length
    const once = actsOnce(rule)
    const step = this.step(rule.range, false)
    // Cells of the rule: wants, latch, done, then its timers; all -1 when its mode is entered.
    const wantCell = this.cell(-1)
    const latch = this.cell(-1)
    const doneCell = this.cell(-1)
    const context = { ...PLAIN_CONTEXT, owner }
    const cells = [wantCell, latch, doneCell]
    const names = this.names(context, step, (count) => {
      const first = this.cellsOf(count, -1)
      for (let i = 0; i < count; i++) cells.push(first + i)
      return first
    })
    const when = rule.when === null ? null : this.expressions.condition(rule.when, names)
    const until = rule.until === null ? null : this.expressions.condition(rule.until, names)
    const moments = rule.when !== null && rule.when.held === null && onlyMoments(rule.when.expression)
    this.rules.push(null as never)
    this.rules[number] = {
      number, range: rule.range, line: this.program.line(rule.range), urgency, when, until, once, moments, cells,
      // A live rule that acts once is gone through once each time: all in it acts then.
      body: this.body(rule.body, { ...context, live: live && !once }), live, wantCell, latch, doneCell,
    }
    if (rule.when !== null) this.thresholds.push(...thresholdsIn(rule.when.expression, { rule: number, mode, cellOf: name => this.named.get(name) ?? null }))
    return number
  }

  /** Compiles a block with its end; returns where it begins. */
  private body(block: Block, context: Context): number {
    const begin = this.here
    this.block(block, context)
    this.emit({ op: 'end' })
    return begin
  }

  private block(block: Block, context: Context): void {
    let inner = context
    for (const step of block.steps) {
      if (step.tag === 'unread' || step.off) continue
      if (step.tag === 'local' || step.tag === 'keep') inner = { ...inner, locals: new Map([...inner.locals, [step.name.text, this.local(step, inner)]]) }
      else this.compileStep(step, inner)
    }
  }

  private step(range: Range, loop: boolean): number {
    this.steps.push({ range, line: this.program.line(range), loop })
    return this.steps.length - 1
  }

  /** The cell of an instant step in a live rule: it acts only where it was not reached the tick before. */
  private edge(context: Context): number | null { return context.live ? this.cell(-2) : null }

  /** A name that a block gives: what it stands for is worked out where it stands. */
  private local(step: Local | Keep, context: Context): LocalCell {
    if (step.tag === 'keep') {
      const entry = this.program.keepOf(step)
      let cell = this.kept.get(step)
      if (cell === undefined) {
        cell = this.memory(`${context.routine}.${step.name.text}`, step, entry)
        this.kept.set(step, cell)
      }
      return { cell, entry }
    }
    const number = this.step(step.range, false)
    const names = this.names(context, number, count => this.cellsOf(count, -1))
    const value = this.expressions.number(step.value, names)
    const cell = this.cell(0)
    // What is drawn is drawn once, where a live rule comes to it.
    this.emit({ op: 'set', step: number, cell, value, edge: step.value.tag === 'random' ? this.edge(context) : null })
    return { cell, entry: fixed(this.expressions.typeOf(step.value, names)) }
  }

  private compileStep(step: Exclude<Step, { tag: 'unread' | 'local' | 'keep' }>, context: Context): void {
    const number = this.step(step.range, step.tag === 'repeat')
    // Steps outside of conditions have no timers of modes; theirs begin anew with the step.
    const names = this.names(context, number, count => this.cellsOf(count, -1))
    const { expressions } = this
    switch (step.tag) {
      case 'action': return this.action(step, context, number)
      case 'if':
        return this.ways(step.branches.map(b => ({ test: expressions.truth(b.condition!, names), body: b.body })), step.otherwise?.body ?? null, context)
      case 'choose':
        return this.ways(step.cases.map(c => ({
          test: expressions.truth({ tag: 'is', value: step.value, negated: false, options: c.values, range: c.range }, names), body: c.body,
        })), step.otherwise?.body ?? null, context)
      case 'repeat': return this.repeat(step, context, number, names)
      case 'leave': {
        context.leaves?.push(this.reserve())
        return
      }
      case 'set': {
        const value = expressions.number(step.value, names)
        if (step.at !== null) this.emit({ op: 'put', step: number, place: expressions.place(step.name.text, step.at, names), value, edge: this.edge(context) })
        else this.emit({ op: 'set', step: number, cell: names.cell(step.name.text)!, value, edge: this.edge(context) })
        return
      }
      case 'reset': {
        const e = step.reading as Extract<Expression, { tag: 'reading' }>
        this.emit({ op: 'reset', step: number, reading: `${e.device.text}.${e.reading.text}`, edge: this.edge(context) })
        return
      }
      case 'go': {
        this.emit({ op: 'go', step: number, mode: this.modeNumber(step.mode.text) })
        return
      }
      case 'do': return this.call(step, context, number, names)
      case 'send': {
        this.emit({ op: 'send', step: number, signal: this.signal(step.signal.text), edge: this.edge(context) })
        return
      }
      case 'finish': {
        this.emit({ op: 'finish', step: number, why: step.why === null ? { is: 'text', text: '', range: null } : expressions.text(step.why, names) })
        return
      }
      case 'note': {
        const text = expressions.text(step.text, names)
        this.emit({ op: 'note', step: number, text, edge: this.edge(context) })
        return
      }
      case 'wait': {
        const time = expressions.number(step.time, names)
        const cell = this.cell(0)
        this.emit({ op: 'deadline', step: number, cell, time })
        this.emit({ op: 'wait', cell, guards: context.guards })
        return
      }
      case 'waitUntil': {
        const { names: own, timers } = this.timed(context, number)
        const test = expressions.condition(step.condition, own)
        const limit = step.atMost === null ? null : expressions.number(step.atMost, names)
        const cell = this.cell(0)
        this.emit({ op: 'await', step: number, timers, cell, limit })
        this.late(this.emit({ op: 'wait until', test, cell, limited: limit !== null, late: null, guards: context.guards }), step.late, context)
      }
    }
  }

  /** The `else` under a step with `at most`, behind the instruction that waits. */
  private late(waits: number, late: Branch | null, context: Context): void {
    if (late === null) return
    const jump = this.reserve()
    this.code[waits] = { ...this.code[waits]! as Extract<Op, { op: 'wait until' | 'move' }>, late: this.here }
    this.block(late.body, context)
    this.code[jump] = { op: 'jump', to: this.here }
  }

  /** The first way whose test holds is gone, else the last one. */
  private ways(ways: readonly { readonly test: Value, readonly body: Block }[], otherwise: Block | null, context: Context): void {
    const ends: number[] = []
    for (const { test, body } of ways) {
      const jump = this.reserve()
      this.block(body, context)
      ends.push(this.reserve())
      this.code[jump] = { op: 'test', test, no: this.here }
    }
    if (otherwise !== null) this.block(otherwise, context)
    for (const e of ends) this.code[e] = { op: 'jump', to: this.here }
  }

  private modeNumber(name: string): number {
    for (const lane of this.program.lanes) {
      const at = lane.modes.findIndex(m => m.name === name && m.node !== null)
      if (at !== -1) return at
    }
    throw new Error(`no mode ${name}`)
  }

  private repeat(step: Extract<Step, { tag: 'repeat' }>, context: Context, number: number, names: Names): void {
    const leaves: number[] = []
    const times = step.times === null ? null : this.expressions.number(step.times, names)
    const cell = this.cell(0)
    if (times !== null) this.emit({ op: 'count', cell, times })
    const values = step.each?.values.map(v => this.expressions.number(v, names)) ?? []
    const into = step.each === null ? -1 : this.cell(0)
    if (step.each !== null) this.emit({ op: 'set', step: number, cell, value: { is: 'number', value: 0, range: null }, edge: null })
    const top = this.reserve()
    const locals = step.each === null ? context.locals : new Map([...context.locals, [step.each.name.text, { cell: into, entry: fixed(this.expressions.typeOf(step.each.values[0]!, names)) }]])
    this.block(step.body, { ...context, leaves, locals })
    this.emit({ op: 'again', step: number, to: top })
    const end = this.here
    if (step.each !== null) this.code[top] = { op: 'each', step: number, cell, into, values, end }
    else if (times !== null) this.code[top] = { op: 'round', cell, end }
    else if (step.test !== null) {
      const test = this.expressions.truth(step.test.condition, names)
      this.code[top] = { op: 'test', test: step.test.word === 'while' ? test : { is: 'not', of: test, range: test.range }, no: end }
    } else this.code[top] = { op: 'jump', to: top + 1 }
    for (const at of leaves) this.code[at] = { op: 'jump', to: end }
  }

  private call(step: Extract<Step, { tag: 'do' }>, context: Context, number: number, names: Names): void {
    const routine = this.program.routineOf(step)!
    const types = this.program.typesOf(routine)
    const locals = new Map(routine.parameters.map((p, i): [string, LocalCell] => [p.text, { cell: this.cell(0), entry: fixed(types[i] ?? UNKNOWN) }]))
    const given = this.program.valuesOf(step)
    // One that is given devices has memories of its own for them.
    const devices = step.given.filter(e => !given.includes(e)).map(e => e.tag === 'name' ? e.name : '')
    const values = given.map(e => this.expressions.number(e, names))
    const draws = [...locals.values()].map(({ cell }, i): Draw => ({ cell, value: values[i]! }))
    const limit = step.atMost === null ? null : this.expressions.number(step.atMost, names)
    const guard: Guard | null = limit === null ? null : { cell: this.cell(0), exit: -1, first: this.motions.length, end: -1 }
    this.emit({ op: 'call', step: number, given: draws, cell: guard?.cell ?? -1, limit })
    this.block(routine.body, {
      live: context.live, locals, leaves: null, owner: context.owner, routine: devices.length === 0 ? routine.name.text : `${routine.name.text}(${devices.join(', ')})`,
      guards: guard === null ? context.guards : [...context.guards, guard],
    })
    if (guard === null) return
    guard.end = this.motions.length
    const jump = step.late === null ? null : this.reserve()
    guard.exit = this.here
    if (jump === null) return
    this.block(step.late!.body, context)
    this.code[jump] = { op: 'jump', to: this.here }
  }

  private action(step: Action, context: Context, number: number): void {
    const { names, timers } = this.timed(context, number)
    const draws: Draw[] = []
    // What a slot is worth; `random` in it is drawn once, when the step begins.
    const valueOf = (e: Expression): Value => {
      if (e.tag !== 'random') return this.expressions.number(e, names)
      const cell = this.cell(0)
      draws.push({ cell, value: this.expressions.number(e, names) })
      return { is: 'cell', cell, name: 'random', range: e.range }
    }
    const slots = step.slots.map((slot): SlotData => {
      if (slot.value === null) return { name: slot.name, value: null, kind: null, word: slot.word, text: null }
      const type = this.expressions.typeOf(slot.value, names)
      const own = type.type === 'quantity' ? type.kind : PLAIN
      return { name: slot.name, value: valueOf(slot.value), kind: sameKind(own, PLAIN) ? kindWanted(step.form, slot.name) ?? own : own, word: slot.word, text: this.expressions.text(slot.value, names) }
    })
    const { plan, moves } = this.program.planOf(step)!
    const motion = this.motions.length
    const at = this.cellsOf(plan.cells, 0)
    this.motions.push({ form: step.form, slots, at, cells: plan.cells, actuators: this.program.facts.actuators.flatMap(a => moves.includes(a.name) ? [a.name] : []), step: number })
    const until = step.until === null ? null : this.expressions.condition(step.until, names)
    const lasting = step.lasting === null ? null : this.expressions.number(step.lasting, names)
    const limit = step.atMost === null ? null : this.expressions.number(step.atMost, names)
    if (plan.timing === 'setting') {
      this.emit({ op: 'setting', step: number, motion, draws })
      return
    }
    if (plan.timing !== 'timed' && lasting === null && until === null) {
      // A live rule reaches the step every tick; its fixed measures, where it has any, are taken when it is reached anew.
      const measures = plan.begin !== undefined || draws.length > 0
      this.emit({ op: 'hold', step: number, motion, draws, edge: measures ? this.edge(context) : null })
      return
    }
    const ends = this.cell(0)
    const deadline = this.cell(0)
    this.emit({ op: 'begin', step: number, motion, draws, timers, until, lasting, ends, limit, deadline })
    this.late(this.emit({ op: 'move', motion, until, lasts: lasting !== null, ends, timed: plan.timing === 'timed', limited: limit !== null, late: null, deadline, guards: context.guards }), step.late, context)
  }
}

function kindWanted(form: string, slot: string): Kind | null {
  const definition = STEP_BY_FORM.get(form)
  const part = definition === undefined ? undefined : plainParts(definition.form).find(p => 'slot' in p && p.slot === slot)
  if (part?.part !== 'value') return null
  const first = part.kinds[0]!
  return first === 'share' || first === 'text' || first === 'color' ? PLAIN : kindOf(first)
}

function titleOf(tree: Program): string | null {
  const title = tree.items.find(i => i.tag === 'title')
  return title?.tag === 'title' ? title.text : null
}
