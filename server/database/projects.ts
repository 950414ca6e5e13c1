import { randomUUID } from 'node:crypto'
import { sql, type Kysely, type Transaction } from 'kysely'
import { documentOf, keepDocument, within } from './documents'
import type { Database } from './schema'
import { thinned } from './thinning'

/** A project's documents as JSON values. */
export interface Documents {
  readonly robot: unknown
  readonly arena: unknown
  readonly task: unknown
}
const DOCUMENT_PARTS = ['robot', 'arena', 'task'] as const
type DocumentPart = (typeof DOCUMENT_PARTS)[number]

/** A project as the list shows it. */
export interface ProjectRow {
  readonly id: string
  readonly title: string
  readonly changedAt: string
  readonly revision: number
  /** Id of its arena's document. */
  readonly arena: string
  readonly robotName: string
  readonly arenaName: string
  /** Whether one of its documents is damaged, so that it cannot be opened. */
  readonly broken: boolean
}

export interface FullProject extends Documents {
  readonly id: string
  readonly title: string
  readonly changedAt: string
  readonly revision: number
  readonly program: string
  /** The program of the last revision that ran; null before the first run. */
  readonly ranProgram: string | null
}

export type Saved =
  | { readonly saved: true, readonly revision: number, readonly changedAt: string }
  | { readonly saved: false, readonly current: number }

/** A revision as the list shows it. */
export interface RevisionRow {
  readonly number: number
  readonly at: string
  /** Characters of its program. */
  readonly length: number
  /** Whether it ran, and whether somebody marked it: such a one stays. */
  readonly ran: boolean
  readonly marked: boolean
  /** Which documents are others than those of the revision before. */
  readonly changed: readonly DocumentPart[]
}

/** A document that a project has: what a new project may begin with. */
export interface UsedDocument {
  readonly document: string
  /** What it calls itself; "?" where it does not. */
  readonly name: string
  readonly about: string
  /** Title of a project that has it, and the document of that project's arena. */
  readonly project: string
  readonly arena: string
}

/** How many saves lie between two thinnings, and how many revisions are listed. */
const THIN_EVERY = 20
const MOST_LISTED = 400
/** How many documents of a kind are offered to a new project. */
const MOST_OFFERED = 200

/** Projects and their revisions. Nothing is overwritten: every save adds a revision; with age they thin out. */
export class ProjectRepository {
  constructor(private readonly db: Kysely<Database>, private readonly now: () => Date) {}

  /** All that are not deleted, the last changed first: by one query, whatever their number. */
  async list(): Promise<readonly ProjectRow[]> {
    // The name that a document gives itself; null where it gives none or is damaged.
    const nameOf = (table: 'r' | 'a') => sql<string | null>`case when json_valid(${sql.ref(`${table}.body`)}) then json_extract(${sql.ref(`${table}.body`)}, '$.name') end`
    const broken = sql<number>`not (coalesce(json_valid(r.body), 0) and coalesce(json_valid(a.body), 0) and (revisions.task is null or coalesce(json_valid(t.body), 0)))`
    const rows = await this.db.selectFrom('projects')
      .innerJoin('revisions', 'revisions.project_id', 'projects.id')
      .leftJoin('documents as r', 'r.id', 'revisions.robot')
      .leftJoin('documents as a', 'a.id', 'revisions.arena')
      .leftJoin('documents as t', 't.id', 'revisions.task')
      .select(['projects.id', 'title', 'changed_at', 'number', 'revisions.arena', nameOf('r').as('robotName'), nameOf('a').as('arenaName'), broken.as('broken')])
      .where('deleted_at', 'is', null)
      .where('number', '=', newest)
      .orderBy('changed_at', 'desc').orderBy('projects.id').execute()
    return rows.map(r => ({
      id: r.id, title: r.title, changedAt: r.changed_at, revision: r.number, arena: r.arena,
      robotName: textOr(r.robotName), arenaName: textOr(r.arenaName), broken: r.broken === 1,
    }))
  }

  /**
   * Documents of a kind that projects have now, each once, the last changed first; tasks once for each arena that they are set
   * in. Damaged ones are left out.
   */
  async used(kind: 'robot' | 'arena' | 'task'): Promise<readonly UsedDocument[]> {
    const rows = await this.db.selectFrom('projects')
      .innerJoin('revisions', 'revisions.project_id', 'projects.id')
      .innerJoin('documents', 'documents.id', `revisions.${kind}`)
      .select(({ fn }) => [
        'title', 'documents.id as document', 'revisions.arena', fn.max('changed_at').as('at'),
        sql<string | null>`coalesce(json_extract(body, '$.title'), json_extract(body, '$.name'))`.as('name'), sql<string | null>`json_extract(body, '$.about')`.as('about'),
      ])
      .where('deleted_at', 'is', null).where(sql<boolean>`json_valid(body)`)
      .where('number', '=', newest)
      .groupBy(kind === 'task' ? ['documents.id', 'revisions.arena'] : ['documents.id'])
      .orderBy('at', 'desc').orderBy('documents.id').limit(MOST_OFFERED).execute()
    return rows.map(r => ({ project: r.title, document: r.document, arena: r.arena, name: textOr(r.name), about: typeof r.about === 'string' ? r.about : '' }))
  }

