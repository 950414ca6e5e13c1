import { sql, type Kysely } from 'kysely'

/** Arenas and tasks are kept beside robots: one shelf for all. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await db.schema.createTable('shelf')
    .addColumn('id', 'text', c => c.primaryKey())
    .addColumn('kind', 'text', c => c.notNull())
    .addColumn('document', 'text', c => c.notNull().references('documents.id'))
    .addColumn('created_at', 'text', c => c.notNull())
    .addColumn('deleted_at', 'text')
    .execute()
  await sql`insert into shelf (id, kind, document, created_at, deleted_at) select id, 'robot', document, created_at, deleted_at from robots`.execute(db)
  await db.schema.dropTable('robots').execute()
}
