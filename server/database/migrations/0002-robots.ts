import type { Kysely } from 'kysely'

export async function up(db: Kysely<unknown>): Promise<void> {
  await db.schema.createTable('robots')
    .addColumn('id', 'text', c => c.primaryKey())
    .addColumn('document', 'text', c => c.notNull().references('documents.id'))
    .addColumn('created_at', 'text', c => c.notNull())
    .addColumn('deleted_at', 'text')
    .execute()
}
