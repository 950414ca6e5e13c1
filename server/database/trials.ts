import { randomUUID } from 'node:crypto'
import type { Kysely } from 'kysely'
import type { Arena } from '../../core/arena'
import type { RunRealism } from '../../core/devices'
import type { RunInputs } from '../../core/simulation'
import { inputsOf, jobOf, readBasis, readPlan, type CheckedPlan, type PlanProgram, type PlanRow, type PlanState, type Ran, type Trial, type TrialPlan } from '../../core/trials'
import { documentOf, keepDocument, within } from './documents'
import type { Documents } from './projects'
import type { Database } from './schema'

/** What came of a run, or why it could not be run. */
export type TrialAnswer = Trial | string

/** The most plans of a project that are listed. */
const MOST_LISTED = 200
/** The most trials that are handed out at once. */
const MOST_AT_ONCE = 5000

/** Trial plans and what came of their runs. */
export class TrialRepository {
  constructor(private readonly db: Kysely<Database>, private readonly now: () => Date) {}

  /** Keeps a plan that was checked, as it was written; its id. null when there is no such project. */
  async add(project: string, plan: object, programs: readonly PlanProgram[], { robot, arena, task }: Documents, total: number): Promise<string | null> {
    const id = randomUUID()
    return within(this.db, async (trx) => {
      const known = await trx.selectFrom('projects').select('id').where('id', '=', project).where('deleted_at', 'is', null).executeTakeFirst()
      if (known === undefined) return null
      await trx.insertInto('plans').values({
        id, project_id: project, plan: JSON.stringify(plan), programs: JSON.stringify(programs), total, state: 'waiting', created_at: this.now().toISOString(), deleted_at: null,
        robot: await keepDocument(trx, robot), arena: await keepDocument(trx, arena), task: task === null ? null : await keepDocument(trx, task),
      }).execute()
      return id
    })
  }

  /** Of a project, the newest first. */
  async list(project: string): Promise<readonly PlanRow[]> {
    const rows = await this.db.selectFrom('plans').selectAll().where('deleted_at', 'is', null)
      .where('project_id', '=', project).orderBy('created_at', 'desc').orderBy('id').limit(MOST_LISTED).execute()
    const counts = await this.db.selectFrom('trials').select(({ fn }) => ['plan_id', fn.countAll<number>().as('done'), fn.sum<number | null>('met').as('met')])
      .where('plan_id', 'in', rows.map(r => r.id)).groupBy('plan_id').execute()
    const countOf = new Map(counts.map(c => [c.plan_id, c]))
    return rows.map(r => ({
      id: r.id, plan: planOf(r.plan), programs: (JSON.parse(r.programs) as PlanProgram[]).map(({ name, revision }) => ({ name, revision })),
      total: r.total, done: countOf.get(r.id)?.done ?? 0, met: countOf.get(r.id)?.met ?? 0, state: r.state, why: r.why, spent: r.spent, at: r.created_at,
    }))
  }

  /** A plan with all that its runs are made of; null when there is none of that id. Throws StoreTrouble for one that is damaged. */
  async find(id: string): Promise<{ readonly project: string, readonly total: number, readonly checked: CheckedPlan, readonly programs: readonly PlanProgram[] } | null> {
    const row = await this.db.selectFrom('plans').selectAll().where('id', '=', id).where('deleted_at', 'is', null).executeTakeFirst()
    if (row === undefined) return null
    const programs = JSON.parse(row.programs) as PlanProgram[]
    const plan = readPlan(JSON.parse(row.plan))
    const documents = { robot: await documentOf(this.db, row.robot, 'robot'), arena: await documentOf(this.db, row.arena, 'arena'), task: row.task === null ? null : await documentOf(this.db, row.task, 'task') }
    const checked = plan.ok ? readBasis(documents, programs, plan.value) : plan
    if (!checked.ok) throw new Error(`a kept plan cannot be read: ${checked.problems.map(p => `${p.path}: ${p.message}`).join('; ')}`)
    return { project: row.project_id, total: row.total, checked: checked.value, programs }
  }

  /** Id of the project that a plan is of; null when there is no such plan. */
  async projectOf(id: string): Promise<string | null> {
    return (await this.db.selectFrom('plans').select('project_id').where('id', '=', id).executeTakeFirst())?.project_id ?? null
  }

  /** The plan to go on with: one that is under way, else the one that waits longest. null when there is none. */
  async next(): Promise<string | null> {
    const row = await this.db.selectFrom('plans').select('id').where('deleted_at', 'is', null).where('state', 'in', ['running', 'waiting'])
      .orderBy(e => e.case().when('state', '=', 'running').then(0).else(1).end()).orderBy('created_at').executeTakeFirst()
    return row?.id ?? null
  }

  /** How many plans are under way or wait. */
  async waiting(): Promise<number> {
    const row = await this.db.selectFrom('plans').select(({ fn }) => fn.countAll<number>().as('n')).where('deleted_at', 'is', null).where('state', 'in', ['running', 'waiting']).executeTakeFirst()
    return row?.n ?? 0
  }

