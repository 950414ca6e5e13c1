import { DEVICE_KINDS, DEVICE_STEPS, WHEELS, type DeviceStep, type PlannedSlot, type StepPlan, type StepRobot } from '../devices'
import type { RobotFacts } from '../robot'
import { stepRobotOf } from '../robot'
import { KINDS, PLAIN, formatQuantity, kindOf, sameKind, findUnit, unitsOfKind, type Kind } from '../units'
import { isConstant, numberOf } from './constants'
import { LineIndex, type Findings } from './diagnostics'
import { bodiesOf, flatSteps } from './nodes'
import type { Action, Block, Condition, Dial, Expression, Lane, Memory, Mode, Name, Program, Range, Routine, Rule, Slot, Start, Step } from './tree'
import { plainParts, type PlainPart } from '../devices'
import { bareFigure, expectKind, expectOneOf, expectTruth, resolveReading, typeName, typeOf, UNKNOWN, type Scope, type Type } from './types'
import { say } from './wording'
import { nearestWord, RESERVED } from './words'

/** A lane with its parts in order, whether it was written as one or is the program itself. */
export interface LaneShape {
  readonly name: string
  /** Switched off: it is checked, and does nothing. */
  readonly off: boolean
  readonly range: Range
  readonly start: Start | null
  /** Rules above all modes; in a lane without modes, none. */
  readonly above: readonly Rule[]
  readonly modes: readonly ModeShape[]
}

export interface ModeShape {
  readonly name: string
  readonly node: Mode | null
  readonly start: Start | null
  readonly rules: readonly Rule[]
}

/** What the task asks of a program. */
export interface Asked {
  /** It must end the run itself. */
  readonly finish: boolean
}

/** What a step does on this robot, and which of its actuators it moves or sets. */
export interface PlannedStep { readonly step: DeviceStep, readonly plan: StepPlan, readonly moves: readonly string[] }

/** A program whose names and kinds are known. What checks and the compiler work on. */
export interface Analysis {
  readonly text: string
  readonly tree: Program
  readonly facts: RobotFacts
  readonly asked: Asked
  readonly lanes: readonly LaneShape[]
  readonly dials: ReadonlyMap<string, { readonly node: Dial, readonly type: Type }>
  readonly memories: ReadonlyMap<string, { readonly node: Memory, readonly type: Type }>
  readonly routines: ReadonlyMap<string, Routine>
  readonly parameters: ReadonlyMap<Routine, readonly Type[]>
  readonly uses: { readonly names: ReadonlySet<string>, readonly readings: ReadonlySet<string>, readonly sets: ReadonlySet<string>, readonly sent: ReadonlySet<string>, readonly heard: ReadonlyMap<string, Range> }
  line(range: Range): number
  /** How an action's step behaves; undefined when it was wrong. */
  planOf(step: Action): PlannedStep | undefined
  /** Whether a step can let time pass. */
  takesTime(step: Step): boolean
  /** Whether nothing after the step is ever reached in its block. */
  neverEnds(step: Step): boolean
}

const STEP_BY_FORM = new Map(DEVICE_STEPS.map(s => [s.form.id, s]))

/** Gives names and kinds their meaning, and says what is wrong with them. */
export function analyse(text: string, tree: Program, facts: RobotFacts, findings: Findings, asked: Asked): Analysis {
  return new Analyser(text, tree, facts, findings, asked).run()
}

class Analyser {
  private readonly dials = new Map<string, { node: Dial, type: Type }>()
  private readonly memories = new Map<string, { node: Memory, type: Type }>()
  private readonly routines = new Map<string, Routine>()
  private readonly parameters = new Map<Routine, Type[]>()
  private readonly plans = new Map<Action, PlannedStep>()
  private readonly uses = { names: new Set<string>(), readings: new Set<string>(), sets: new Set<string>(), sent: new Set<string>(), heard: new Map<string, Range>() }
  private readonly modesByLane = new Map<string, Set<string>>()
  private readonly offModes = new Set<string>()
  private readonly routineStack: Routine[] = []
  private readonly checkedIn = new Map<Routine, Set<string>>()
  private readonly slow = new Map<Routine, boolean>()
  /** Rules that are switched off, by their lane: they are checked, and do nothing. */
  private readonly parked: { readonly lane: string, readonly rule: Rule }[] = []
  private readonly names = new Map<string, { what: string, range: Range }>()
  private readonly lines: LineIndex
  private readonly robot: StepRobot
  /** The lane being read; null in a routine that no lane uses. */
  private lane: string | null = 'main'

