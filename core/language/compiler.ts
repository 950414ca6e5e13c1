import { DEVICE_STEPS, plainParts, type NumberOf, type PlannedSlot, type StepRobot } from '../devices'
import { stepRobotOf } from '../robot'
import { kindOf, PLAIN, sameKind, type Kind } from '../units'
import { numberOf, type Analysis, type LaneShape } from './analysis'
import { ExpressionCompiler, type Names } from './code'
import {
  DONE, FINISHED, GONE, WAIT, type Bool, type Compiled, type CompiledLane, type CompiledMode, type CompiledRule, type CompiledStep,
  type Instruction, type Machine, type Motion, type Num, type Threshold,
} from './compiled'
import type { Action, Block, Expression, Program, Range, Rule, Step } from './tree'
import { MAX_CODE } from './size'
import { thresholdsIn } from './thresholds'
import { UNKNOWN, type Scope, type Type } from './types'
import { actsOnce, onlyMoments, wantsOf } from './wants'


const STEP_BY_FORM = new Map(DEVICE_STEPS.map(s => [s.form.id, s]))

/** Turns a program without errors into what runs. Throws RangeError when it grows beyond MAX_CODE. */
export function compileProgram(analysis: Analysis): Compiled {
  return new Compiler(analysis).run()
}

/** What surrounds the steps being compiled. */
interface Context {
  readonly live: boolean
  /** Cells of parameters, by name. */
  readonly parameters: ReadonlyMap<string, number>
  readonly parameterTypes: ReadonlyMap<string, Type>
  /** Deadlines of enclosing `do … at most`: cell, and where to go on. */
  readonly guards: readonly { readonly cell: number, exit: number, readonly motions: [number, number] }[]
  /** Jumps that `leave` makes, to be filled in. */
  readonly leaves: number[] | null
}

class Compiler {
  private readonly expressions: ExpressionCompiler
  private readonly robot: StepRobot
  private readonly code: Instruction[] = []
  private readonly motions: Motion[] = []
  private readonly steps: CompiledStep[] = []
  private readonly rules: CompiledRule[] = []
  private readonly thresholds: Threshold[] = []
  private readonly cells: number[] = []
  private readonly named = new Map<string, number>()
  private readonly signals: string[] = []

  constructor(private readonly program: Analysis) {
    this.expressions = new ExpressionCompiler(program)
    this.robot = stepRobotOf(program.facts)
  }

