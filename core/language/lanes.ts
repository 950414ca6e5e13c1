import type { Findings } from './diagnostics'
import type { Lane, Mode, Name, Program, Range, Rule, Start } from './tree'
import { say } from './wording'

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

/** A program's lanes as they are written, and what is switched off in them. */
export interface Lanes {
  readonly all: readonly LaneShape[]
  readonly offModes: ReadonlySet<string>
  /** Rules that are switched off, by their lane: they are checked, and do nothing. */
  readonly parked: readonly { readonly lane: string, readonly rule: Rule }[]
}

/** What lanes say of names and places while they are read. */
interface Report {
  readonly findings: Findings
  /** Takes a name; says so where it is taken or is none. */
  name(name: Name, what: string): boolean
  line(range: Range): number
}

/** Sorts a program's items into lanes, and says what stands where it may not. */
export function lanesOf(tree: Program, report: Report): Lanes {
  const offModes = new Set<string>()
  const parked: { lane: string, rule: Rule }[] = []
  const laneOf = (name: string, items: readonly (Start | Rule | Mode)[], range: Range, off: boolean): LaneShape => {
    const park = (all: readonly { readonly tag: string }[]): void => { for (const i of all) if (isRule(i) && i.off) parked.push({ lane: name, rule: i }) }
    park(items)
    const modes = items.filter((i): i is Mode => i.tag === 'mode')
    const rules = items.filter((i): i is Rule => isRule(i) && !i.off)
    const start = oneStart(items, report)
    const shapes = modes.map((mode): ModeShape => {
      report.name(mode.name, 'mode')
      if (mode.off && !off) offModes.add(mode.name.text)
      park(mode.items)
      const own = mode.items.filter((i): i is Rule => isRule(i) && !i.off)
      otherwiseLast(own, report)
      return { name: mode.name.text, node: mode, start: oneStart(mode.items, report), rules: own }
    })
    otherwiseLast(rules, report)
    if (modes.length === 0) return { name, off, range, start, above: [], modes: [{ name: 'main', node: null, start: null, rules }] }
    return { name, off, range, start, above: rules, modes: shapes }
  }
  const own = tree.items.filter(i => i.tag === 'start' || i.tag === 'rule' || i.tag === 'mode')
  const all: LaneShape[] = own.length > 0 ? [laneOf('main', own, own[0]!.range, false)] : []
  for (const lane of tree.items.filter((i): i is Lane => i.tag === 'lane')) {
    all.push(laneOf(lane.name.text, lane.items.filter(i => i.tag !== 'unread'), lane.range, lane.off))
  }
  if (all.length === 0) report.findings.hint(say.nothing(), { from: 0, to: 0 })
  return { all, offModes, parked }
}

const isRule = (item: { readonly tag: string }): item is Rule => item.tag === 'rule'

function oneStart(items: readonly { readonly tag: string, readonly range: Range }[], { findings, line }: Report): Start | null {
  const starts = items.filter(i => i.tag === 'start') as Start[]
  for (const extra of starts.slice(1)) findings.error(say.twice('start', 'start', line(starts[0]!.range)), { from: extra.range.from, to: extra.range.from + 5 })
  return starts[0] ?? null
}

function otherwiseLast(rules: readonly Rule[], { findings }: Report): void {
  rules.forEach((rule, i) => {
    if (rule.when !== null || i === rules.length - 1) return
    const place = { from: rule.range.from, to: rule.range.from + 'otherwise'.length }
    const later = rules.slice(i + 1).some(r => r.when === null)
    findings.error(later ? say.twoOtherwise() : say.otherwiseNotLast(), place)
  })
}

/** A lane as it runs; one whose modes are all off has its rules alone. */
export function withoutOffModes(lane: LaneShape): LaneShape {
  const modes = lane.modes.filter(m => m.node?.off !== true)
  return modes.length > 0 ? { ...lane, modes } : { ...lane, above: [], modes: [{ name: 'main', node: null, start: null, rules: lane.above }] }
}