  constructor(private readonly text: string, private readonly tree: Program, private readonly facts: RobotFacts, private readonly findings: Findings, private readonly asked: Asked) {
    this.lines = new LineIndex(text)
    this.robot = stepRobotOf(facts)
  }

  run(): Analysis {
    this.declare()
    const all = this.lanesOf()
    for (const lane of all) {
      this.modesByLane.set(lane.name, new Set(lane.modes.filter(m => m.node !== null).map(m => m.name)))
    }
    // What is switched off comes last: it takes no routine from those that use it.
    const lanes = all.filter(l => !l.off).map(withoutOffModes)
    for (const lane of [...lanes, ...all.filter(l => l.off)]) {
      this.lane = lane.name
      if (lane.start !== null) this.block(lane.start.body, this.scope(null))
      for (const rule of lane.above) this.rule(rule)
      for (const mode of lane.modes) {
        if (mode.start !== null) this.block(mode.start.body, this.scope(null))
        for (const rule of mode.rules) this.rule(rule)
      }
    }
    for (const lane of all) {
      this.lane = lane.name
      for (const mode of lane.modes) {
        if (mode.node?.off !== true || lane.off) continue
        if (mode.start !== null) this.block(mode.start.body, this.scope(null))
        for (const rule of mode.rules) this.rule(rule)
      }
    }
    for (const { lane, rule } of this.parked) {
      this.lane = lane
      this.rule(rule)
    }
    this.lane = null
    for (const routine of this.routines.values()) {
      if (this.parameters.has(routine)) continue
      this.parameters.set(routine, routine.parameters.map(() => UNKNOWN))
      this.routineBody(routine)
      this.findings.warning(say.unused('routine', routine.name.text), routine.name.range)
    }
    const takesTime = (step: Step): boolean => this.takesTime(step)
    return {
      text: this.text, tree: this.tree, facts: this.facts, asked: this.asked, lanes,
      dials: this.dials, memories: this.memories, routines: this.routines, parameters: this.parameters, uses: this.uses,
      line: range => this.lineOf(range),
      planOf: step => this.plans.get(step),
      takesTime,
      neverEnds: step => neverEnds(step),
    }
  }

  private declare(): void {
    const silent: Scope = this.scope(null)
    for (const item of this.tree.items) {
      if (item.tag === 'dial') {
        if (!this.name(item.name, 'dial')) continue
        this.dials.set(item.name.text, { node: item, type: this.dialType(item, silent) })
      } else if (item.tag === 'memory') {
        if (!this.name(item.name, 'memory')) continue
        const constantScope: Scope = { ...silent, lookup: () => undefined }
        if (!isConstant(item.value)) this.findings.error(say.memoryChanges(), item.value.range)
        const type = isConstant(item.value) ? typeOf(item.value, constantScope, this.findings, { condition: false }) : UNKNOWN
        if (type.type === 'text') this.findings.error(say.memoryChanges(), item.value.range)
        this.memories.set(item.name.text, { node: item, type: type.type === 'text' ? UNKNOWN : type })
      } else if (item.tag === 'routine') {
        if (this.name(item.name, 'routine')) this.routines.set(item.name.text, item)
        item.parameters.forEach((p, i) => {
          if (RESERVED.has(p.text)) this.findings.error(say.reserved(p.text), p.range)
          else if (item.parameters.findIndex(q => q.text === p.text) < i) this.findings.error(say.twice('parameter', p.text, this.lineOf(p.range)), p.range)
        })
      } else if (item.tag === 'lane') this.name(item.name, 'lane')
    }
  }

