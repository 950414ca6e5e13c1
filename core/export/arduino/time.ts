import { rulesIn, type EveryTick, type ProgramData, type RuleData } from '../../program'
import type { RobotFacts } from '../../robot'
import { valuesIn } from '../names'
import { outlineOf, type Outline } from '../outline'

/**
 * What a program's own reckoning takes of a chip with 8 bits, in clock cycles a tick, worked out from its data without running it. All conditions of a
 * mode are worked out in each of its ticks, so that little depends on what is read.
 */
export interface Cycles {
  /** In a tick in which a motion goes on. */
  readonly usual: number
  /** In one in which the steps that take most begin as well. */
  readonly longest: number
}

/** Cycles of everything once. The table below is fitted to what programs took on a simulated ATmega328P; `./mindpath prove hardware` says how near it comes. */
export interface CycleTable {
  readonly tick: number
  readonly device: number
  readonly lane: number
  readonly rule: number
  /** A step that begins or goes on. */
  readonly step: number
  /** A motion that is told to its device. */
  readonly motion: number
  /** What is followed over time, and each tick that it looks back. */
  readonly followed: number
  readonly lookedBack: number
  /** Expressions: those that fetch, add or compare, multiply; divide or round; wait; turn (angles); draw; and texts that are put together. */
  readonly plain: number
  readonly product: number
  readonly quotient: number
  readonly timer: number
  readonly angle: number
  readonly draw: number
  readonly text: number
}

export const CYCLES: CycleTable = {
  tick: 700, device: 150, lane: 400, rule: 130, step: 150, motion: 600, followed: 400, lookedBack: 130, plain: 40, product: 160, quotient: 600, timer: 400, angle: 2500, draw: 2500, text: 1500,
}

/** What a kind of expression counts as, and how often; what is not here fetches or compares. */
const COUNTS: Readonly<Record<string, readonly [keyof CycleTable, number]>> = {
  'number': ['plain', 0.3], 'truth': ['plain', 0.2], 'not': ['plain', 0.2], 'and': ['plain', 0.2], 'or': ['plain', 0.2], '+': ['plain', 2], '-': ['plain', 2], 'between': ['plain', 2], 'one of': ['plain', 2],
  'min': ['plain', 2], 'max': ['plain', 2], 'clamp': ['plain', 3], '*': ['product', 1], 'run.time': ['product', 1.5], 'mode.time': ['product', 2], 'since': ['product', 2],
  '/': ['quotient', 1], 'round': ['quotient', 2], 'sqrt': ['quotient', 1], 'one of many': ['quotient', 1], 'every': ['timer', 1], 'for': ['timer', 1],
  'sin': ['angle', 1], 'cos': ['angle', 1], 'asin': ['angle', 1.5], 'acos': ['angle', 1.5], 'atan': ['angle', 1.5], 'atan2': ['angle', 1.5], 'computed': ['angle', 2],
  'random': ['draw', 1], 'text': ['text', 0.1], 'joined': ['text', 0.1], 'shown': ['text', 1],
}

/** Clock cycles of a program's tick. `facts`: of the robot that it is for. */
export function cyclesOf(program: ProgramData, facts: RobotFacts, table: CycleTable = CYCLES): Cycles {
  const values = (data: unknown): number => {
    let sum = 0
    for (const v of valuesIn(data)) {
      const [as, times] = COUNTS[v.is] ?? ['plain', 1]
      sum += table[as] * times
      if (v.is === 'how many') sum += table.plain * v.count
    }
    return sum
  }
  const followed = (e: EveryTick): number => {
    if (e.does === 'let') return values(e.value) + table.plain
    return table.followed + values(e) + ('most' in e ? table.lookedBack * (e.time.is === 'number' ? Math.min(e.most, Math.ceil(e.time.value / facts.tick)) : e.most) : 0)
  }
  const motions = program.motions.map(m => table.motion + values(m.slots))
  const outlines = new Map<number, Outline>()
  const outline = (at: number): Outline => outlines.get(at) ?? (outlines.set(at, outlineOf(program.code, at)), outlines.get(at)!)
  /** Of all parts, each once; loops once around; what is late is not what is in time. */
  const steps = (parts: Outline): number => parts.reduce((sum, p) => {
    switch (p.part) {
      case 'instant': return sum + table.step + values(p.op) + ('motion' in p.op ? motions[p.op.motion]! : 0)
      case 'ways': return sum + values(p.ways.map(w => w.test)) + Math.max(steps(p.otherwise), ...p.ways.map(w => steps(w.body)))
      case 'loop': return sum + table.step + values(p.top) + steps(p.body)
      case 'leave': return sum
      case 'wait': return sum + table.step + values(p.op)
      case 'wait until': return sum + table.step + values(p.op)
      case 'move': return sum + table.step + values([p.begins, p.op]) + motions[p.op.motion]!
      case 'limited': return sum + table.step + values(p.call) + steps(p.body)
    }
  }, 0)
  /** The part that goes on in a tick and takes most. */
  const going = (parts: Outline): number => parts.reduce((most, p) => {
    switch (p.part) {
      case 'ways': return Math.max(most, going(p.otherwise), ...p.ways.map(w => going(w.body)))
      case 'loop': return Math.max(most, going(p.body))
      case 'wait until': return Math.max(most, values(p.op.test), going(p.late))
      case 'move': return Math.max(most, motions[p.op.motion]! + values(p.op.until), going(p.late))
      case 'limited': return Math.max(most, going(p.body), going(p.late))
      case 'instant': return p.op.op === 'hold' ? Math.max(most, motions[p.op.motion]!) : most
      default: return most
    }
  }, 0)
  const asked = (r: RuleData): number => table.rule + values([r.when, r.until])
  // All steps of a live rule are gone through in every tick in which it has control.
  const goesOn = (r: RuleData): number => r.live ? steps(outline(r.body)) : going(outline(r.body))
  const lanes = program.lanes.map((lane, i) => {
    const begins = lane.start === -1 ? 0 : steps(outline(lane.start))
    const modes = lane.modes.map((mode, m) => {
      const rules = rulesIn(program, i, m)
      const conditions = rules.reduce((sum, r) => sum + asked(r), 0)
      const on = Math.max(0, ...rules.map(goesOn))
      return { usual: conditions + on, longest: conditions + Math.max(on, mode.start === -1 ? 0 : steps(outline(mode.start)), ...rules.map(r => steps(outline(r.body)))) }
    })
    return { usual: table.lane + Math.max(0, ...modes.map(m => m.usual)), longest: table.lane + Math.max(begins, ...modes.map(m => m.longest)) }
  })
  const always = table.tick + table.device * facts.devices.length + program.everyTick.reduce((sum, e) => sum + followed(e), 0)
  return { usual: always + lanes.reduce((sum, l) => sum + l.usual, 0), longest: always + lanes.reduce((sum, l) => sum + l.longest, 0) }
}
