import { ALL_DEVICE_KINDS, DEVICE_STEPS, plainParts, type DeviceStep, type PlainPart, type PlannedSlot, type StepPlan, type StepRobot } from '../devices'
import { stepRobotOf, type RobotFacts } from '../robot'
import { KINDS, PLAIN, kindOf, sameKind, type Kind } from '../units'
import { checkPlace } from './calls'
import { numberOf } from './constants'
import type { Declared } from './declared'
import type { Findings } from './diagnostics'
import { bodiesOf, flatSteps } from './nodes'
import { Routines } from './routines'
import type { Action, Block, Condition, Do, Expression, Keep, Name, Routine, Rule, SetStep, Slot, Step } from './tree'
import { UNKNOWN, bareFigure, fixed, expectKind, expectOneOf, expectTruth, resolveReading, typeName, typeOf, type Entry, type Scope } from './types'
import { say } from './wording'
import { nearestWord, RESERVED } from './words'

/** What a step does on this robot, and which of its actuators it moves or sets. */
export interface PlannedStep { readonly step: DeviceStep, readonly plan: StepPlan, readonly moves: readonly string[] }

/** Where steps stand: what modes there are, and which are switched off. */
export interface Modes { readonly byLane: ReadonlyMap<string, ReadonlySet<string>>, readonly off: ReadonlySet<string> }

type ValuePart = Extract<PlainPart, { part: 'value' }>
interface Wanted { readonly kind: Kind, readonly share: boolean }

const STEP_BY_FORM = new Map(DEVICE_STEPS.map(s => [s.form.id, s]))

/** Gives steps their meaning on a robot, and says what is wrong with them; routines are read where they are done. */
export class StepAnalyser {
  readonly routines: Routines
  private readonly plans = new Map<Action, PlannedStep>()
  private readonly routineStack: Routine[] = []
  private readonly checkedIn = new Map<Routine, Set<string>>()
  private readonly keptAs = new Map<Keep, Entry>()
  private readonly slow = new Map<Routine, boolean>()
  private readonly robot: StepRobot
  /** The lane being read; null in a routine that no lane uses. */
  lane: string | null = 'main'
  /** The body of the routine being read, where its memories stand. */
  private keeps: Block | null = null

  constructor(private readonly facts: RobotFacts, private readonly declared: Declared, private readonly modes: Modes, private readonly findings: Findings) {
    this.robot = stepRobotOf(facts)
    this.routines = new Routines(declared.routines, facts)
  }

  planOf(step: Action): PlannedStep | undefined { return this.plans.get(step) }

  keepOf(step: Keep): Entry { return this.keptAs.get(step) ?? fixed(UNKNOWN) }

  /** Routines that nothing does are read too. */
  unused(): void {
    this.lane = null
    for (const routine of this.routines.undone()) {
      this.routines.settle(routine, routine.parameters.map(() => UNKNOWN))
      this.routineBody(routine)
      this.findings.warning(say.unused('routine', routine.name.text), routine.name.range)
    }
  }

  rule(rule: Rule): void {
    const scope = this.declared.scope(new Map())
    if (rule.when !== null) this.condition(rule.when, scope)
    if (rule.until !== null) this.condition(rule.until, scope)
    this.block(rule.body, scope)
  }

  body(body: Block): void { this.block(body, this.declared.scope(new Map())) }

  private condition(c: Condition, scope: Scope): void {
    expectTruth(c.expression, scope, this.findings, { condition: true })
    if (c.held !== null) this.time(c.held, scope, 'after for')
  }

  private time(e: Expression, scope: Scope, where: string): void {
    expectKind(e, KINDS.time, scope, this.findings, where)
    const n = numberOf(e)
    if (n !== null && n < 0) this.findings.error(say.negativeTime(), e.range)
  }

  /** What a block names holds to its end. */
  private block(body: Block, outer: Scope): void {
    let scope = outer
    for (const step of body.steps) {
      this.step(step, scope, body)
      if (step.tag === 'local' && this.declared.localName(step.name, scope)) scope = scope.with(step.name.text, this.localEntry(step.value, scope))
      if (step.tag === 'keep') {
        const entry = this.declared.remembered(step)
        this.keptAs.set(step, entry)
        if (this.declared.localName(step.name, scope)) scope = scope.with(step.name.text, entry)
      }
    }
  }

  private localEntry(value: Expression, scope: Scope): Entry {
    const type = typeOf(value, scope, this.findings, { condition: false })
    if (type.type === 'text') this.findings.error(say.wrongKind('number, truth or colour', 'text', 'after let'), value.range)
    return fixed(type.type === 'text' ? UNKNOWN : type)
  }