  private dialType(item: Dial, scope: Scope): Type {
    const parts = [item.value, item.from, item.to].filter(e => e !== null)
    for (const part of parts) {
      if (numberOf(part) === null) {
        this.findings.error(say.dialLiteral(), part.range)
        return UNKNOWN
      }
    }
    const type = typeOf(item.value, scope, this.findings, { condition: false })
    if (type.type !== 'quantity') return UNKNOWN
    for (const part of [item.from, item.to]) {
      if (part === null) continue
      const t = typeOf(part, scope, this.findings, { condition: false })
      if (t.type !== 'quantity') return UNKNOWN
      const figure = bareFigure(part)
      if (!sameKind(type.kind, t.kind) || (figure !== null && Number(figure) !== 0 && bareFigure(item.value) === null)) {
        this.findings.error(figure !== null ? say.whatUnit(figure, type.kind) : say.wrongKind(typeName(type), typeName(t), 'in the range of this dial'), part.range)
        return type
      }
    }
    if (item.from !== null && item.to !== null) {
      const [value, from, to] = [numberOf(item.value)!, numberOf(item.from)!, numberOf(item.to)!]
      if (from >= to) this.findings.error(say.dialTurned(), item.from.range)
      else if (value < from || value > to) {
        const unit = (item.value.tag === 'number' && item.value.unit !== null ? findUnit(item.value.unit) : undefined) ?? unitsOfKind(type.kind)[0]
        const show = (x: number) => unit === undefined ? String(x) : formatQuantity(x, unit)
        this.findings.error(say.dialRange(show(value), show(from), show(to)), item.value.range)
      }
    }
    return type
  }

  private name(name: Name, what: string): boolean {
    if (name.text === '') return false
    if (RESERVED.has(name.text)) {
      this.findings.error(say.reserved(name.text), name.range)
      return false
    }
    const before = this.names.get(name.text)
    if (before !== undefined) {
      this.findings.error(say.twice(before.what, name.text, this.lineOf(before.range)), name.range)
      return false
    }
    this.names.set(name.text, { what, range: name.range })
    return true
  }

  private lineOf(range: Range): number {
    return this.lines.placeOf(range.from).line
  }

  private lanesOf(): LaneShape[] {
    const lanes: LaneShape[] = []
    const own = this.tree.items.filter(i => i.tag === 'start' || i.tag === 'rule' || i.tag === 'mode')
    const inner = this.tree.items.filter((i): i is Lane => i.tag === 'lane')
    if (own.length > 0) lanes.push(this.laneOf('main', own, own[0]!.range, false))
    for (const lane of inner) {
      lanes.push(this.laneOf(lane.name.text, lane.items.filter(i => i.tag !== 'unread'), lane.range, lane.off))
    }
    if (lanes.length === 0) this.findings.hint(say.nothing(), { from: 0, to: 0 })
    return lanes
  }

  private laneOf(name: string, items: readonly (Start | Rule | Mode)[], range: Range, off: boolean): LaneShape {
    const park = (all: readonly (Start | Rule | Mode)[] | Mode['items']): void => { for (const i of all) if (i.tag === 'rule' && i.off) this.parked.push({ lane: name, rule: i }) }
    park(items)
    const modes = items.filter((i): i is Mode => i.tag === 'mode')
    const rules = items.filter((i): i is Rule => i.tag === 'rule' && !i.off)
    const start = this.oneStart(items)
    for (const mode of modes) {
      this.name(mode.name, 'mode')
      if (mode.off && !off) this.offModes.add(mode.name.text)
    }
    const shapes: ModeShape[] = modes.map(mode => {
      park(mode.items)
      const own = mode.items.filter((i): i is Rule => i.tag === 'rule' && !i.off)
      this.otherwiseLast(own)
      return { name: mode.name.text, node: mode, start: this.oneStart(mode.items), rules: own }
    })
    this.otherwiseLast(rules)
    if (modes.length === 0) return { name, off, range, start, above: [], modes: [{ name: 'main', node: null, start: null, rules }] }
    return { name, off, range, start, above: rules, modes: shapes }
  }

