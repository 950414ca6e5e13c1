import type { Kysely } from 'kysely'

/** Runs are kept: what is listed of each, its file apart so that a list need not read it, and settings of the server. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await db.schema.createTable('runs')
    .addColumn('id', 'text', c => c.primaryKey())
    .addColumn('project_id', 'text', c => c.notNull().references('projects.id'))
    .addColumn('revision', 'integer')
    .addColumn('name', 'text', c => c.notNull().defaultTo(''))
    .addColumn('starred', 'integer', c => c.notNull().defaultTo(0))
    .addColumn('seed', 'integer', c => c.notNull())
    .addColumn('realism', 'text', c => c.notNull())
    .addColumn('engine', 'integer', c => c.notNull())
    .addColumn('ticks', 'integer', c => c.notNull())
    .addColumn('fingerprint', 'text', c => c.notNull())
    .addColumn('origin', 'text')
    .addColumn('origin_ticks', 'integer')
    .addColumn('outline', 'text', c => c.notNull())
    .addColumn('bytes', 'integer', c => c.notNull())
    .addColumn('created_at', 'text', c => c.notNull())
    .addColumn('deleted_at', 'text')
    .execute()
  await db.schema.createIndex('runs_by_project').on('runs').columns(['project_id', 'created_at']).execute()
  await db.schema.createTable('run_files')
    .addColumn('run_id', 'text', c => c.primaryKey().references('runs.id').onDelete('cascade'))
    .addColumn('body', 'blob', c => c.notNull())
    .execute()
  await db.schema.createTable('settings').addColumn('key', 'text', c => c.primaryKey()).addColumn('value', 'text', c => c.notNull()).execute()
}