  /** A project at its latest revision; null when there is none of that id, or it is deleted. */
  async find(id: string): Promise<FullProject | null> {
    const row = await this.latest(this.db, id)
    if (row === undefined || row.deleted_at !== null) return null
    const ran = row.ran_revision === null ? undefined : await this.db.selectFrom('revisions').select('program')
      .where('project_id', '=', id).where('number', '=', row.ran_revision).executeTakeFirst()
    return {
      id: row.project_id, title: row.title, changedAt: row.changed_at, revision: row.number, program: row.program,
      robot: await documentOf(this.db, row.robot, `robot of “${row.title}”`), arena: await documentOf(this.db, row.arena, `arena of “${row.title}”`),
      task: row.task === null ? null : await documentOf(this.db, row.task, `task of “${row.title}”`),
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
    await within(this.db, async (trx) => {
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
   * Saves a program, and the documents that are given, as a new revision on top of `base`. Refused, with the current number,
   * when somebody else saved in between. null when there is no such project.
   */
  async save(id: string, base: number, change: { readonly program: string } & Partial<Documents>): Promise<Saved | null> {
    const { program } = change
    const at = this.now().toISOString()
    return within(this.db, async (trx): Promise<Saved | null> => {
      const last = await this.latest(trx, id)
      if (last === undefined || last.deleted_at !== null) return null
      if (last.number !== base) return { saved: false, current: last.number }
      const robot = change.robot === undefined ? last.robot : await keepDocument(trx, change.robot)
      const arena = change.arena === undefined ? last.arena : await keepDocument(trx, change.arena)
      const task = change.task === undefined ? last.task : change.task === null ? null : await keepDocument(trx, change.task)
      if (last.program === program && last.robot === robot && last.arena === arena && last.task === task) return { saved: true, revision: last.number, changedAt: last.changed_at }
      await trx.insertInto('revisions').values({
        project_id: id, number: base + 1, program, robot, arena, task, created_at: at,
      }).execute()
      await trx.updateTable('projects').set({ changed_at: at }).where('id', '=', id).execute()
      if ((base + 1) % THIN_EVERY === 0) await this.thin(trx, id)
      return { saved: true, revision: base + 1, changedAt: at }
    })
  }

  /** Old revisions thin out; those that ran or are marked stay. */
  private async thin(trx: Transaction<Database>, id: string): Promise<void> {
    const all = await trx.selectFrom('revisions').select(['number', 'created_at as at', 'ran', 'marked']).where('project_id', '=', id).orderBy('number').execute()
    const gone = thinned(all.map(r => ({ ...r, stays: r.ran === 1 || r.marked === 1 })), this.now())
    if (gone.length > 0) await trx.deleteFrom('revisions').where('project_id', '=', id).where('number', 'in', gone).execute()
  }

  /** What is kept of a project, the newest first; null when there is no such project. */
  async revisions(id: string): Promise<readonly RevisionRow[] | null> {
    const project = await this.latest(this.db, id)
    if (project === undefined || project.deleted_at !== null) return null
    const rows = await this.db.selectFrom('revisions')
      .select(['number', 'created_at', 'robot', 'arena', 'task', 'ran', 'marked', sql<number>`length(program)`.as('length')])
      .where('project_id', '=', id).orderBy('number', 'desc').limit(MOST_LISTED).execute()
    return rows.map((r, i) => {
      const before = rows[i + 1]
      return { number: r.number, at: r.created_at, length: r.length, ran: r.ran === 1, marked: r.marked === 1, changed: DOCUMENT_PARTS.filter(part => before !== undefined && before[part] !== r[part]) }
    })
  }

  /** A revision's program and documents; null when there is none of that number. */
  async revision(id: string, number: number): Promise<({ readonly program: string } & Documents) | null> {
    const row = await this.db.selectFrom('revisions').innerJoin('projects', 'projects.id', 'revisions.project_id').select(['program', 'robot', 'arena', 'task'])
      .where('project_id', '=', id).where('number', '=', number).where('deleted_at', 'is', null).executeTakeFirst()
    if (row === undefined) return null
    const of = (part: DocumentPart, document: string): Promise<unknown> => documentOf(this.db, document, `${part} of that revision`)
    return { program: row.program, robot: await of('robot', row.robot), arena: await of('arena', row.arena), task: row.task === null ? null : await of('task', row.task) }
  }

  /** Marks a revision or takes the mark away. False when there is no such revision. */
  async mark(id: string, number: number, marked: boolean): Promise<boolean> {
    const { numUpdatedRows } = await this.db.updateTable('revisions').set({ marked: marked ? 1 : 0 })
      .where('project_id', '=', id).where('number', '=', number).where('project_id', 'in', this.db.selectFrom('projects').select('id').where('deleted_at', 'is', null))
      .executeTakeFirst()
    return numUpdatedRows > 0n
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
    if (!await this.change(id, { ran_revision: revision }, false)) return false
    await this.db.updateTable('revisions').set({ ran: 1 }).where('project_id', '=', id).where('number', '=', revision).execute()
    return true
  }

  private async change(id: string, values: Partial<Database['projects']>, deleted: boolean): Promise<boolean> {
    const result = await this.db.updateTable('projects').set(values)
      .where('id', '=', id).where('deleted_at', deleted ? 'is not' : 'is', null).executeTakeFirst()
    return result.numUpdatedRows > 0n
  }

  /** Whether there never was a project, not even one that is deleted: so it is in a new folder, and after a first start that was killed. */
  async neverHadAny(): Promise<boolean> {
    return await this.db.selectFrom('projects').select('id').limit(1).executeTakeFirst() === undefined
  }
}

/** Number of the newest revision of the project in the row. */
const newest = sql<number>`(select max(last.number) from revisions as last where last.project_id = projects.id)`

const textOr = (value: unknown): string => typeof value === 'string' ? value : '?'
