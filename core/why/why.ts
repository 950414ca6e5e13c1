import { expr, type Analysis, type Tree } from '../language'
import { rulesIn, type ProgramData, type RuleData } from '../program'
import type { Tape } from '../tape'
import { FARTHEST, hadControl, type Stretch } from './questions'
import { TapeReader } from './reader'

/** One part of a condition as it stood at an instant. */
export interface WhyPart {
  /** As it is written, and where. */
  readonly text: string
  readonly range: Tree.Range
  readonly truth: boolean
  /** What the two sides of a comparison were worth, as people read it; empty for parts without values. */
  readonly values: readonly { readonly text: string, readonly value: string }[]
  /** By how much the left side must change for this part to turn over, SI; null where that is no number. */
  readonly missing: { readonly by: number, readonly value: string } | null
  readonly parts: readonly WhyPart[]
}

/** A rule at an instant. */
export interface WhyRule {
  readonly number: number
  readonly line: number
  readonly urgency: number
  readonly wants: boolean
  /** The tick since which it has wanted (or not wanted) without a break, as far as its mode goes back. */
  readonly since: number
  /** null for otherwise. */
  readonly when: WhyPart | null
  readonly until: WhyPart | null
  /** `for`: seconds it must hold, and has held. */
  readonly held: { readonly needs: number, readonly has: number } | null
  /** It is true, but it acts once and has. */
  readonly done: boolean
  /** When it had control last, before it lost it; null where it never had. */
  readonly had: Stretch | null
}

/** Why a lane did what it did in a tick. */
export interface Why {
  readonly tick: number
  readonly lane: string
  /** `''` in a lane without modes. */
  readonly mode: string
  readonly phase: 'start' | 'mode start' | 'rules' | 'ended' | 'failed'
  /** The rule in control, since when, and the line of the step it is at; null when none is. */
  readonly control: (WhyRule & { readonly took: number, readonly step: number | null }) | null
  /** The rules above it, the most urgent first. Where none has control, all of the mode. */
  readonly above: readonly WhyRule[]
}

const PHASES = ['start', 'mode start', 'rules', 'ended', 'failed'] as const

/**
 * Answers, for a tick and a lane, which rule was in control, what every part of the conditions above it was
 * worth, since when, and what would have had to change. Data, no prose. null when the tape has no such tick or lane.
 */
export function why(analysis: Analysis, program: ProgramData, tape: Tape, tick: number, lane: number): Why | null {
  const compiled = program.lanes[lane]
  const shape = analysis.lanes[lane]
  if (compiled === undefined || shape === undefined || !(tick >= tape.first && tick < tape.rows)) return null
  const { layout } = tape
  const row = tape.at(tick)
  const at = layout.lanes + 4 * lane
  const mode = row[at + 1]!
  const inMode = compiled.modes[mode]
  const rules = inMode === undefined ? [] : rulesIn(program, lane, mode)
  const nodes = inMode === undefined ? [] : [...shape.above, ...shape.modes[mode]!.rules]
  const reader = new Reader(analysis, program, tape, lane)
  const own = shape.modes[mode]?.node?.name.text ?? `lane ${compiled.name}`
  const entered = row[layout.entered + lane]!
  // Rules above all modes run on across them; what a rule of a mode wanted before is of another time.
  const describe = (rule: RuleData): WhyRule => {
    const at = rules.indexOf(rule)
    const above = at < compiled.above.length
    return reader.rule(rule, nodes[at]!, tick, above, entered, above ? '' : own)
  }
  const inControl = row[at + 2]!
  const place = rules.findIndex(r => r.number === inControl)
  const step = row[at + 3]!
  return {
    tick, lane: compiled.name,
    mode: shape.modes[mode]?.node?.name.text ?? '',
    phase: PHASES[row[at]!] ?? 'rules',
    control: place === -1 ? null : { ...describe(rules[place]!), took: reader.since(tick, r => r[at + 2] === inControl && r[at + 1] === mode), step: step >= 0 ? program.steps[step]!.line : null },
    above: rules.slice(0, place === -1 ? rules.length : place).map(describe),
  }
}

/** Tells rules and the parts of their conditions as they stood. */
class Reader {
  private readonly rows: TapeReader

  constructor(analysis: Analysis, program: ProgramData, private readonly tape: Tape, private readonly lane: number) {
    this.rows = new TapeReader(analysis, program, tape, lane)
  }

  /** The first tick of the stretch without a break up to `tick` in which something holds. */
  since(tick: number, holds: (row: Float64Array) => boolean): number {
    let first = tick
    while (first > this.tape.first && tick - first < FARTHEST && holds(this.tape.at(first - 1))) first--
    return first
  }

  /** `above`: a rule above all modes, which runs on across them; else it knows no earlier time than its mode, entered then. */
  rule(rule: RuleData, node: Tree.Rule, tick: number, above: boolean, entered: number, owner: string): WhyRule {
    const { layout } = this.tape
    this.rows.owner = owner
    const wants = this.tape.at(tick)[layout.wants + rule.number] === 1
    const when = node.when === null ? null : this.part(node.when.expression, tick, above)
    const until = node.until === null ? null : this.part(node.until.expression, tick, above)
    return {
      number: rule.number, line: rule.line, urgency: rule.urgency, wants,
      since: Math.max(above ? 0 : entered, this.since(tick, row => (row[layout.wants + rule.number] === 1) === wants)),
      when, until,
      held: node.when?.held == null ? null : this.held(node.when, tick, above),
      done: !wants && rule.once && when?.truth === true && until?.truth !== true,
      had: hadControl(this.tape, this.lane, rule.number, tick),
    }
  }

  private held(condition: Tree.Condition, tick: number, above: boolean): { needs: number, has: number } {
    this.rows.go(tick)
    const needs = this.rows.number(condition.held!)
    const truth = this.rows.truth(condition.expression, above)
    const entered = Math.max(this.tape.first, this.rows.entered)
    let first = tick + 1
    while (first > entered && tick - first < FARTHEST) {
      this.rows.go(first - 1)
      if (!truth()) break
      first--
    }
    return { needs, has: Math.max(0, tick - first + 1) * this.tape.layout.dt }
  }

  /** A part of a condition, and the parts within it. */
  private part(e: Tree.Expression, tick: number, above: boolean): WhyPart {
    this.rows.go(tick)
    const truth = this.rows.truth(e, above)()
    const { range } = e
    const text = expr(e)
    switch (e.tag) {
      case 'logic': return { text, range, truth, values: [], missing: null, parts: e.operands.map(o => this.part(o, tick, above)) }
      case 'not': return { text, range, truth, values: [], missing: null, parts: [this.part(e.of, tick, above)] }
      case 'bracket': return this.part(e.inner, tick, above)
      case 'compare': {
        const left = this.rows.value(e.left)
        const right = this.rows.value(e.right)
        const by = right.number - left.number
        return { text, range, truth, values: [left, right].filter(v => v.text !== v.value), missing: Number.isFinite(by) ? { by, value: this.rows.written(e.left, by) } : null, parts: [] }
      }
      case 'between':
      case 'is': return { text, range, truth, values: [this.rows.value(e.value)], missing: null, parts: [] }
      default: return { text, range, truth, values: [], missing: null, parts: [] }
    }
  }
}
