import { readArena } from '~~/core/arena'
import { checkProgram, dialsOf } from '~~/core/language'
import { factsOf, readRobot } from '~~/core/robot'
import { answersOf, arenaWith, differenceOf, findingSaid, jobOf, ofTheRobot, plateauOf, readBasis, resultSaid, searchSoFar, sensitivityOf, sensitivitySaid, settingAt, settingSaid, spokenOf, trialsCsv, verdictOf, worldSaid, worstSaid, type CheckedPlan, type Outcome, type Ran, type Result, type Trial, type TrialBasis } from '~~/core/trials'
import { movableIn } from '~~/core/simulation'
import { DEFAULT_LIMIT } from '~~/core/task'
import { findUnit, formatQuantity, kindOf, readQuantity } from '~~/core/units'
import { api, type Answer } from '~/utils/api'
import type { DialChoice, FromAnswers, Movable, SearchSaid, Summary, ToAnswers, TrialRow } from './answers'

/** Fetches what came of a plan's runs and sums it up, beside the page. */

interface Open {
  readonly plan: string
  readonly basis: TrialBasis
  readonly programs: Summary['programs']
  readonly goals: readonly string[]
  /** Of a search: the plan as it was checked when it came. */
  checked: CheckedPlan | null
  mark: number
  /** By the number of the run. */
  readonly answers: Map<number, Trial | string>
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
  if (m.type === 'program') return post({ type: 'dials', ask: m.ask, text: m.text, dials: dialsOfText(m.text, m.robot), movable: movableOf(m.arena), limit: limitOf(m.task) })
  // Somebody looks at another plan already.
  if (m.ask !== ask) return
  if (m.type === 'csv') {
    if (open !== null) post({ type: 'csv', ask: m.ask, pieces: [...trialsCsv(open.basis.plan, await ranOf(open), open.goals)] })
    return
  }
  if (m.type === 'open') open = { plan: m.plan, ...had(await api.plan(m.plan)), checked: null, mark: 0, answers: new Map() }
  if (open === null) return
  for (;;) {
    const { mark, answers } = had(await api.trials(open.plan, open.mark))
    open.mark = mark
    for (const { number, answer } of answers) open.answers.set(number, answer)
    if (answers.length === 0 || m.ask !== ask) break
  }
  if (m.ask === ask) post({ type: 'answers', ask: m.ask, summary: open.basis.plan.search === null ? await summed(open) : await searched(open) })
}

/** What was asked for; throws why it cannot be had. */
function had<T>(answer: Answer<T>): T {
  if (!answer.ok) throw new Error(answer.message)
  return answer.value
}

/** A plan as it was checked when it came. */
function checkedOf(open: Open): CheckedPlan {
  if (open.checked !== null) return open.checked
  const { basis } = open
  const read = readBasis(basis.documents, basis.programs, basis.plan)
  if (!read.ok) throw new Error(`${read.problems[0]!.path}: ${read.problems[0]!.message}`)
  return open.checked = read.value
}
/** What came of the runs, in their order. */
const ranOf = async (open: Open): Promise<readonly Ran[]> =>
  open.basis.plan.search === null ? [...open.answers].sort(([a], [b]) => a - b).map(([number, answer]) => ({ number, basis: open.basis, job: number, answer })) : (await searchSoFar(checkedOf(open), open.answers)).ran

/** A run as the table shows it, by what it was made of. */
function rowOf({ number, basis, job, answer }: Ran): TrialRow {
  const made = jobOf(basis.plan, basis.programs.length, job)
  const { name, values } = basis.programs[made.program]!
  const drawn = differenceOf(basis, made)
  const row = { number, program: name, realism: made.realism, seed: made.seed, dials: settingSaid(settingAt(values, made.setting)), world: Object.keys(basis.plan.world).length + Object.keys(drawn).length === 0 ? '' : worldSaid(drawn) }
  if (typeof answer === 'string') return { ...row, met: false, ended: `could not be run: ${answer}`, time: 0, took: null, path: 0, contacts: 0, lost: null }
  const { ended, reason, met, time, took, path, contacts, lost } = answer
  return { ...row, met, ended: ended === 'time' ? 'time was up' : ended === 'finished' ? `finished${reason === '' ? '' : `: ${reason}`}` : ended, time, took, path, contacts, lost: lost?.time ?? null }
}

