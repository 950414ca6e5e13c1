import { DEVICE_STEPS, type NumberOf, type PlannedSlot, type StepPlan } from '../devices'
import type { Draw, Guard, MotionData, Op, ProgramData, RuleData } from '../program'
import { stepRobotOf, type RobotFacts } from '../robot'
import { everyTick } from './every-tick'
import { DONE, FINISHED, GONE, WAIT, type Bool, type Instruction, type Machine } from './machine'
import { ValueLoader } from './values'

/** A motion as the machine runs it. */
export interface Motion {
  readonly plan: StepPlan
  /** Its cells. */
  readonly at: number
  /** Indices of the actuators that it moves, among the robot's. */
  readonly actuators: readonly number[]
  /** Whether any lane may speak to one of them. */
  readonly shared: boolean
  readonly step: number
}

/** A rule with its conditions; null where it has none. */
export interface LoadedRule extends Pick<RuleData, 'number' | 'wantCell' | 'latch' | 'doneCell' | 'once' | 'live' | 'moments' | 'body' | 'cells'> {
  readonly test: Bool | null
  readonly ends: Bool | null
  /** Whether it wants control whenever its condition is true, and for nothing else. */
  readonly plain: boolean
  /** Whether it acts beside what has control and never has it itself: once, in a tick. */
  readonly acts: boolean
}

/** A program made ready to run: closures over a machine, made of its data. */
export interface Loaded {
  /** What is worked out at the beginning of every tick, in order. */
  readonly everyTick: readonly ((m: Machine) => void)[]
  readonly code: readonly Instruction[]
  readonly motions: readonly Motion[]
  readonly rules: readonly LoadedRule[]
  /** Readings that the program resets somewhere. */
  readonly resets: readonly number[]
}

const STEP_BY_FORM = new Map(DEVICE_STEPS.map(s => [s.form.id, s]))

/** Makes a program ready to run on a robot. Throws where it names what the robot has not. */
export function loadProgram(program: ProgramData, facts: RobotFacts): Loaded {
  const values = new ValueLoader(facts, program.colors)
  const robot = stepRobotOf(facts)
  const motions = program.motions.map((m): Motion => {
    const slots = new Map(m.slots.map((s): [string, PlannedSlot] => [s.name, {
      // Plans are only ever run on a machine.
      value: s.value === null ? null : values.number(s.value) as NumberOf, kind: s.kind, word: s.word, text: s.text === null ? null : values.text(s.text) as PlannedSlot['text'],
    }]))
    const form = STEP_BY_FORM.get(m.form)
    if (form === undefined) throw new Error(`there is no step ${m.form}`)
    const actuators = m.actuators.map(name => actuatorOf(facts, name))
    return { plan: form.plan(slots, robot), at: m.at, actuators, shared: actuators.some(i => facts.actuators[i]!.shared), step: m.step }
  })
  const rules = program.rules.map(({ when, until, number, wantCell, latch, doneCell, once, live, moments, body, cells }): LoadedRule => ({
    test: when === null ? null : values.truth(when), ends: until === null ? null : values.truth(until),
    plain: until === null && (!once || moments), acts: live && once,
    number, wantCell, latch, doneCell, once, live, moments, body, cells,
  }))
  return { everyTick: program.everyTick.map(e => everyTick(e, values, facts)), code: program.code.map((op, at) => instruction(op, at, program.code, program.motions, motions, values)), motions, rules, resets: [...new Set(program.code.flatMap(op => op.op === 'reset' ? [values.reading(op.reading)] : []))] }
}

function actuatorOf(facts: RobotFacts, name: string): number {
  const at = facts.actuators.findIndex(a => a.name === name)
  if (at === -1) throw new Error(`the robot ${facts.robot} has no ${name} to move`)
  return at
}

/** Where code goes on from a place: past jumps ahead, and DONE where it ends there. */
function goesOn(code: readonly Op[], at: number): number {
  const op = code[at]
  if (op?.op === 'jump' && op.to > at) return goesOn(code, op.to)
  return op?.op === 'end' ? DONE : at
}

