import { rulesIn, type EveryTick, type ProgramData, type RuleData, type Value } from '../../program'
import { valuesIn } from '../names'
import { outlineOf, type Outline } from '../outline'

/**
 * What a program's own reckoning takes of a chip with 8 bits, in clock cycles a tick, worked out from its data without running it. All conditions
 * of a mode are worked out in each of its ticks, so that little depends on what is read.
 */
export interface Cycles {
  /** In the mode that takes most, while the step of it that takes most goes on. */
  readonly usual: number
  /** When the steps that take most begin as well, all in one tick. */
  readonly longest: number
}

/**
 * Cycles of everything once, as programs of eight of a kind took them on a simulated ATmega328P. `./mindpath prove hardware` holds their sums against
 * the demo programs (docs/hardware.md has how near they come).
 */
const TICK = 250
const LANE = 740
const RULE = 180
const STEP = 450
/** A motion that is told to its device, and one that goes up to an end; what is told to a display. */
const MOTION = 1000
const MOTION_TO_AN_END = 2000
const SCREEN = 2000
/** What is followed over time, and each tick that is looked back at for a mean, or for the least or most. */
const FOLLOWED = 830
const SUMMED = 190
const LOOKED_AT = 110
const LETTER = 45

/** Cycles by what a value is; what is not here fetches a number, or puts truths together. */
const VALUES: Readonly<Partial<Record<Value['is'], number>>> = {
  '+': 110, '-': 110, '*': 126, '/': 440, 'min': 120, 'max': 120, 'clamp': 120, 'sign': 120, 'abs': 10, 'sqrt': 540, 'round': 900, '<': 75, '>': 75, '<=': 75, '>=': 75, 'between': 130, 'one of': 150, 'nonzero': 50,
  'asked': 200, 'one of many': 600, 'since': 180, 'run.time': 180, 'mode.time': 240, 'sin': 1760, 'cos': 1850, 'asin': 1300, 'acos': 1400, 'atan': 3000, 'atan2': 3000, 'computed': 3500, 'random': 2500,
  'every': 1100, 'for': 750, 'shown': 4200, 'text': 150,
}
const OTHER_VALUE = 8

const SCREENS: ReadonlySet<string> = new Set(['show', 'showPicture', 'clear', 'clearLine', 'look'])

function values(data: unknown): number {
  let sum = 0
  for (const v of valuesIn(data)) sum += (VALUES[v.is] ?? OTHER_VALUE) + (v.is === 'text' ? LETTER * v.text.length : v.is === 'how many' ? 50 * v.count : 0)
  return sum
}

/** Clock cycles of a program's tick. `tick`: how long that is, s. */
export function cyclesOf(program: ProgramData, tick: number): Cycles {
  const reckoning = new Reckoning(program)
  const always = TICK + program.everyTick.reduce((sum, e) => sum + everyTick(e, tick), 0)
  const lanes = program.lanes.map((lane, i) => {
    const modes = lane.modes.map((mode, m) => {
      const rules = rulesIn(program, i, m)
      const asked = rules.reduce((sum, r) => sum + RULE + values([r.when, r.until]), 0)
      const goesOn = Math.max(0, ...rules.map(r => reckoning.goesOn(r)))
      return { usual: asked + goesOn, longest: asked + Math.max(goesOn, reckoning.steps(mode.start), ...rules.map(r => reckoning.steps(r.body))) }
    })
    return { usual: Math.max(0, ...modes.map(m => m.usual)), longest: Math.max(reckoning.steps(lane.start), ...modes.map(m => m.longest)) }
  })
  const sum = (which: keyof Cycles): number => lanes.reduce((all, lane) => all + LANE + lane[which], always)
  return { usual: sum('usual'), longest: sum('longest') }
}

function everyTick(e: EveryTick, tick: number): number {
  if (e.does === 'let') return values(e.value)
  if (!('most' in e)) return values(e) + FOLLOWED / 2
  const back = e.time.is === 'number' ? Math.min(e.most, Math.ceil(e.time.value / tick)) : e.most
  return values([e.of, e.time]) + FOLLOWED + back * (e.does === 'mean' ? SUMMED : LOOKED_AT)
}

/** What stretches of a program's code take. */
class Reckoning {
  private readonly outlines = new Map<number, Outline>()

  constructor(private readonly program: ProgramData) {}

  /** In the tick that takes most as the steps go on that begin there, loops once around; 0 for -1. */
  steps(at: number): number { return at === -1 ? 0 : this.through(this.outline(at), { now: 0, most: 0 }, true).most }

  /** In a tick in which a rule goes on: all of its steps where none takes time, else the one that takes most. */
  goesOn(rule: RuleData): number { return rule.live ? this.through(this.outline(rule.body), { now: 0, most: 0 }, false).most : this.most(this.outline(rule.body)) }

  private outline(at: number): Outline {
    const made = this.outlines.get(at) ?? outlineOf(this.program.code, at)
    this.outlines.set(at, made)
    return made
  }

  private motion(number: number, toAnEnd: boolean): number {
    const { form, slots } = this.program.motions[number]!
    // Texts are made of what is shown alone.
    return SCREENS.has(form) ? SCREEN + values(slots) : (toAnEnd ? MOTION_TO_AN_END : MOTION) + values(slots.map(slot => slot.value))
  }

  /** `now`: cycles since the tick began; `most`: of any tick so far. `anew`: whether steps are reached that were not the tick before; else those that act once only do nothing. */
  private through(parts: Outline, from: Took, anew: boolean): Took {
    return parts.reduce((took, p) => {
      const and = (more: number): Took => ({ now: took.now + more, most: Math.max(took.most, took.now + more) })
      const waits = (more: number): Took => ({ now: 0, most: and(more).most })
      switch (p.part) {
        case 'instant': {
          if (!anew && 'edge' in p.op && p.op.edge !== null && p.op.op !== 'hold') return and(STEP)
          return and(STEP + values(p.op) + ('motion' in p.op ? this.motion(p.op.motion, false) : 0))
        }
        case 'ways': {
          const asked = and(values(p.ways.map(w => w.test)))
          return greatest([p.otherwise, ...p.ways.map(w => w.body)].map(body => this.through(body, asked, anew)))
        }
        case 'loop': return this.through(p.body, and(STEP + values(p.top)), anew)
        case 'leave': return took
        case 'wait': return waits(STEP + values(p.op))
        case 'wait until': return waits(STEP + values([p.begins, p.op]))
        case 'move': return waits(STEP + values([p.begins, p.op]) + this.motion(p.op.motion, p.op.timed))
        case 'limited': return this.through(p.body, and(STEP + values(p.call)), anew)
      }
    }, from)
  }

  private most(parts: Outline): number {
    return Math.max(0, ...parts.map((p) => {
      switch (p.part) {
        case 'ways': return Math.max(this.most(p.otherwise), ...p.ways.map(w => this.most(w.body)))
        case 'loop': return this.most(p.body)
        case 'wait until': return Math.max(values(p.op.test), this.most(p.late))
        case 'move': return Math.max(this.motion(p.op.motion, p.op.timed) + values(p.op.until), this.most(p.late))
        case 'limited': return Math.max(this.most(p.body), this.most(p.late))
        case 'instant': return p.op.op === 'hold' ? this.motion(p.op.motion, false) : 0
        default: return 0
      }
    }))
  }
}

interface Took { readonly now: number, readonly most: number }
const greatest = (all: readonly Took[]): Took => ({ now: Math.max(...all.map(t => t.now)), most: Math.max(...all.map(t => t.most)) })