  private oneStart(items: readonly { readonly tag: string, readonly range: Range }[]): Start | null {
    const starts = items.filter(i => i.tag === 'start') as Start[]
    for (const extra of starts.slice(1)) this.findings.error(say.twice('start', 'start', this.lineOf(starts[0]!.range)), { from: extra.range.from, to: extra.range.from + 5 })
    return starts[0] ?? null
  }

  private otherwiseLast(rules: readonly Rule[]): void {
    rules.forEach((rule, i) => {
      if (rule.when !== null || i === rules.length - 1) return
      const place = { from: rule.range.from, to: rule.range.from + 'otherwise'.length }
      const later = rules.slice(i + 1).some(r => r.when === null)
      this.findings.error(later ? say.twoOtherwise() : say.otherwiseNotLast(), place)
    })
  }

  private scope(routine: Routine | null): Scope {
    const types = routine === null ? [] : this.parameters.get(routine) ?? []
    return {
      facts: this.facts,
      lookup: name => {
        const at = routine?.parameters.findIndex(p => p.text === name) ?? -1
        if (at !== -1) return { type: types[at] ?? UNKNOWN }
        return this.dials.get(name) ?? this.memories.get(name)
      },
      names: [...this.dials.keys(), ...this.memories.keys(), ...(routine?.parameters.map(p => p.text) ?? [])],
      used: (kind, name, range) => {
        if (kind === 'name') this.uses.names.add(name)
        else if (kind === 'reading') this.uses.readings.add(name)
        else if (!this.uses.heard.has(name)) this.uses.heard.set(name, range)
      },
    }
  }

  private rule(rule: Rule): void {
    const scope = this.scope(null)
    if (rule.when !== null) this.condition(rule.when, scope)
    if (rule.until !== null) this.condition(rule.until, scope)
    this.block(rule.body, scope)
  }

  private condition(c: Condition, scope: Scope): void {
    expectTruth(c.expression, scope, this.findings, { condition: true })
    if (c.held !== null) this.time(c.held, scope, 'after for')
  }

  private time(e: Expression, scope: Scope, where: string): void {
    expectKind(e, KINDS.time, scope, this.findings, where)
    const n = numberOf(e)
    if (n !== null && n < 0) this.findings.error(say.negativeTime(), e.range)
  }

  private block(body: Block, scope: Scope): void {
    for (const step of body.steps) this.step(step, scope)
  }

  private step(step: Step, scope: Scope): void {
    const { findings } = this
    switch (step.tag) {
      case 'action': return this.action(step, scope)
      case 'if':
        for (const branch of step.branches) {
          if (branch.condition !== null) expectTruth(branch.condition, scope, findings, { condition: false })
          this.block(branch.body, scope)
        }
        if (step.otherwise !== null) this.block(step.otherwise.body, scope)
        return
      case 'repeat':
        if (step.times !== null) expectKind(step.times, PLAIN, scope, findings, 'before times')
        if (step.test !== null) expectTruth(step.test.condition, scope, findings, { condition: false })
        return this.block(step.body, scope)
      case 'choose': {
        const type = typeOf(step.value, scope, findings, { condition: false })
        for (const c of step.cases) {
          for (const v of c.values) {
            const t = typeOf(v, scope, findings, { condition: false })
            if (t.type !== 'unknown' && type.type !== 'unknown' && typeName(t) !== typeName(type)) findings.error(say.kinds('compare', typeName(type), typeName(t)), v.range)
          }
          this.block(c.body, scope)
        }
        if (step.otherwise !== null) this.block(step.otherwise.body, scope)
        return
      }
      case 'set': return this.set(step.name, step.value, scope)
      case 'reset': return this.reset(step.reading)
      case 'go': return this.go(step.mode)
      case 'do': return this.call(step, scope)
      case 'send':
        if (RESERVED.has(step.signal.text)) findings.error(say.reserved(step.signal.text), step.signal.range)
        this.uses.sent.add(step.signal.text)
        return
      case 'finish':
        if (step.why !== null) typeOf(step.why, scope, findings, { condition: false })
        return
      case 'note': {
        const t = typeOf(step.text, scope, findings, { condition: false })
        if (t.type !== 'text' && t.type !== 'unknown') findings.error(say.expectedText('note "near"', `a ${typeName(t)}`), step.text.range)
        return
      }
      case 'wait': return this.time(step.time, scope, 'after wait')
      case 'waitUntil':
        this.condition(step.condition, scope)
        if (step.atMost !== null) this.time(step.atMost, scope, 'after at most')
        return
      case 'leave':
      case 'unread': return
      default: return unreachable(step)
    }
  }