function instruction(op: Op, at: number, code: readonly Op[], data: readonly MotionData[], motions: readonly Motion[], values: ValueLoader): Instruction {
  const next = goesOn(code, at + 1)
  /** Acts, in a live rule only when it is reached anew, and goes on. */
  const instant = (step: number, edge: number | null, act: (m: Machine) => void): Instruction => edge === null
    ? m => { m.at(step); act(m); return next }
    : m => { m.at(step); if (m.edge(edge)) act(m); return next }
  switch (op.op) {
    case 'end': return () => DONE
    case 'jump': { const to = goesOn(code, op.to); return () => to }
    case 'test': { const test = values.truth(op.test); const no = goesOn(code, op.no); return m => test(m) ? next : no }
    case 'count': { const times = values.number(op.times); const { cell } = op; return m => { m.cells[cell] = Math.round(times(m)); return next } }
    case 'round': {
      const { cell, end } = op
      return m => {
        if (m.cells[cell]! < 1) return end
        m.cells[cell] = m.cells[cell]! - 1
        return next
      }
    }
    case 'each': {
      const { step, cell, into, end } = op
      const all = op.values.map(v => values.number(v))
      return m => {
        m.at(step)
        const k = m.cells[cell]!
        if (k >= all.length) return end
        m.cells[into] = all[k]!(m)
        m.cells[cell] = k + 1
        return next
      }
    }
    case 'put': {
      const place = values.place(op.place)
      const value = values.number(op.value)
      return instant(op.step, op.edge, m => { const x = value(m); const cell = place(m); if (cell !== -1) m.set(cell, x, op.step) })
    }
    case 'again': { const { step, to } = op; return m => { m.round(at + 1 - to, step); return to } }
    case 'set': { const value = values.number(op.value); const { cell, step } = op; return instant(step, op.edge, m => m.set(cell, value(m), step)) }
    case 'reset': { const reading = values.reading(op.reading); return instant(op.step, op.edge, m => m.reset(reading)) }
    case 'send': { const { signal } = op; return instant(op.step, op.edge, m => m.send(signal)) }
    case 'note': { const text = values.text(op.text); return instant(op.step, op.edge, m => m.note(text(m))) }
    case 'finish': { const why = values.text(op.why); const { step } = op; return m => { m.at(step); m.finish(why(m)); return FINISHED } }
    case 'go': { const { step, mode } = op; return m => { m.at(step); m.go(mode); return GONE } }
    case 'deadline': { const time = values.number(op.time); const { step, cell } = op; return m => { m.at(step); m.cells[cell] = m.tick + ticks(time(m), m); return next } }
    case 'wait': {
      const { cell } = op
      const late = guard(op.guards)
      return m => m.tick >= m.cells[cell]! ? next : late(m)
    }
    case 'await': {
      const { step, timers, cell } = op
      const limit = op.limit === null ? null : values.number(op.limit)
      return m => {
        m.at(step)
        for (const t of timers) m.cells[t] = -1
        if (limit !== null) m.cells[cell] = m.tick + ticks(limit(m), m)
        return next
      }
    }
    case 'wait until': {
      const test = values.truth(op.test)
      const { cell, limited } = op
      const late = guard(op.guards)
      const after = op.late === null ? next : goesOn(code, op.late)
      // What ends in the tick in which a time is over has ended.
      return m => test(m) ? next : limited && m.tick >= m.cells[cell]! ? after : late(m)
    }
    case 'call': {
      const { step, cell } = op
      const given = drawn(op.given, values)
      const limit = op.limit === null ? null : values.number(op.limit)
      return m => {
        m.at(step)
        given(m)
        if (limit !== null) m.cells[cell] = m.tick + ticks(limit(m), m)
        return next
      }
    }
    case 'setting': {
      const begin = beginning(op.step, op.motion, op.draws, motions, values)
      const { motion } = op
      return m => { if (begin(m)) m.applySetting(motion); return next }
    }
    case 'hold': {
      const { motion, edge, step } = op
      if (op.draws.length === 0 && motions[motion]!.plan.begin === undefined) return m => { m.at(step); m.startMotion(motion); return next }
      const begin = beginning(step, motion, op.draws, motions, values)
      if (edge === null) return m => { if (begin(m)) m.startMotion(motion); return next }
      return m => {
        if (m.edge(edge)) begin(m)
        else m.at(step)
        m.startMotion(motion)
        return next
      }
    }
    case 'begin': {
      const begin = beginning(op.step, op.motion, op.draws, motions, values)
      const until = op.until === null ? null : values.truth(op.until)
      const lasting = op.lasting === null ? null : values.number(op.lasting)
      const limit = op.limit === null ? null : values.number(op.limit)
      const { step, motion, timers, ends, deadline } = op
      const after = goesOn(code, at + 2)
      return m => {
        for (const t of timers) m.cells[t] = -1
        if (until !== null && until(m)) { m.at(step); return after }
        if (lasting !== null) {
          const length = ticks(lasting(m), m)
          if (length <= 0) { m.at(step); return after }
          m.cells[ends] = m.tick + length
        }
        if (limit !== null) m.cells[deadline] = m.tick + ticks(limit(m), m)
        if (!begin(m)) return after
        m.beginMotion(motion)
        return next
      }
    }
    case 'move': {
      const until = op.until === null ? null : values.truth(op.until)
      const { motion, lasts, ends, timed, limited, deadline } = op
      const after = op.late === null ? next : goesOn(code, op.late)
      const { plan } = motions[motion]!
      const { at: cells } = data[motion]!
      const late = guard(op.guards)
      return m => {
        let over = m.blocked(motion)
        if (!over && lasts) over = m.tick >= m.cells[ends]!
        if (!over && until !== null) over = until(m)
        if (!over && timed) over = plan.done(m, cells)
        const ran = !over && limited && m.tick >= m.cells[deadline]!
        if (!over && !ran) return late(m)
        m.stopMotion(motion)
        return ran ? after : next
      }
    }
  }
}

/** Marks the step, makes its draws and takes its measures; false when there is nothing to do. */
function beginning(step: number, motion: number, draws: readonly Draw[], motions: readonly Motion[], values: ValueLoader): Bool {
  const { plan, at } = motions[motion]!
  const draw = drawn(draws, values)
  return m => {
    m.at(step)
    draw(m)
    return plan.begin?.(m, at) ?? true
  }
}

function drawn(draws: readonly Draw[], values: ValueLoader): (m: Machine) => void {
  const all = draws.map(d => ({ cell: d.cell, value: values.number(d.value) }))
  return m => { for (let i = 0; i < all.length; i++) m.cells[all[i]!.cell] = all[i]!.value(m) }
}

/** Where the outermost `do … at most` whose time is up goes on; WAIT while none is. */
function guard(guards: readonly Guard[]): Instruction {
  if (guards.length === 0) return () => WAIT
  return m => {
    for (const g of guards) if (m.tick >= m.cells[g.cell]!) { m.stopMotions(g.first, g.end); return g.exit }
    return WAIT
  }
}

/** Whole ticks that a time takes, rounded up (ruling 7). */
function ticks(seconds: number, m: Machine): number {
  return Math.ceil(seconds / m.dt - 1e-9)
}
