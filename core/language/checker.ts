import { STEP_FORMS } from '../devices'
import type { RobotFacts } from '../robot'
import { analyse, type Analysis, type Asked } from './analysis'
import { CHECKS } from './checks'
import { Findings, sortedDiagnostics, type Diagnostic } from './diagnostics'
import { parseProgram, type Parsed } from './parser'

export interface Checked {
  /** What the program means; usable for running when `runs`. */
  readonly analysis: Analysis
  readonly parsed: Parsed
  readonly diagnostics: readonly Diagnostic[]
  /** No errors: the program can be compiled. */
  readonly runs: boolean
}

/** What is read more than once, as a routine is for each device that it is given, is told once. */
function once(list: readonly Diagnostic[]): readonly Diagnostic[] {
  const told = new Set<string>()
  return list.filter((d) => {
    const key = `${d.code} ${d.range.from} ${d.range.to} ${d.message}`
    return !told.has(key) && told.add(key)
  })
}

/** Reads a program, for a task that may ask something of it, and says everything there is to say about it on this robot. It is read the quicker, the more of it is as it was `before`. */
export function checkProgram(text: string, facts: RobotFacts, asked: Asked = { finish: false }, before: Parsed | null = null): Checked {
  const parsed = parseProgram(text, STEP_FORMS, before)
  const findings = new Findings()
  const analysis = analyse(text, parsed.tree, facts, findings, asked)
  for (const check of CHECKS) check(analysis, findings)
  const diagnostics = sortedDiagnostics(once([...parsed.diagnostics, ...findings.list]))
  return { analysis, parsed, diagnostics, runs: !diagnostics.some(d => d.severity === 'error') }
}