  private set(name: Name, value: Expression, scope: Scope): void {
    const type = typeOf(value, scope, this.findings, { condition: false })
    const memory = this.memories.get(name.text)
    if (memory === undefined) {
      if (this.dials.has(name.text)) this.findings.error(say.setDial(name.text), name.range)
      else {
        const near = nearestWord(name.text, this.memories.keys())
        this.findings.error(say.unknownMemory(name.text, near), name.range, near === null ? { title: `Add memory ${name.text}`, from: 0, to: 0, text: `memory ${name.text} = 0\n` } : { title: `Use ${near}`, from: name.range.from, to: name.range.to, text: near })
      }
      return
    }
    this.uses.sets.add(name.text)
    if (type.type === 'unknown' || memory.type.type === 'unknown') return
    const figure = bareFigure(value)
    if (memory.type.type === 'quantity' && type.type === 'quantity') {
      if (sameKind(memory.type.kind, type.kind) || figure === '0') return
      if (figure !== null) return this.findings.error(say.whatUnit(figure, memory.type.kind), value.range)
    }
    if (typeName(memory.type) !== typeName(type)) {
      this.findings.error(say.wrongKind(typeName(memory.type), typeName(type), `in ${name.text}`), value.range)
    }
  }

  private reset(e: Expression): void {
    const all = this.facts.devices.flatMap(d => d.readings.filter(r => r.resettable).map(r => `${d.name}.${r.name}`))
    if (e.tag !== 'reading') return this.findings.error(say.notResettable('This', all), e.range)
    const found = resolveReading(e, this.facts, this.findings)
    if (found !== null && !found.reading.resettable) this.findings.error(say.notResettable(`${e.device.text}.${e.reading.text}`, all), e.range)
  }

  private go(mode: Name): void {
    const here: ReadonlySet<string> = this.lane === null ? new Set([...this.modesByLane.values()].flatMap(m => [...m])) : this.modesByLane.get(this.lane) ?? new Set()
    if (mode.text === '') return
    if (here.has(mode.text)) {
      if (this.offModes.has(mode.text)) this.findings.error(say.modeIsOff(mode.text), mode.range)
      return
    }
    for (const [lane, modes] of this.modesByLane) {
      if (modes.has(mode.text)) return this.findings.error(say.modeOfOtherLane(mode.text, lane), mode.range)
    }
    const near = nearestWord(mode.text, here)
    this.findings.error(say.unknownMode(mode.text, [...here], near), mode.range, near === null ? null : { title: `Use ${near}`, from: mode.range.from, to: mode.range.to, text: near })
  }

