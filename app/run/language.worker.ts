import { Spaced, checkProgram, dialsOf, type Parsed } from '~~/core/language'
import { factsOf, readRobot, type RobotFacts } from '~~/core/robot'
import { findUnit } from '~~/core/units'
import type { CheckAnswer, CheckRequest, DialView } from './protocol'

/** Checks programs beside the page, so that typing never waits. */
let known: { robot: string, facts: RobotFacts } | null = null
/** The program that was checked last: the next is mostly the same. */
let before: Parsed | null = null

const post = (answer: CheckAnswer): void => (self as unknown as { postMessage(m: CheckAnswer): void }).postMessage(answer)

self.onmessage = (event: MessageEvent<CheckRequest>) => {
  try {
    post(answer(event.data))
  } catch (error) {
    post({ id: event.data.id, diagnostics: [], runs: false, dials: [], failure: `Checking the program failed: ${error instanceof Error ? error.message : String(error)}` })
  }
}

function answer(request: CheckRequest): CheckAnswer {
  const { id, text, robot, asked } = request
  const key = JSON.stringify(robot)
  if (known?.robot !== key) {
    const read = readRobot(robot)
    known = read.ok ? { robot: key, facts: factsOf(read.value) } : null
  }
  if (known === null) return { id, diagnostics: [], runs: false, dials: [], failure: null }
  const spaced = new Spaced(text)
  const { diagnostics, runs, analysis, parsed } = checkProgram(spaced.text, known.facts, asked, before)
  before = parsed
  const dials: DialView[] = runs ? dialsOf(analysis).map(d => ({
    name: d.name, value: d.value, from: d.from, to: d.to, unit: d.unit,
    scale: d.unit === null ? 1 : findUnit(d.unit)?.scale ?? 1, at: spaced.range(d.range),
  })) : []
  return { id, diagnostics: diagnostics.map(d => spaced.diagnostic(d)), runs, dials, failure: null }
}
