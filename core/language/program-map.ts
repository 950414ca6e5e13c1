import { namedCells, type NamedCell, type ProgramData, type Threshold } from '../program'
import { LineIndex } from './diagnostics'

/** What shows of a program beside a tape: its lines, lanes and names, by the numbers that a row has of them. */
export interface ProgramMap {
  readonly text: string
  readonly rules: readonly { readonly line: number, readonly lastLine: number, readonly urgency: number, readonly live: boolean, readonly lane: number, readonly mode: string }[]
  readonly steps: readonly { readonly line: number }[]
  readonly lanes: readonly { readonly name: string, readonly modes: readonly string[] }[]
  readonly thresholds: readonly Threshold[]
  /** What the tape keeps of what the program names, in the order of its columns. */
  readonly named: readonly NamedCell[]
}

/** The map of a program with its text. */
export function mapOf(program: ProgramData, text: string): ProgramMap {
  const lines = new LineIndex(text)
  const rules = program.rules.map(r => ({ line: r.line, lastLine: lines.placeOf(r.range.to).line, urgency: r.urgency, live: r.live, lane: 0, mode: '' }))
  program.lanes.forEach((lane, l) => {
    for (const n of lane.above) rules[n] = { ...rules[n]!, lane: l }
    // A lane without modes has its rules in one that nobody named.
    const unnamed = lane.modes.length === 1 && lane.modes[0]!.name === 'main'
    for (const mode of lane.modes) for (const n of mode.rules) rules[n] = { ...rules[n]!, lane: l, mode: unnamed ? '' : mode.name }
  })
  return {
    text, rules, steps: program.steps.map(s => ({ line: s.line })),
    lanes: program.lanes.map(l => ({ name: l.name, modes: l.modes.map(mode => mode.name) })),
    thresholds: program.thresholds, named: namedCells(program),
  }
}
