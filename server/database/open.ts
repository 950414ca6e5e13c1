import { copyFileSync, existsSync, mkdirSync, mkdtempSync, renameSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import Sqlite from 'better-sqlite3'
import { Kysely, Migrator, SqliteDialect } from 'kysely'
import { MIGRATIONS } from './migrations'
import type { Database } from './schema'
import { StoreTrouble, trouble, troubleOf } from './trouble'

export interface Opened {
  readonly db: Kysely<Database>
  /** Where a damaged file was put aside; null when the file was sound. */
  readonly damaged: string | null
  /** What people should know while it is open: that nothing can be saved, say; null when all is well. */
  readonly notice: string | null
  close(): Promise<void>
}

export const DATABASE_FILE = 'mindpath.sqlite'
/** Held by the one server of a folder; the system frees it however that server ends. */
export const CLAIM_FILE = 'mindpath.lock'

/** How long a statement waits for another program's lock, milliseconds: nothing else is served meanwhile. */
const PATIENCE = 1500

/**
 * Opens the database of a data folder and brings it up to date. A damaged file is kept aside, never deleted; a newer one is
 * not touched. Where the folder cannot be written to, a copy is opened for reading. Throws StoreTrouble where nothing can be shown.
 */
export async function openDatabase(folder: string, now: () => Date): Promise<Opened> {
  const path = join(folder, DATABASE_FILE)
  let release = (): void => undefined
  try {
    if (existsSync(folder) && !statSync(folder).isDirectory()) throw trouble('no-folder', folder)
    mkdirSync(folder, { recursive: true })
    release = claim(folder)
    const damaged = setAside(path, now)
    const db = await prepared(path)
    return { db, damaged, notice: null, close: async () => { await db.destroy(); release() } }
  } catch (error) {
    release()
    const found = troubleOf(error, error instanceof Error && 'code' in error && String(error.code).startsWith('SQLITE') ? path : folder)
    if (found === null) throw error
    if ((found.kind !== 'read-only' && found.kind !== 'full') || !existsSync(path)) throw found
    return openCopy(path, found)
  }
}

/** The database as it is, for reading: a copy elsewhere, so that it can be brought up to date. */
async function openCopy(path: string, why: StoreTrouble): Promise<Opened> {
  const folder = mkdtempSync(join(tmpdir(), 'mindpath-'))
  const gone = (): void => rmSync(folder, { recursive: true, force: true })
  try {
    const copy = join(folder, DATABASE_FILE)
    for (const end of ['', '-wal']) if (existsSync(path + end)) copyFileSync(path + end, copy + end)
    const db = await prepared(copy, true)
    return { db, damaged: null, notice: why.message, close: async () => { await db.destroy(); gone() } }
  } catch {
    gone()
    throw why
  }
}

/** Takes the folder for this process; throws when another has it. */
function claim(folder: string): () => void {
  const held = new Sqlite(join(folder, CLAIM_FILE), { timeout: 0 })
  try {
    held.exec('BEGIN EXCLUSIVE')
  } catch (error) {
    held.close()
    throw troubleOf(error, folder)?.kind === 'locked' ? trouble('in-use', folder) : error
  }
  return () => held.close()
}

/** Puts a damaged file aside and says where; null when there is none, or it is sound. */
function setAside(path: string, now: () => Date): string | null {
  if (!existsSync(path)) return null
  let sqlite: Sqlite.Database | null = null
  try {
    sqlite = new Sqlite(path, { timeout: PATIENCE })
    if (sqlite.pragma('quick_check', { simple: true }) === 'ok') return null
  } catch (error) {
    if (troubleOf(error, path)?.kind !== 'damaged') throw error
  } finally {
    sqlite?.close()
  }
  const aside = `${path}.damaged-${now().toISOString().replaceAll(/[:.]/g, '-')}`
  renameSync(path, aside)
  for (const extra of ['-wal', '-shm']) if (existsSync(path + extra)) renameSync(path + extra, aside + extra)
  return aside
}

async function prepared(path: string, readOnly = false): Promise<Kysely<Database>> {
  const sqlite = new Sqlite(path, { timeout: PATIENCE })
  try {
    if (migrationsIn(sqlite).some(name => !Object.hasOwn(MIGRATIONS, name))) throw trouble('newer', path)
    sqlite.pragma('journal_mode = WAL')
    // What was answered as saved survives a kill and a power cut.
    sqlite.pragma('synchronous = FULL')
    sqlite.pragma('foreign_keys = ON')
    const db = new Kysely<Database>({ dialect: new SqliteDialect({ database: sqlite }) })
    await migrate(sqlite, db)
    if (readOnly) sqlite.pragma('query_only = ON')
    return db
  } catch (error) {
    sqlite.close()
    throw error
  }
}

/** Names of the migrations that a database went through. */
function migrationsIn(sqlite: Sqlite.Database): readonly string[] {
  if (!hasTable(sqlite, 'kysely_migration')) return []
  return sqlite.prepare('select name from kysely_migration').pluck().all() as string[]
}

const hasTable = (sqlite: Sqlite.Database, name: string): boolean => sqlite.prepare("select 1 from sqlite_master where type = 'table' and name = ?").get(name) !== undefined

/** All migrations that are due, or none: a kill in the middle leaves the database as it was. */
async function migrate(sqlite: Sqlite.Database, db: Kysely<Database>): Promise<void> {
  sqlite.exec('BEGIN IMMEDIATE')
  try {
    dropHalfMade(sqlite)
    const { error } = await new Migrator({ db, provider: { getMigrations: () => Promise.resolve({ ...MIGRATIONS }) } }).migrateToLatest()
    if (error !== undefined) throw error
    sqlite.exec('COMMIT')
  } catch (error) {
    if (sqlite.inTransaction) sqlite.exec('ROLLBACK')
    throw error
  }
}

/** Tables that each migration makes, for folders whose first start was killed when migrations were not yet one transaction. */
const MADE_BY: Readonly<Record<string, readonly string[]>> = { '0001-projects': ['revisions', 'documents', 'projects'], '0002-robots': ['robots'] }

/** Drops the empty tables of a migration that was never finished; it makes them anew. */
function dropHalfMade(sqlite: Sqlite.Database): void {
  const done = new Set(migrationsIn(sqlite))
  for (const [name, tables] of Object.entries(MADE_BY)) {
    if (done.has(name)) continue
    for (const table of tables) {
      if (hasTable(sqlite, table) && sqlite.prepare(`select 1 from ${table} limit 1`).get() === undefined) sqlite.exec(`drop table ${table}`)
    }
  }
}