  private call(step: Extract<Step, { tag: 'do' }>, scope: Scope): void {
    const types = step.given.map(e => typeOf(e, scope, this.findings, { condition: false }))
    if (step.atMost !== null) this.time(step.atMost, scope, 'after at most')
    const routine = this.routines.get(step.routine.text)
    if (routine === undefined) {
      const near = nearestWord(step.routine.text, this.routines.keys())
      this.findings.error(say.unknownRoutine(step.routine.text, near), step.routine.range, near === null ? null : { title: `Use ${near}`, from: step.routine.range.from, to: step.routine.range.to, text: near })
      return
    }
    if (routine.parameters.length !== step.given.length) {
      this.findings.error(say.routineGiven(routine.name.text, routine.parameters.length, step.given.length), step.routine.range)
      return
    }
    if (this.routineStack.includes(routine)) return this.findings.error(say.recursion(routine.name.text), step.routine.range)
    const known = this.parameters.get(routine)
    if (known === undefined) this.parameters.set(routine, types)
    else {
      types.forEach((t, i) => {
        if (t.type !== 'unknown' && known[i]!.type !== 'unknown' && typeName(t) !== typeName(known[i]!)) {
          this.findings.error(say.wrongKind(typeName(known[i]!), typeName(t), `for ${routine.parameters[i]!.text} of ${routine.name.text}`), step.given[i]!.range)
        }
      })
    }
    this.routineBody(routine)
  }

  /** Once per lane: `go` depends on the lane, nothing else does. */
  private routineBody(routine: Routine): void {
    const lanes = this.checkedIn.get(routine) ?? new Set<string>()
    const lane = this.lane ?? ''
    if (lanes.has(lane)) return
    lanes.add(lane)
    this.checkedIn.set(routine, lanes)
    if (lanes.size > 1) {
      for (const step of flatSteps(routine.body)) {
        if (step.tag === 'go') this.findings.error(say.goInShared(routine.name.text), step.mode.range)
        const inner = step.tag === 'do' ? this.routines.get(step.routine.text) : undefined
        if (inner !== undefined) this.routineBody(inner)
      }
      return
    }
    this.routineStack.push(routine)
    this.block(routine.body, this.scope(routine))
    this.routineStack.pop()
  }

  private action(step: Action, scope: Scope): void {
    const definition = STEP_BY_FORM.get(step.form)
    if (definition === undefined) return
    const slots = new Map<string, PlannedSlot>()
    for (const part of plainParts(definition.form)) {
      if (!('slot' in part)) continue
      const slot = step.slots.find(s => s.name === part.slot)
      if (slot === undefined) continue
      let kind: Kind | null = null
      if (part.part === 'value' && slot.value !== null) kind = this.slotKind(part, slot.value, step, scope)
      if (part.part === 'device' && !this.slotDevice(part, slot, step)) return
      if (part.part === 'kept' && !this.slotKept(part, slot)) return
      slots.set(part.slot, { value: () => 0, kind, word: slot.word, text: () => '' })
    }
    if (step.lasting !== null) this.time(step.lasting, scope, 'after for')
    if (step.until !== null) this.condition(step.until, scope)
    if (step.atMost !== null) this.time(step.atMost, scope, 'after at most')
    if (definition.needs.length > 0 && !definition.needs.some(kind => this.robot.hasDevice(kind) !== null)) {
      this.findings.error(say.noDevice(step.form, definition.needs.map(titleOfKind), this.facts.robot), step.range)
      return
    }
    const problem = definition.problem?.(slots, this.robot) ?? null
    if (problem !== null) {
      this.findings.error(say.misfit(problem), step.range)
      return
    }
    this.plans.set(step, { step: definition, plan: definition.plan(slots, this.robot), moves: definition.moves(slots, this.robot).filter(name => this.facts.actuators.some(a => a.name === name)) })
  }

  /** The kind of what stands in a slot; the slot's own where there was a mistake. */
  private slotKind(part: Extract<PlainPart, { part: 'value' }>, value: Expression, step: Action, scope: Scope): Kind {
    const { findings } = this
    if (part.kinds.includes('text')) {
      typeOf(value, scope, findings, { condition: false })
      return PLAIN
    }
    if (part.kinds.includes('color')) {
      const t = typeOf(value, scope, findings, { condition: false })
      if (t.type !== 'color' && t.type !== 'unknown') findings.error(say.wrongKind('colour', typeName(t), `after ${step.form}`), value.range)
      return PLAIN
    }
    const wanted = part.kinds.flatMap(k => k === 'text' || k === 'color' ? [] : k === 'share' ? [{ kind: PLAIN, share: true }] : [{ kind: kindOf(k), share: false }])
    const type = expectOneOf(value, wanted, scope, findings, `after ${step.form === 'turnTo' ? 'turn to' : step.form}`)
    return type.type === 'quantity' ? type.kind : wanted[0]!.kind
  }

