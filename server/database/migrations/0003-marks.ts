import { sql, type Kysely } from 'kysely'

/** Revisions that somebody marked, and those that ran, stay whatever their age. */
export async function up(db: Kysely<unknown>): Promise<void> {
  for (const column of ['marked', 'ran']) await db.schema.alterTable('revisions').addColumn(column, 'integer', c => c.notNull().defaultTo(0)).execute()
  await sql`update revisions set ran = 1 where number = (select ran_revision from projects where projects.id = revisions.project_id)`.execute(db)
}