/** What a search has come to so far. */
async function searched(open: Open): Promise<Summary> {
  const { basis, programs, goals } = open
  const checked = checkedOf(open)
  const { ran, told, outcome } = await searchSoFar(checked, open.answers)
  return {
    plan: basis.plan, programs, goals, answers: { results: [], comparisons: [], known: [], refused: [] }, spoken: { results: [], comparisons: [], plateaus: [], known: [], refused: [] }, sensitivitySaid: [], cells: [],
    rows: ran.slice(0, MOST_ROWS).map(rowOf), runs: ran.length, search: { told, ...foundOf(outcome, ran, checked) },
  }
}

/** The outcome of a search in words, with what can be done with it. */
function foundOf(outcome: Outcome | null, ran: readonly Ran[], { basis, parts }: CheckedPlan): Omit<SearchSaid, 'told'> {
  if (outcome === null) return { said: [], values: null, better: false, judged: [], fails: null }
  if (outcome.for === 'values') {
    const { values, found, given } = outcome.finding
    const [first, , , last] = findingSaid(outcome.finding)
    const named = (name: string, result: Result) => ({ name, said: resultSaid(result), share: result.share })
    return { said: [first!, last!], values: values.map(v => ({ name: v.name, text: v.text })), better: verdictOf(outcome.finding) === 'better', judged: [named('found', found), named('as the text has it', given)], fails: null }
  }
  const { worst } = outcome
  const said = worstSaid(worst, parts.task?.goals ?? [])
  if (worst.fails === null) return { said, values: null, better: false, judged: [], fails: null }
  const { world, trial } = worst.fails
  return {
    said, values: null, better: false, judged: [],
    fails: { number: ran.find(r => r.answer === trial)!.number, at: trial.lost?.time ?? trial.time, world, arena: arenaWith(basis.documents.arena, parts.arena, world, basis.plan.seeds[0]), besides: Object.keys(ofTheRobot(world)).length === 0 ? '' : worldSaid(ofTheRobot(world)) },
  }
}

async function summed(open: Open): Promise<Summary> {
  const { basis, programs, goals } = open
  const ran = await ranOf(open)
  const all = ran.flatMap(({ answer }) => typeof answer === 'string' ? [] : [answer])
  const answers = answersOf(basis, all, ran.flatMap(({ answer }) => typeof answer === 'string' ? [answer] : []))
  const took = new Map<string, number[]>()
  for (const trial of all) {
    const { program, realism, setting, known } = jobOf(basis.plan, basis.programs.length, trial.number)
    if (known !== null) continue
    const key = `${program} ${realism} ${setting}`
    if (trial.took !== null) (took.get(key) ?? took.set(key, []).get(key)!).push(trial.took)
  }
  const best = new Set(basis.plan.realisms.flatMap(realism => basis.programs.flatMap((_, program) => plateauOf(answers.results.filter(r => r.realism === realism && r.program === program && r.runs > 0)))))
  return {
    plan: basis.plan, programs, goals, answers, spoken: spokenOf(basis, answers, goals), sensitivitySaid: sensitivitySaid(sensitivityOf(basis, all)), search: null,
    rows: ran.slice(0, MOST_ROWS).map(rowOf), runs: ran.length,
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

/** What may stand elsewhere; nothing of an arena that cannot be read. */
function movableOf(arena: unknown): readonly Movable[] {
  const read = readArena(arena)
  return read.ok ? [...movableIn(read.value)].map(([name, { turns }]) => ({ name, turns })) : []
}

/** Seconds after which a task ends a run. */
function limitOf(task: unknown): number {
  const read = readQuantity(String((task as { limit?: unknown } | null)?.limit ?? ''), kindOf('time'))
  return read.ok ? read.value : DEFAULT_LIMIT
}