  /** Whether the slot names a device that fits. */
  private slotDevice(part: Extract<PlainPart, { part: 'device' }>, slot: Slot, step: Action): boolean {
    const name = slot.word ?? ''
    const kind = this.robot.kindOf(name)
    if (kind !== null && (part.kinds.length === 0 || part.kinds.includes(kind))) return true
    const fitting = this.facts.devices.filter(d => part.kinds.length === 0 || part.kinds.includes(d.kind)).map(d => d.name)
    const near = nearestWord(name, fitting) ?? (fitting.length === 1 ? fitting[0]! : null)
    const fix = near === null ? null : { title: `Use ${near}`, from: slot.range.from, to: slot.range.to, text: near }
    if (kind !== null) this.findings.error(say.wrongDevice(name, this.facts.devices.find(d => d.name === name)!.title, step.form, part.kinds.map(titleOfKind)), slot.range, fix)
    else if (fitting.length === 0) this.findings.error(say.noDevice(step.form, part.kinds.map(titleOfKind), this.facts.robot), slot.range)
    else this.findings.error(say.unknownDevice(name, this.facts.robot, fitting, near, null), slot.range, fix)
    return false
  }

  private slotKept(part: Extract<PlainPart, { part: 'kept' }>, slot: Slot): boolean {
    const name = slot.word ?? ''
    if ((part.what === 'gesture' ? this.robot.gesture(name) : this.robot.clip(name)) !== null) return true
    const all = part.what === 'gesture' ? Object.keys(this.facts.gestures) : this.facts.clips.map(c => c.name)
    const near = nearestWord(name, all)
    this.findings.error(say.notKept(part.what, name, all), slot.range, near === null ? null : { title: `Use ${near}`, from: slot.range.from, to: slot.range.to, text: near })
    return false
  }

  private takesTime(step: Step): boolean {
    if (step.tag === 'unread' || step.off) return false
    const any = (body: Block): boolean => body.steps.some(s => this.takesTime(s))
    switch (step.tag) {
      case 'action': return this.plans.get(step)?.plan.timing === 'timed' || step.lasting !== null || step.until !== null
      case 'wait':
      case 'waitUntil': return true
      case 'do': {
        const routine = this.routines.get(step.routine.text)
        if (routine === undefined) return false
        const known = this.slow.get(routine)
        if (known !== undefined) return known
        // One that calls itself is a mistake of its own; here it takes no time.
        this.slow.set(routine, false)
        const slow = any(routine.body)
        this.slow.set(routine, slow)
        return slow
      }
      default: return bodiesOf(step).some(b => any(b.body))
    }
  }
}

/** A lane as it runs; one whose modes are all off has its rules alone. */
function withoutOffModes(lane: LaneShape): LaneShape {
  const modes = lane.modes.filter(m => m.node?.off !== true)
  return modes.length > 0 ? { ...lane, modes } : { ...lane, above: [], modes: [{ name: 'main', node: null, start: null, rules: lane.above }] }
}

/** A kind of device as a person says it. */
function titleOfKind(kind: string): string {
  return kind === WHEELS ? 'pair of wheels' : DEVICE_KINDS.find(k => k.kind === kind)?.title ?? kind
}

function unreachable(value: never): never {
  throw new Error(`unexpected ${JSON.stringify(value)}`)
}

/** Whether the block can never be left by its end. */
function neverEnds(step: Step): boolean {
  if (step.tag === 'unread' || step.off) return false
  if (step.tag === 'go' || step.tag === 'finish' || step.tag === 'leave') return true
  if (step.tag === 'repeat') return step.times === null && step.test === null && !flatSteps(step.body, undefined, s => s.tag !== 'repeat').some(s => s.tag === 'leave' && !s.off)
  return false
}
