import { checkProgram, dialsOf } from '~~/core/language'
import { factsOf, readRobot } from '~~/core/robot'
import { answersOf, jobOf, plateauOf, sensitivityOf, sensitivitySaid, settingAt, settingSaid, spokenOf, trialsCsv, type Trial, type TrialBasis } from '~~/core/trials'
import { DEFAULT_LIMIT } from '~~/core/task'
import { findUnit, formatQuantity, kindOf, readQuantity } from '~~/core/units'
import { api, type Answer } from '~/utils/api'
import type { DialChoice, FromAnswers, Summary, ToAnswers, TrialRow } from './answers'

/** Fetches what came of a plan's runs and sums it up, beside the page. */

interface Open {
  readonly plan: string
  readonly basis: TrialBasis
  readonly programs: Summary['programs']
  readonly goals: readonly string[]
  mark: number
  readonly trials: Trial[]
  readonly refused: { readonly number: number, readonly why: string }[]
}
/** Rows for the table, and dots of a result for a chart: more would make the page wait. All are in the csv. */
const MOST_ROWS = 5000
const MOST_DOTS = 400

let open: Open | null = null
let ask = 0
/** One at a time: what is asked while more is fetched is done after that. */
let last: Promise<void> = Promise.resolve()
const post = (message: FromAnswers): void => { (self as unknown as { postMessage(m: FromAnswers): void }).postMessage(message) }

self.onmessage = ({ data: m }: MessageEvent<ToAnswers>) => {
  if (m.type !== 'program') ask = m.ask
  last = last.then(() => hear(m)).catch((error: unknown) => {
    post({ type: 'failed', ask: m.ask, message: error instanceof Error ? error.message : String(error) })
  })
}

async function hear(m: ToAnswers): Promise<void> {
  if (m.type === 'program') return post({ type: 'dials', ask: m.ask, text: m.text, dials: dialsOfText(m.text, m.robot), limit: limitOf(m.task) })
  // Somebody looks at another plan already.
  if (m.ask !== ask) return
  if (m.type === 'csv') {
    if (open !== null) post({ type: 'csv', ask: m.ask, pieces: [...trialsCsv(open.basis, inOrder(open.trials), open.goals)] })
    return
  }
  if (m.type === 'open') open = { plan: m.plan, ...had(await api.plan(m.plan)), mark: 0, trials: [], refused: [] }
  if (open === null) return
  for (;;) {
    const { mark, answers } = had(await api.trials(open.plan, open.mark))
    open.mark = mark
    for (const { number, answer } of answers) {
      if (typeof answer === 'string') open.refused.push({ number, why: answer })
      else open.trials.push(answer)
    }
    if (answers.length === 0 || m.ask !== ask) break
  }
  if (m.ask === ask) post({ type: 'answers', ask: m.ask, summary: summed(open) })
}

/** What was asked for; throws why it cannot be had. */
function had<T>(answer: Answer<T>): T {
  if (!answer.ok) throw new Error(answer.message)
  return answer.value
}

const inOrder = (trials: readonly Trial[]): readonly Trial[] => trials.toSorted((a, b) => a.number - b.number)

function summed({ basis, programs, goals, trials, refused }: Open): Summary {
  const all = inOrder(trials)
  const answers = answersOf(basis, all, refused.map(r => r.why))
  const took = new Map<string, number[]>()
  for (const trial of all) {
    const { program, realism, setting } = jobOf(basis.plan, basis.programs.length, trial.number)
    const key = `${program} ${realism} ${setting}`
    if (trial.took !== null) (took.get(key) ?? took.set(key, []).get(key)!).push(trial.took)
  }
  const best = new Set(basis.plan.realisms.flatMap(realism => basis.programs.flatMap((_, program) => plateauOf(answers.results.filter(r => r.realism === realism && r.program === program && r.runs > 0)))))
  const made = (number: number): Pick<TrialRow, 'number' | 'program' | 'realism' | 'seed' | 'dials'> => {
    const { program, realism, seed, setting } = jobOf(basis.plan, basis.programs.length, number)
    const { name, values } = basis.programs[program]!
    return { number, program: name, realism, seed, dials: settingSaid(settingAt(values, setting)) }
  }
  const rows = all.slice(0, MOST_ROWS).map((trial): TrialRow => {
    const { ended, reason, met, time, path, contacts, lost } = trial
    return { ...made(trial.number), met, ended: ended === 'time' ? 'time was up' : ended === 'finished' ? `finished${reason === '' ? '' : `: ${reason}`}` : ended, time, took: trial.took, path, contacts, lost: lost?.time ?? null }
  })
  for (const { number, why } of refused.slice(0, MOST_ROWS)) rows.push({ ...made(number), met: false, ended: `could not be run: ${why}`, time: 0, took: null, path: 0, contacts: 0, lost: null })
  return {
    plan: basis.plan, programs, goals, answers, spoken: spokenOf(basis, answers, goals), sensitivitySaid: sensitivitySaid(sensitivityOf(basis, all)), rows, runs: all.length + refused.length,
    cells: answers.results.map((result) => {
      const { program, realism, setting } = result
      return {
        dials: settingAt(basis.programs[program]!.values, setting).map(d => d.text), best: best.has(result),
        took: evenly((took.get(`${program} ${realism} ${setting}`) ?? []).sort((a, b) => a - b)),
      }
    }),
  }
}

/** As many of the values as can be told apart on a chart, of every part alike: the least and the most among them. */
const evenly = (values: readonly number[]): readonly number[] =>
  values.length <= MOST_DOTS ? values : Array.from({ length: MOST_DOTS }, (_, i) => values[Math.round(i * (values.length - 1) / (MOST_DOTS - 1))]!)

/** The dials of a program; none where it cannot run yet. */
function dialsOfText(text: string, robot: unknown): readonly DialChoice[] {
  const read = readRobot(robot)
  if (!read.ok) return []
  const { runs, analysis } = checkProgram(text, factsOf(read.value))
  if (!runs) return []
  return dialsOf(analysis).map(({ name, unit, value, from, to, range }) => {
    const shown = unit === null ? undefined : findUnit(unit)
    const said = (x: number): string => shown === undefined ? String(Number(x.toPrecision(6))) : formatQuantity(x, shown)
    return { name, own: said(value), from: said(from), to: said(to), at: range }
  })
}

/** Seconds after which a task ends a run. */
function limitOf(task: unknown): number {
  const read = readQuantity(String((task as { limit?: unknown } | null)?.limit ?? ''), kindOf('time'))
  return read.ok ? read.value : DEFAULT_LIMIT
}