  /** Says how a plan stands. One that was cancelled stays so. */
  async setState(id: string, state: PlanState, why = ''): Promise<boolean> {
    const done = await this.db.updateTable('plans').set({ state, why }).where('id', '=', id).where('state', 'in', ['waiting', 'running']).executeTakeFirst()
    return done.numUpdatedRows > 0n
  }

  /** Keeps what came of some runs, each once whoever else kept it, and how long that took, milliseconds. */
  async keep(id: string, arena: Arena, ran: readonly Ran[], spent: number): Promise<void> {
    await within(this.db, async (trx) => {
      const rows = ran.map(({ number, basis, job, answer }) => ({ plan_id: id, number, ...inputsText(basis, job, arena), met: typeof answer === 'string' ? null : answer.met ? 1 : 0, result: JSON.stringify(answer) }))
      for (let i = 0; i < rows.length; i += 100) await trx.insertInto('trials').values(rows.slice(i, i + 100)).onConflict(c => c.columns(['plan_id', 'number']).doNothing()).execute()
      await trx.updateTable('plans').set(e => ({ spent: e('spent', '+', Math.round(spent)) })).where('id', '=', id).execute()
    })
  }

  /** Numbers of the jobs that are done. */
  async doneOf(id: string): Promise<ReadonlySet<number>> {
    const rows = await this.db.selectFrom('trials').select('number').where('plan_id', '=', id).execute()
    return new Set(rows.map(r => r.number))
  }

  /** All that came of a plan's runs so far, by their numbers. */
  async allOf(id: string): Promise<Map<number, TrialAnswer>> {
    const all = new Map<number, TrialAnswer>()
    for (let mark = 0; ;) {
      const read = await this.answers(id, mark)
      if (read.answers.length === 0) return all
      mark = read.mark
      for (const { number, answer } of read.answers) all.set(number, answer)
    }
  }

  /** What a run that is done was made of, to be run again; null where it is not done, or its plan is not there. */
  async inputsOf(id: string, number: number): Promise<{ readonly title: string, readonly inputs: RunInputs } | null> {
    const [found, row] = [await this.find(id), await this.db.selectFrom('trials').selectAll().where('plan_id', '=', id).where('number', '=', number).executeTakeFirst()]
    if (found === null || row === undefined) return null
    const { documents, plan, programs } = found.checked.basis
    // By its place, as two may be called alike; a search has one.
    const { text } = programs[plan.search === null ? jobOf(plan, programs.length, number).program : 0]!
    const inputs = { ...documents, program: text, realism: row.realism as RunRealism, seed: row.seed, limit: plan.limit, dials: JSON.parse(row.dials) as Record<string, string>, world: JSON.parse(row.world) as object }
    return { title: `${row.program}, seed ${row.seed}`, inputs }
  }

  /** What came of a plan's runs after a mark, in the order in which it came, and the mark after those; up to MOST_AT_ONCE. */
  async answers(id: string, after: number): Promise<{ readonly mark: number, readonly answers: readonly { readonly number: number, readonly answer: TrialAnswer }[] }> {
    const rows = await this.db.selectFrom('trials').select(['id', 'number', 'result']).where('plan_id', '=', id).where('id', '>', after).orderBy('id').limit(MOST_AT_ONCE).execute()
    return { mark: rows.at(-1)?.id ?? after, answers: rows.map(r => ({ number: r.number, answer: JSON.parse(r.result) as TrialAnswer })) }
  }

  /** False when there is none of that id; it can be brought back until the server starts anew. One that was under way is cancelled. */
  async remove(id: string): Promise<boolean> {
    await this.setState(id, 'cancelled')
    return this.mark(id, this.now().toISOString(), false)
  }

  async restore(id: string): Promise<boolean> { return this.mark(id, null, true) }

  /** Lets go what was removed. */
  async clear(): Promise<void> { await this.db.deleteFrom('plans').where('deleted_at', 'is not', null).execute() }

  private async mark(id: string, at: string | null, deleted: boolean): Promise<boolean> {
    const done = await this.db.updateTable('plans').set({ deleted_at: at }).where('id', '=', id).where('deleted_at', deleted ? 'is not' : 'is', null).executeTakeFirst()
    return done.numUpdatedRows > 0n
  }
}

function planOf(kept: string): TrialPlan | null {
  const read = readPlan(JSON.parse(kept))
  return read.ok ? read.value : null
}

/** What a run is made of, as its row says it. */
function inputsText(basis: CheckedPlan['basis'], number: number, arena: Arena) {
  const job = jobOf(basis.plan, basis.programs.length, number)
  const { realism, seed, dials, world } = inputsOf(basis, job, arena)
  return { program: basis.programs[job.program]!.name, realism, seed, dials: JSON.stringify(dials), world: JSON.stringify(world) }
}
