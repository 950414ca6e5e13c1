import { randomUUID } from 'node:crypto'
import type { Kysely, Transaction } from 'kysely'
import type { RunOutline } from '../../core/runs'
import { within } from './documents'
import type { Database } from './schema'

/** What a run's file says of it, as it was read. */
export interface RunFacts {
  readonly seed: number
  readonly realism: string
  readonly engine: number
  readonly ticks: number
  readonly fingerprint: string
  /** After how many ticks of another it went on; null for one from the start. */
  readonly originTicks: number | null
  readonly outline: RunOutline
}

/** A kept run as the list shows it. */
export interface RunRow extends RunFacts {
  readonly id: string
  readonly revision: number | null
  readonly name: string
  readonly starred: boolean
  readonly origin: string | null
  readonly bytes: number
  readonly at: string
}

export interface RunList {
  /** The newest first. */
  readonly runs: readonly RunRow[]
  /** What all runs of all projects take, bytes, and how much they may. */
  readonly bytes: number
  readonly budget: number
}

/** Megabytes that all runs together may take until somebody says otherwise. */
const USUAL_BUDGET = 200
const BUDGET = 'runs: megabytes'
const MEGABYTE = 1_000_000
/** How many are listed. */
const MOST_LISTED = 2000

/** Outlines of before had no word of getting nowhere. */
const outlineFrom = (kept: string): RunOutline => ({ stuck: [], ...JSON.parse(kept) as Omit<RunOutline, 'stuck'> & Partial<RunOutline> })

/** Runs of projects. They come by themselves; those without star and name go again, the oldest first, when all take more than they may. */
export class RunRepository {
  constructor(private readonly db: Kysely<Database>, private readonly now: () => Date) {}

  /** Keeps a run's file whole, or nothing of it; its id. null when there is no such project. */
  async add(project: string, facts: RunFacts, file: Buffer, from: { readonly revision: number | null, readonly origin: string | null }): Promise<string | null> {
    const id = randomUUID()
    return within(this.db, async (trx) => {
      const known = await trx.selectFrom('projects').select('id').where('id', '=', project).where('deleted_at', 'is', null).executeTakeFirst()
      if (known === undefined) return null
      const { seed, realism, engine, ticks, fingerprint, originTicks, outline } = facts
      await trx.insertInto('runs').values({
        id, project_id: project, revision: from.revision, seed, realism, engine, ticks, fingerprint, origin: from.origin, origin_ticks: originTicks,
        outline: JSON.stringify(outline), bytes: file.length, created_at: this.now().toISOString(), deleted_at: null,
      }).execute()
      await trx.insertInto('run_files').values({ run_id: id, body: file }).execute()
      await this.makeRoom(trx, id)
      return id
    })
  }

  /** Id of a run of this project with this fingerprint that was kept within the last minute; null when there is none. */
  async justKept(project: string, { fingerprint, ticks }: RunFacts): Promise<string | null> {
    const since = new Date(this.now().getTime() - 60_000).toISOString()
    const row = await this.db.selectFrom('runs').select('id').where('project_id', '=', project).where('fingerprint', '=', fingerprint).where('ticks', '=', ticks).where('created_at', '>', since).executeTakeFirst()
    return row?.id ?? null
  }

  /** Of a project; empty when there is none. */
  async list(project: string): Promise<RunList> {
    const rows = await this.db.selectFrom('runs').selectAll().where('project_id', '=', project).where('deleted_at', 'is', null)
      .orderBy('created_at', 'desc').orderBy('id').limit(MOST_LISTED).execute()
    return {
      runs: rows.map(r => ({
        id: r.id, revision: r.revision, name: r.name, starred: r.starred === 1, seed: r.seed, realism: r.realism, engine: r.engine, ticks: r.ticks, fingerprint: r.fingerprint,
        origin: r.origin, originTicks: r.origin_ticks, outline: outlineFrom(r.outline), bytes: r.bytes, at: r.created_at,
      })),
      bytes: await this.bytes(this.db), budget: await this.budget(this.db),
    }
  }

  /** A run's file; null when there is none of that id. */
  async file(id: string): Promise<Buffer | null> {
    const row = await this.db.selectFrom('run_files').innerJoin('runs', 'runs.id', 'run_files.run_id').select('body').where('run_id', '=', id).where('deleted_at', 'is', null).executeTakeFirst()
    return row?.body ?? null
  }

  /** Names or stars a run. False when there is none of that id. */
  async change(id: string, { name, starred }: { readonly name?: string | undefined, readonly starred?: boolean | undefined }): Promise<boolean> {
    const set = { ...name === undefined ? {} : { name }, ...starred === undefined ? {} : { starred: starred ? 1 : 0 } }
    if (Object.keys(set).length === 0) return await this.file(id) !== null
    const done = await this.db.updateTable('runs').set(set).where('id', '=', id).where('deleted_at', 'is', null).executeTakeFirst()
    return done.numUpdatedRows > 0n
  }

  /** False when there is none of that id; restored it can be until its room is needed. */
  async remove(id: string): Promise<boolean> { return this.mark(id, this.now().toISOString(), false) }
  async restore(id: string): Promise<boolean> { return this.mark(id, null, true) }

  /** How many megabytes all runs may take; what is too much goes at once. */
  async setBudget(megabytes: number): Promise<void> {
    await within(this.db, async (trx) => {
      await trx.insertInto('settings').values({ key: BUDGET, value: String(megabytes) }).onConflict(c => c.column('key').doUpdateSet({ value: String(megabytes) })).execute()
      await this.makeRoom(trx, null)
    })
  }

  private async mark(id: string, at: string | null, deleted: boolean): Promise<boolean> {
    const done = await this.db.updateTable('runs').set({ deleted_at: at }).where('id', '=', id).where('deleted_at', deleted ? 'is not' : 'is', null).executeTakeFirst()
    return done.numUpdatedRows > 0n
  }

  private async bytes(db: Kysely<Database>): Promise<number> {
    return Number((await db.selectFrom('runs').select(({ fn }) => fn.sum('bytes').as('all')).executeTakeFirst())?.all ?? 0)
  }

  /** In megabytes. */
  private async budget(db: Kysely<Database>): Promise<number> {
    const row = await db.selectFrom('settings').select('value').where('key', '=', BUDGET).executeTakeFirst()
    return row === undefined ? USUAL_BUDGET : Number(row.value)
  }

  /** Lets go what is too much: first what was deleted, then the oldest without star and name; never the one that has just come. */
  private async makeRoom(trx: Transaction<Database>, newest: string | null): Promise<void> {
    let over = await this.bytes(trx) - MEGABYTE * await this.budget(trx)
    if (over <= 0) return
    const candidates = await trx.selectFrom('runs').select(['id', 'bytes'])
      .where(e => e.or([e('deleted_at', 'is not', null), e.and([e('starred', '=', 0), e('name', '=', '')])])).where('id', '!=', newest ?? '')
      .orderBy(e => e.case().when('deleted_at', 'is', null).then(1).else(0).end()).orderBy('created_at').execute()
    for (const { id, bytes } of candidates) {
      if (over <= 0) return
      await trx.deleteFrom('runs').where('id', '=', id).execute()
      over -= bytes
    }
  }
}
