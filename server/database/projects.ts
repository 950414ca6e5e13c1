import { randomUUID } from 'node:crypto'
import type { Kysely, Transaction } from 'kysely'
import { documentOf, keepDocument } from './documents'
import type { Database } from './schema'

/** A project's documents as JSON values. */
export interface Documents {
  readonly robot: unknown
  readonly arena: unknown
  readonly task: unknown
}

export interface ProjectRow {
  readonly id: string
  readonly title: string
  readonly changedAt: string
  readonly revision: number
}

export interface FullProject extends ProjectRow, Documents {
  readonly program: string
  /** The program of the last revision that ran; null before the first run. */
  readonly ranProgram: string | null
}

export type Saved =
  | { readonly saved: true, readonly revision: number, readonly changedAt: string }
  | { readonly saved: false, readonly current: number }

/** Projects and their revisions. Nothing is overwritten: every save adds a revision. */
export class ProjectRepository {
  constructor(private readonly db: Kysely<Database>, private readonly now: () => Date) {}

  /** All that are not deleted, the last changed first, with their documents. */
  async list(): Promise<readonly FullProject[]> {
    const rows = await this.db.selectFrom('projects').select('id').where('deleted_at', 'is', null)
      .orderBy('changed_at', 'desc').orderBy('id').execute()
    const all = await Promise.all(rows.map(r => this.find(r.id)))
    return all.filter(p => p !== null)
  }

  /** A project at its latest revision; null when there is none of that id, or it is deleted. */
  async find(id: string): Promise<FullProject | null> {
    const row = await this.latest(this.db, id)
    if (row === undefined || row.deleted_at !== null) return null
    const ran = row.ran_revision === null ? undefined : await this.db.selectFrom('revisions').select('program')
      .where('project_id', '=', id).where('number', '=', row.ran_revision).executeTakeFirst()
    return {
      id: row.project_id, title: row.title, changedAt: row.changed_at, revision: row.number, program: row.program,
      robot: await documentOf(this.db, row.robot), arena: await documentOf(this.db, row.arena), task: row.task === null ? null : await documentOf(this.db, row.task),
      ranProgram: ran?.program ?? null,
    }
  }

  private latest(db: Kysely<Database> | Transaction<Database>, id: string) {
    return db.selectFrom('revisions').innerJoin('projects', 'projects.id', 'revisions.project_id')
      .select(['project_id', 'title', 'changed_at', 'deleted_at', 'ran_revision', 'number', 'program', 'robot', 'arena', 'task'])
      .where('project_id', '=', id).orderBy('number', 'desc').limit(1).executeTakeFirst()
  }

  async create(title: string, documents: Documents, program: string): Promise<string> {
    const id = randomUUID()
    const at = this.now().toISOString()
    await this.db.transaction().execute(async trx => {
      await trx.insertInto('projects').values({ id, title, created_at: at, changed_at: at, deleted_at: null, ran_revision: null }).execute()
      await trx.insertInto('revisions').values({
        project_id: id, number: 1, program, created_at: at,
        robot: await keepDocument(trx, documents.robot), arena: await keepDocument(trx, documents.arena),
        task: documents.task === null || documents.task === undefined ? null : await keepDocument(trx, documents.task),
      }).execute()
    })
    return id
  }

  /**
   * Saves a program, and a robot when one is given, as a new revision on top of `base`. Refused, with the current number,
   * when somebody else saved in between. null when there is no such project.
   */
  async save(id: string, base: number, change: { readonly program: string, readonly robot?: unknown }): Promise<Saved | null> {
    const { program } = change
    const at = this.now().toISOString()
    return this.db.transaction().execute(async (trx): Promise<Saved | null> => {
      const last = await this.latest(trx, id)
      if (last === undefined || last.deleted_at !== null) return null
      if (last.number !== base) return { saved: false, current: last.number }
      const robot = change.robot === undefined ? last.robot : await keepDocument(trx, change.robot)
      if (last.program === program && last.robot === robot) return { saved: true, revision: last.number, changedAt: last.changed_at }
      await trx.insertInto('revisions').values({
        project_id: id, number: base + 1, program, robot, arena: last.arena, task: last.task, created_at: at,
      }).execute()
      await trx.updateTable('projects').set({ changed_at: at }).where('id', '=', id).execute()
      return { saved: true, revision: base + 1, changedAt: at }
    })
  }

  /** False when there is no such project. */
  async rename(id: string, title: string): Promise<boolean> {
    return this.change(id, { title, changed_at: this.now().toISOString() }, false)
  }

  async remove(id: string): Promise<boolean> {
    return this.change(id, { deleted_at: this.now().toISOString() }, false)
  }

  async restore(id: string): Promise<boolean> {
    return this.change(id, { deleted_at: null }, true)
  }

  /** Remembers that a revision ran, so that it stays at hand while a later one has mistakes. */
  async ran(id: string, revision: number): Promise<boolean> {
    return this.change(id, { ran_revision: revision }, false)
  }

  private async change(id: string, values: Partial<Database['projects']>, deleted: boolean): Promise<boolean> {
    const result = await this.db.updateTable('projects').set(values)
      .where('id', '=', id).where('deleted_at', deleted ? 'is not' : 'is', null).executeTakeFirst()
    return result.numUpdatedRows > 0n
  }

  async count(): Promise<number> {
    const row = await this.db.selectFrom('projects').select(e => e.fn.countAll<number>().as('n')).executeTakeFirstOrThrow()
    return Number(row.n)
  }
}
