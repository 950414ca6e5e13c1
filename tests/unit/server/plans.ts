import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { jobOf, readBasis, readPlan, runTrial, runsOf, type TrialPlan } from '../../../core/trials'
import { runJobs, shareOf, type Runner, type Shared } from '../../../jobs/runner'
import { openDatabase } from '../../../server/database/open'
import { ProjectRepository } from '../../../server/database/projects'
import { TrialRepository } from '../../../server/database/trials'
import { demoInputs } from '../kit'

const { program: OWN, robot, arena, task } = demoInputs('kiss-the-fender', { realism: 'typical', seed: 1 })
export const DOCUMENTS = { robot, arena, task }
export const PROGRAMS = [{ name: 'own', text: OWN, revision: 3 }, { name: 'slow', text: `${OWN}# another\n`, revision: null }]

/** A plan of 20 short runs, as it is written. */
export const written = (more: object = {}) => ({ mindpath: 'trials', version: 1, seeds: [1, 10], limit: 1, world: { grip: [0.5, 1], turn: ['-3 deg', '3 deg'] }, ...more })
export function plan(more: object = {}): TrialPlan {
  const read = readPlan(written(more))
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.value
}
export function checked(of: TrialPlan, programs = PROGRAMS) {
  const read = readBasis(DOCUMENTS, programs, of)
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.value
}

/** Does jobs in this thread, two at a time; `before` each may throw, as a thread that ends would. */
export class Here implements Runner {
  readonly lanes = 2
  readonly trouble = null
  onTrouble = (): void => undefined
  count = 0
  constructor(private readonly before: (count: number) => void = () => undefined) {}
  async run({ basis }: Shared, number: number, signal: AbortSignal) {
    await new Promise(r => setTimeout(r, 0))
    signal.throwIfAborted()
    this.before(this.count++)
    const read = readBasis(basis.documents, basis.programs, basis.plan)
    return runTrial(basis, jobOf(basis.plan, basis.programs.length, number), read.ok ? read.value.parts.arena : (() => { throw new Error('unread') })())
  }
  close() { return Promise.resolve() }
}

/** A new database with a project. */
export async function fresh() {
  let clock = 0
  const now = () => new Date(Date.UTC(2026, 0, 1) + 1000 * clock++)
  const { db } = await openDatabase(mkdtempSync(join(tmpdir(), 'mindpath-')), now)
  const project = await new ProjectRepository(db, now).create('A', DOCUMENTS, OWN)
  const trials = new TrialRepository(db, now)
  const add = async (of = written(), programs = PROGRAMS) => (await trials.add(project, of, programs, DOCUMENTS, runsOf(checked(plan(of), programs).basis.plan, programs.length)))!
  return { db, project, trials, add }
}
export type At = Awaited<ReturnType<typeof fresh>>
/** What came of a plan's runs, by their numbers. */
export const answersIn = async ({ trials }: At, id: string) => (await trials.answers(id, 0)).answers.toSorted((a, b) => a.number - b.number)
export const stateOf = async ({ trials, project }: At, id: string) => (await trials.list(project)).find(p => p.id === id)!

/** What an undisturbed plan comes to, row by row. */
export async function undisturbed(of: TrialPlan = plan()) {
  const rows: { number: number, answer: unknown }[] = []
  await runJobs(new Here(), shareOf(checked(of).basis), Array.from({ length: 20 }, (_, i) => i), new AbortController().signal, (number, answer) => { rows.push({ number, answer: JSON.parse(JSON.stringify(answer)) }) })
  return rows.sort((a, b) => a.number - b.number)
}
