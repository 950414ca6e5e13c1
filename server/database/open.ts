import { existsSync, mkdirSync, renameSync } from 'node:fs'
import { join } from 'node:path'
import Sqlite from 'better-sqlite3'
import { Kysely, Migrator, SqliteDialect } from 'kysely'
import { MIGRATIONS } from './migrations'
import type { Database } from './schema'

export interface Opened {
  readonly db: Kysely<Database>
  /** Where a damaged file was put aside; null when the file was sound. */
  readonly damaged: string | null
  /** Whether there was no file before. */
  readonly fresh: boolean
}

export const DATABASE_FILE = 'mindpath.sqlite'

/** Opens the database of a data folder and brings it up to date. A damaged file is kept aside, never deleted. */
export async function openDatabase(folder: string, now: () => Date): Promise<Opened> {
  mkdirSync(folder, { recursive: true })
  const path = join(folder, DATABASE_FILE)
  let damaged: string | null = null
  if (existsSync(path) && !isSound(path)) {
    damaged = `${path}.damaged-${now().toISOString().replaceAll(/[:.]/g, '-')}`
    renameSync(path, damaged)
    for (const extra of ['-wal', '-shm']) if (existsSync(path + extra)) renameSync(path + extra, damaged + extra)
  }
  const fresh = !existsSync(path)
  const sqlite = new Sqlite(path)
  sqlite.pragma('journal_mode = WAL')
  // What was answered as saved survives a kill and a power cut.
  sqlite.pragma('synchronous = FULL')
  sqlite.pragma('foreign_keys = ON')
  const db = new Kysely<Database>({ dialect: new SqliteDialect({ database: sqlite }) })
  const { error } = await new Migrator({ db, provider: { getMigrations: () => Promise.resolve({ ...MIGRATIONS }) } }).migrateToLatest()
  if (error !== undefined) throw error
  return { db, damaged, fresh }
}

function isSound(path: string): boolean {
  let sqlite: Sqlite.Database | null = null
  try {
    sqlite = new Sqlite(path)
    return sqlite.pragma('quick_check', { simple: true }) === 'ok'
  } catch {
    return false
  } finally {
    sqlite?.close()
  }
}