  private step(step: Step, scope: Scope, within: Block): void {
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
        if (step.each !== null) return this.each(step.each.name, step.each.values, step.body, scope)
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
      case 'set': return this.set(step, scope)
      case 'local': return
      case 'keep':
        if (within !== this.keeps) findings.error(say.keepPlace(), step.range)
        return
      case 'reset': return this.reset(step.reading)
      case 'go': return this.go(step.mode)
      case 'do': return this.call(step, scope)
      case 'send':
        if (RESERVED.has(step.signal.text)) findings.error(say.reserved(step.signal.text), step.signal.range)
        this.declared.uses.sent.add(step.signal.text)
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
        this.limit(step, scope)
        return
      case 'leave':
      case 'unread': return
      default: return unreachable(step)
    }
  }

  /** What ends a step that takes too long, and what is done then. */
  private limit(step: { readonly atMost: Expression | null, readonly late: { readonly body: Block } | null }, scope: Scope): void {
    if (step.atMost !== null) this.time(step.atMost, scope, 'after at most')
    if (step.late !== null) this.block(step.late.body, scope)
  }

  private each(name: Name, values: readonly Expression[], body: Block, scope: Scope): void {
    const types = values.map(v => typeOf(v, scope, this.findings, { condition: false }))
    const type = types.find(t => t.type !== 'unknown') ?? UNKNOWN
    types.forEach((t, i) => { if (t.type !== 'unknown' && typeName(t) !== typeName(type)) this.findings.error(say.wrongKind(typeName(type), typeName(t), `for ${name.text}`), values[i]!.range) })
    this.block(body, this.declared.localName(name, scope) ? scope.with(name.text, fixed(type)) : scope)
  }

  private set({ name, at, value }: SetStep, scope: Scope): void {
    const type = typeOf(value, scope, this.findings, { condition: false })
    const { declared } = this
    const global = declared.memories.get(name.text)
    const memory = global ?? (scope.local(name.text) ? scope.lookup(name.text) : undefined)
    if (memory === undefined) {
      if (declared.dials.has(name.text)) this.findings.error(say.setDial(name.text), name.range)
      else if (declared.lets.has(name.text) || declared.functions.has(name.text)) this.findings.error(say.setLet(name.text), name.range)
      else {
        const near = nearestWord(name.text, declared.memories.keys())
        this.findings.error(say.unknownMemory(name.text, near), name.range, near === null ? { title: `Add memory ${name.text}`, from: 0, to: 0, text: `memory ${name.text} = 0\n` } : { title: `Use ${near}`, from: name.range.from, to: name.range.to, text: near })
      }
      return
    }
    // Of what a block names, memories alone can be set.
    if (!memory.settable) return this.findings.error(say.setLet(name.text), name.range)
    declared.uses.sets.add(name.text)
    const { several } = memory
    if (several !== null && at === null) return this.findings.error(say.takesValue(name.text, several.per), name.range)
    if (several === null && at !== null) return this.findings.error(say.takesNoValues(name.text), name.range)
    if (several !== null) checkPlace(name.text, at!, several, scope, this.findings)
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
    const all = (): string[] => this.facts.devices.flatMap(d => d.readings.filter(r => r.resettable).map(r => `${d.name}.${r.name}`))
    if (e.tag !== 'reading') return this.findings.error(say.notResettable('This', all()), e.range)
    const found = resolveReading(e, this.facts, this.findings)
    if (found !== null && !found.reading.resettable) this.findings.error(say.notResettable(`${e.device.text}.${e.reading.text}`, all()), e.range)
  }

  private go(mode: Name): void {
    const here: ReadonlySet<string> = this.lane === null ? new Set([...this.modes.byLane.values()].flatMap(m => [...m])) : this.modes.byLane.get(this.lane) ?? new Set()
    if (mode.text === '') return
    if (here.has(mode.text)) {
      if (this.modes.off.has(mode.text)) this.findings.error(say.modeIsOff(mode.text), mode.range)
      return
    }
    for (const [lane, modes] of this.modes.byLane) {
      if (modes.has(mode.text)) return this.findings.error(say.modeOfOtherLane(mode.text, lane), mode.range)
    }
    const near = nearestWord(mode.text, here)
    this.findings.error(say.unknownMode(mode.text, [...here], near), mode.range, near === null ? null : { title: `Use ${near}`, from: mode.range.from, to: mode.range.to, text: near })
  }

  private call(step: Do, scope: Scope): void {
    const { findings } = this
    this.limit(step, scope)
    const written = this.declared.routines.get(step.routine.text)
    if (written === undefined) {
      for (const e of step.given) typeOf(e, scope, findings, { condition: false })
      const near = nearestWord(step.routine.text, this.declared.routines.keys())
      findings.error(say.unknownRoutine(step.routine.text, near), step.routine.range, near === null ? null : { title: `Use ${near}`, from: step.routine.range.from, to: step.routine.range.to, text: near })
      return
    }
    if (written.parameters.length !== step.given.length) {
      findings.error(say.routineGiven(written.name.text, written.parameters.length, step.given.length), step.routine.range)
      return
    }
    const routine = this.routines.doneBy(step, written, name => scope.lookup(name) !== undefined)
    const given = this.routines.valuesOf(step)
    const types = given.map(e => typeOf(e, scope, findings, { condition: false }))
    if (this.routineStack.some(r => r.name.text === written.name.text)) return findings.error(say.recursion(written.name.text), step.routine.range)
    const known = this.routines.settle(routine, types)
    types.forEach((t, i) => {
      if (t.type !== 'unknown' && known[i]!.type !== 'unknown' && typeName(t) !== typeName(known[i]!)) {
        findings.error(say.wrongKind(typeName(known[i]!), typeName(t), `for ${routine.parameters[i]!.text} of ${written.name.text}`), given[i]!.range)
      }
    })
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
        const inner = step.tag === 'do' ? this.routines.of(step) : undefined
        if (inner !== undefined) this.routineBody(inner)
      }
      return
    }
    const before = this.keeps
    this.routineStack.push(routine)
    this.keeps = routine.body
    const types = this.routines.typesOf(routine)
    this.block(routine.body, this.declared.scope(new Map(routine.parameters.map((p, i): [string, Entry] => [p.text, fixed(types[i] ?? UNKNOWN)]))))
    this.keeps = before
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
      if (part.part === 'device' && !this.slotDevice(part, slot, step, scope)) return
      if (part.part === 'kept' && !this.slotKept(part, slot)) return
      slots.set(part.slot, { value: () => 0, kind, word: slot.word, text: () => '' })
    }
    if (step.lasting !== null) this.time(step.lasting, scope, 'after for')
    if (step.until !== null) this.condition(step.until, scope)
    this.limit(step, scope)
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
  private slotKind(part: ValuePart, value: Expression, step: Action, scope: Scope): Kind {
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
    const wanted = wantedIn(part)
    const type = expectOneOf(value, wanted, scope, findings, `after ${step.form === 'turnTo' ? 'turn to' : step.form}`)
    return type.type === 'quantity' ? type.kind : wanted[0]!.kind
  }

  /** Whether the slot names a device that fits. */
  private slotDevice(part: Extract<PlainPart, { part: 'device' }>, slot: Slot, step: Action, scope: Scope): boolean {
    const name = slot.word ?? ''
    const kind = this.robot.kindOf(name)
    // A parameter of a routine that nothing does: there is no telling which device it is.
    if (kind === null && scope.lookup(name)?.type.type === 'unknown') return false
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
    const all = this.robot.kept(part.what)
    if (all.includes(name)) return true
    const near = nearestWord(name, all)
    this.findings.error(say.notKept(part.what, name, all), slot.range, near === null ? null : { title: `Use ${near}`, from: slot.range.from, to: slot.range.to, text: near })
    return false
  }

  /** Whether a step can let time pass. */
  takesTime(step: Step): boolean {
    if (step.tag === 'unread' || step.off) return false
    const any = (body: Block): boolean => body.steps.some(s => this.takesTime(s))
    switch (step.tag) {
      case 'action': return this.plans.get(step)?.plan.timing === 'timed' || step.lasting !== null || step.until !== null
      case 'wait':
      case 'waitUntil': return true
      case 'do': {
        const routine = this.routines.of(step)
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

const WANTED = new WeakMap<ValuePart, readonly Wanted[]>()
/** The kinds of number that a slot takes. */
function wantedIn(part: ValuePart): readonly Wanted[] {
  let wanted = WANTED.get(part)
  if (wanted === undefined) {
    wanted = part.kinds.flatMap((k): Wanted[] => k === 'text' || k === 'color' ? [] : k === 'share' ? [{ kind: PLAIN, share: true }] : [{ kind: kindOf(k), share: false }])
    WANTED.set(part, wanted)
  }
  return wanted
}

/** A kind of device as a person says it. */
function titleOfKind(kind: string): string {
  return ALL_DEVICE_KINDS.find(k => k.kind === kind)?.title ?? kind
}

function unreachable(value: never): never {
  throw new Error(`unexpected ${JSON.stringify(value)}`)
}