  run(): Compiled {
    const { program } = this
    const dials = [...program.dials].map(([name, { node, type }]) => {
      const value = numberOf(node.value)!
      const cell = this.cell(value)
      this.named.set(name, cell)
      const { kind, share } = type as Extract<Type, { type: 'quantity' }>
      return {
        name, cell, kind, share, value,
        from: node.from === null ? Math.min(0, 2 * value) : numberOf(node.from)!,
        to: node.to === null ? Math.max(0, 2 * value, value === 0 ? 1 : 0) : numberOf(node.to)!,
        unit: node.value.tag === 'number' ? node.value.unit : null,
        range: node.value.range,
      }
    })
    const memories = [...program.memories].map(([name, { node, type }]) => {
      const cell = this.cell(initialValue(node.value, program.facts.colors))
      this.named.set(name, cell)
      return { name, cell, kind: type.type === 'quantity' ? type.kind : null }
    })
    const lanes = program.lanes.map(lane => this.lane(lane))
    return {
      title: titleOf(program.tree),
      cellCount: this.cells.length,
      initial: Float64Array.from(this.cells),
      dials, memories, lanes,
      signals: this.signals,
      code: this.code, motions: this.motions, steps: this.steps, rules: this.rules, thresholds: this.thresholds,
    }
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

  private emit(instruction: Instruction): number {
    if (this.code.length >= MAX_CODE) throw new RangeError('program too long')
    this.code.push(instruction)
    return this.code.length - 1
  }

  private get here(): number { return this.code.length }

  private names(context: Context, step: number, timers: (count: number) => number): Names {
    const { program } = this
    const scope: Scope = {
      facts: program.facts,
      lookup: name => {
        const type = context.parameterTypes.get(name)
        return type !== undefined ? { type } : program.dials.get(name) ?? program.memories.get(name)
      },
      names: [],
      used: () => undefined,
    }
    return {
      scope, step,
      cell: name => context.parameters.get(name) ?? this.named.get(name),
      timer: timers,
      signal: name => this.signal(name),
    }
  }

  private signal(name: string): number {
    const at = this.signals.indexOf(name)
    if (at !== -1) return at
    this.signals.push(name)
    return this.signals.length - 1
  }

  private lane(lane: LaneShape): CompiledLane {
    const plain: Context = { live: false, parameters: new Map(), parameterTypes: new Map(), guards: [], leaves: null }
    const start = lane.start === null ? -1 : this.body(lane.start.body, plain)
    const above = lane.above.map((rule, i) => this.rule(rule, i + 1, ''))
    const modes: CompiledMode[] = lane.modes.map(mode => ({
      name: mode.name,
      start: mode.start === null ? -1 : this.body(mode.start.body, plain),
      rules: mode.rules.map((rule, i) => this.rule(rule, lane.above.length + i + 1, mode.node === null ? '' : mode.name)),
    }))
    return { name: lane.name, start, above, modes, sequence: above.length === 0 && modes.every(m => m.rules.length === 0 && m.start === -1) && start !== -1 }
  }

  private rule(rule: Rule, urgency: number, mode: string): CompiledRule {
    const live = !rule.body.steps.some(s => this.program.takesTime(s))
    const number = this.rules.length
    const once = actsOnce(rule)
    // A live rule that acts once is gone through once each time: all in it acts then.
    const context: Context = { live: live && !once, parameters: new Map(), parameterTypes: new Map(), guards: [], leaves: null }
    const step = this.step(rule.range, false)
    const first = this.cells.length
    // Cells of the rule: wants, latch, done, then its timers; all -1 when its mode is entered.
    const wantCell = this.cell(-1)
    const latch = this.cell(-1)
    const doneCell = this.cell(-1)
    const names = this.names(context, step, count => this.cellsOf(count, -1))
    const when: Bool = rule.when === null ? () => true : this.expressions.condition(rule.when, names)
    const until: Bool | null = rule.until === null ? null : this.expressions.condition(rule.until, names)
    const moments = rule.when !== null && rule.when.held === null && onlyMoments(rule.when.expression)
    const cells: [number, number] = [first, this.cells.length - first]
    const wants = wantsOf(when, until, once, moments, { wantCell, latch, doneCell })
    this.rules.push(null as never)
    const compiled: CompiledRule = {
      number, range: rule.range, line: this.program.line(rule.range), urgency, wants, cells,
      body: this.body(rule.body, context), live, once, doneCell, wantCell,
    }
    this.rules[number] = compiled
    if (rule.when !== null) this.thresholds.push(...thresholdsIn(rule.when.expression, { rule: number, mode, cellOf: name => this.named.get(name) ?? null }))
    return compiled
  }

  /** Compiles a block with its end; returns where it begins. */
  private body(block: Block, context: Context): number {
    const begin = this.here
    this.block(block, context)
    this.emit(() => DONE)
    return begin
  }

  private block(block: Block, context: Context): void {
    for (const step of block.steps) if (step.tag !== 'unread' && !step.off) this.compileStep(step, context)
  }

  private step(range: Range, loop: boolean): number {
    this.steps.push({ range, line: this.program.line(range), loop })
    return this.steps.length - 1
  }

  /** An instant step: in a live rule it acts only where it was not reached the tick before. */
  private instant(context: Context, step: number, act: (m: Machine) => void): void {
    if (!context.live) return this.then(m => { m.at(step); act(m) })
    const cell = this.cell(-2)
    this.then(m => { m.at(step); if (m.edge(cell)) act(m) })
  }

  /** Emits an instruction that acts and goes on with the one behind it. */
  private then(act: (m: Machine) => void): void {
    const after = this.here + 1
    this.emit(m => { act(m); return after })
  }

  private compileStep(step: Exclude<Step, { tag: 'unread' }>, context: Context): void {
    const number = this.step(step.range, step.tag === 'repeat')
    // Steps outside of conditions have no timers of modes; theirs begin anew with the step.
    const names = this.names(context, number, count => this.cellsOf(count, -1))
    switch (step.tag) {
      case 'action': return this.action(step, context, number)
      case 'if':
        return this.ways(step.branches.map(b => ({ test: this.expressions.truth(b.condition!, names), body: b.body })), step.otherwise?.body ?? null, context)
      case 'choose':
        return this.ways(step.cases.map(c => ({
          test: this.expressions.truth({ tag: 'is', value: step.value, negated: false, options: c.values, range: c.range }, names), body: c.body,
        })), step.otherwise?.body ?? null, context)
      case 'repeat': return this.repeat(step, context, number, names)
      case 'leave': {
        const at = this.reserve()
        context.leaves?.push(at)
        return
      }
      case 'set': {
        const cell = this.named.get(step.name.text)!
        const value = this.expressions.number(step.value, names)
        return this.instant(context, number, m => { m.cells[cell] = value(m) })
      }
      case 'reset': {
        const e = step.reading as Extract<Expression, { tag: 'reading' }>
        const index = this.robot.readingIndex(e.device.text, e.reading.text)
        return this.instant(context, number, m => m.reset(index))
      }
      case 'go': {
        const mode = this.modeNumber(step.mode.text)
        this.emit(m => { m.at(number); m.go(mode); return GONE })
        return
      }
      case 'do': return this.call(step, context, number, names)
      case 'send': {
        const signal = this.signal(step.signal.text)
        return this.instant(context, number, m => m.send(signal))
      }
      case 'finish': {
        const why = step.why === null ? () => '' : this.expressions.text(step.why, names)
        this.emit(m => { m.at(number); m.finish(why(m)); return FINISHED })
        return
      }
      case 'note': {
        const text = this.expressions.text(step.text, names)
        return this.instant(context, number, m => m.note(text(m)))
      }
      case 'wait': return this.wait(this.expressions.number(step.time, names), context, number)
      case 'waitUntil': {
        const timers: number[] = []
        const condition = this.expressions.condition(step.condition, {
          ...names,
          timer: count => { const c = this.cellsOf(count, -1); for (let i = 0; i < count; i++) timers.push(c + i); return c },
        })
        const limit = step.atMost === null ? null : this.expressions.number(step.atMost, names)
        const deadline = this.cell(0)
        this.then(m => {
          m.at(number)
          for (const t of timers) m.cells[t] = -1
          if (limit !== null) m.cells[deadline] = m.tick + ticks(limit(m), m)
        })
        const guard = this.guard(context)
        const after = this.here + 1
        this.emit(m => {
          // What ends in the tick in which a time is over has ended.
          if (condition(m) || (limit !== null && m.tick >= m.cells[deadline]!)) return after
          const out = guard(m)
          return out === -1 ? WAIT : out
        })
      }
    }
  }

  /** The first way whose test holds is gone, else the last one. */
  private ways(ways: readonly { readonly test: Bool, readonly body: Block }[], otherwise: Block | null, context: Context): void {
    const ends: number[] = []
    for (const { test, body } of ways) {
      const jump = this.reserve()
      this.block(body, context)
      ends.push(this.reserve())
      const no = this.here
      this.code[jump] = m => test(m) ? jump + 1 : no
    }
    if (otherwise !== null) this.block(otherwise, context)
    const end = this.here
    for (const e of ends) this.code[e] = () => end
  }

  private reserve(): number {
    return this.emit(() => DONE)
  }

  private modeNumber(name: string): number {
    for (const lane of this.program.lanes) {
      const at = lane.modes.findIndex(m => m.name === name && m.node !== null)
      if (at !== -1) return at
    }
    throw new Error(`no mode ${name}`)
  }

  /** The exit of the outermost `do … at most` whose time is up; -1 while none is. */
  private guard(context: Context): (m: Machine) => number {
    const { guards } = context
    if (guards.length === 0) return () => -1
    return m => {
      for (const g of guards) if (m.tick >= m.cells[g.cell]!) { m.stopMotions(g.motions[0], g.motions[1]); return g.exit }
      return -1
    }
  }

  private wait(time: Num, context: Context, number: number): void {
    const deadline = this.cell(0)
    this.then(m => { m.at(number); m.cells[deadline] = m.tick + ticks(time(m), m) })
    const guard = this.guard(context)
    const after = this.here + 1
    this.emit(m => {
      if (m.tick >= m.cells[deadline]!) return after
      const out = guard(m)
      return out === -1 ? WAIT : out
    })
  }

  private repeat(step: Extract<Step, { tag: 'repeat' }>, context: Context, number: number, names: Names): void {
    const leaves: number[] = []
    const inner: Context = { ...context, leaves }
    const times = step.times === null ? null : this.expressions.number(step.times, names)
    const count = this.cell(0)
    if (times !== null) this.then(m => { m.cells[count] = Math.round(times(m)) })
    const top = this.reserve()
    this.block(step.body, inner)
    this.emit(m => { m.loop(number); return top })
    const end = this.here
    if (times !== null) {
      this.code[top] = m => {
        if (m.cells[count]! < 1) return end
        m.cells[count] = m.cells[count]! - 1
        return top + 1
      }
    } else if (step.test !== null) {
      const test = this.expressions.truth(step.test.condition, names)
      const going = step.test.word === 'while'
      this.code[top] = m => test(m) === going ? top + 1 : end
    } else this.code[top] = () => top + 1
    for (const at of leaves) this.code[at] = () => end
  }

  private call(step: Extract<Step, { tag: 'do' }>, context: Context, number: number, names: Names): void {
    const routine = this.program.routines.get(step.routine.text)!
    const given = step.given.map(e => this.expressions.number(e, names))
    const types = this.program.parameters.get(routine) ?? []
    const parameters = new Map<string, number>()
    const parameterTypes = new Map<string, Type>()
    routine.parameters.forEach((p, i) => {
      parameters.set(p.text, this.cell(0))
      parameterTypes.set(p.text, types[i] ?? UNKNOWN)
    })
    const places = [...parameters.values()]
    const limit = step.atMost === null ? null : this.expressions.number(step.atMost, names)
    const guard = limit === null ? null : { cell: this.cell(0), exit: -1, motions: [this.motions.length, -1] as [number, number] }
    this.then(m => {
      m.at(number)
      for (let i = 0; i < places.length; i++) m.cells[places[i]!] = given[i]!(m)
      if (limit !== null) m.cells[guard!.cell] = m.tick + ticks(limit(m), m)
    })
    this.block(routine.body, {
      live: context.live, parameters, parameterTypes, leaves: null,
      guards: guard === null ? context.guards : [...context.guards, guard],
    })
    if (guard !== null) {
      guard.exit = this.here
      guard.motions[1] = this.motions.length
    }
  }

  private action(step: Action, context: Context, number: number): void {
    const definition = STEP_BY_FORM.get(step.form)!
    const fresh: number[] = []
    const names = this.names(context, number, count => {
      const c = this.cellsOf(count, -1)
      for (let i = 0; i < count; i++) fresh.push(c + i)
      return c
    })
    const slots = new Map<string, PlannedSlot>()
    for (const slot of step.slots) {
      let kind: Kind | null = null
      if (slot.value !== null) {
        const type = this.expressions.typeOf(slot.value, names)
        kind = type.type === 'quantity' ? type.kind : PLAIN
        if (sameKind(kind, PLAIN)) kind = kindWanted(step.form, slot.name) ?? kind
      }
      const text = slot.value === null ? null : this.expressions.text(slot.value, names) as PlannedSlot['text']
      slots.set(slot.name, { value: slot.value === null ? null : this.slotValue(slot.value, names) as NumberOf, kind, word: slot.word, text })
    }
    const plan = definition.plan(slots, this.robot)
    const moved = definition.moves(slots, this.robot)
    const actuators = this.program.facts.actuators.flatMap((a, i) => moved.includes(a.name) ? [i] : [])
    const motion = this.motions.length
    const at = this.cellsOf(plan.cells, 0)
    this.motions.push({ plan, at, actuators, shared: actuators.some(i => this.program.facts.actuators[i]!.shared), step: number })
    const until = step.until === null ? null : this.expressions.condition(step.until, names)
    const lasting = step.lasting === null ? null : this.expressions.number(step.lasting, names)
    const limit = step.atMost === null ? null : this.expressions.number(step.atMost, names)
    const draws = this.takeDraws()
    const begin = (m: Machine): boolean => {
      m.at(number)
      for (const draw of draws) draw(m)
      return plan.begin(m, at)
    }
    if (plan.timing === 'setting') return this.then(m => { if (begin(m)) m.applySetting(motion) })
    if (plan.timing !== 'timed' && lasting === null && until === null) {
      if (!context.live) return this.then(m => { if (begin(m)) m.startMotion(motion) })
      // A live rule reaches the step every tick; its fixed measures are taken when it is reached anew.
      const edge = this.cell(-2)
      return this.then(m => {
        if (m.edge(edge)) begin(m)
        else m.at(number)
        m.startMotion(motion)
      })
    }
    const ends = this.cell(0)
    const deadline = this.cell(0)
    const poll = this.here + 1
    const after = poll + 1
    this.emit(m => {
      for (const t of fresh) m.cells[t] = -1
      if (until !== null && until(m)) { m.at(number); return after }
      if (lasting !== null) {
        const length = ticks(lasting(m), m)
        if (length <= 0) { m.at(number); return after }
        m.cells[ends] = m.tick + length
      }
      if (limit !== null) m.cells[deadline] = m.tick + ticks(limit(m), m)
      if (!begin(m)) return after
      m.startMotion(motion)
      return poll
    })
    const guard = this.guard(context)
    this.emit(m => {
      let over = m.blocked(motion)
      if (!over && lasting !== null) over = m.tick >= m.cells[ends]!
      if (!over && until !== null) over = until(m)
      if (!over && plan.timing === 'timed') over = plan.done(m, at)
      if (!over && limit !== null) over = m.tick >= m.cells[deadline]!
      if (!over) {
        const out = guard(m)
        return out === -1 ? WAIT : out
      }
      m.stopMotion(motion)
      return after
    })
  }

  private pendingDraws: { cell: number, draw: Num }[] = []

  /** A slot's value; `random` in it is drawn once, when the step begins. (Plans are only ever run on a Machine.) */
  private slotValue(e: Expression, names: Names): Num {
    if (e.tag !== 'random') return this.expressions.number(e, names)
    const cell = this.cell(0)
    this.pendingDraws.push({ cell, draw: this.expressions.number(e, names) })
    return m => m.cells[cell]!
  }

  private takeDraws(): readonly ((m: Machine) => void)[] {
    const draws = this.pendingDraws
    this.pendingDraws = []
    return draws.map(({ cell, draw }) => (m: Machine) => { m.cells[cell] = draw(m) })
  }
}

/** Whole ticks that a time takes, rounded up (ruling 7). */
function ticks(seconds: number, m: Machine): number {
  return Math.ceil(seconds / m.dt - 1e-9)
}

function kindWanted(form: string, slot: string): Kind | null {
  const definition = STEP_BY_FORM.get(form)
  const part = definition === undefined ? undefined : plainParts(definition.form).find(p => 'slot' in p && p.slot === slot)
  if (part?.part !== 'value') return null
  const first = part.kinds[0]!
  return first === 'share' || first === 'text' || first === 'color' ? PLAIN : kindOf(first)
}

function initialValue(e: Expression, colors: readonly string[]): number {
  if (e.tag === 'truth') return e.value ? 1 : 0
  if (e.tag === 'name') return Math.max(0, colors.indexOf(e.name))
  return numberOf(e) ?? 0
}

function titleOf(tree: Program): string | null {
  const title = tree.items.find(i => i.tag === 'title')
  return title?.tag === 'title' ? title.text : null
}
