import { createHash } from 'node:crypto'
import type { Kysely, Transaction } from 'kysely'
import type { Database } from './schema'
import { StoreTrouble } from './trouble'

/** From this length on, characters, a text within a document is kept by itself: a sound, say, once for all revisions. */
const LONG = 4096
/** Stands in a kept document for a long text: an object with this one key, and the text's id. */
const KEPT = 'mindpath:kept'

/** Runs in the transaction that is there, or in one of its own. */
export async function within<T>(db: Kysely<Database>, act: (trx: Transaction<Database>) => Promise<T>): Promise<T> {
  if (db.isTransaction) return act(db as Transaction<Database>)
  let why: unknown
  try {
    return await db.transaction().execute(async (trx) => {
      try {
        return await act(trx)
      } catch (error) {
        why = error
        throw error
      }
    })
  } catch (error) {
    // On a full disk SQLite rolls back by itself, and the rollback that follows fails: what came first says why.
    throw why ?? error
  }
}

/** Keeps a document once, whoever uses it; its id, the fingerprint of its text. */
export async function keepDocument(trx: Transaction<Database>, value: unknown): Promise<string> {
  const long: string[] = []
  const body = JSON.stringify(value, (_key, part: unknown) => {
    if (typeof part !== 'string' || part.length < LONG) return part
    long.push(part)
    return { [KEPT]: idOf(JSON.stringify(part)) }
  })
  for (const part of new Set(long)) await insert(trx, JSON.stringify(part))
  return insert(trx, body)
}

const idOf = (body: string): string => createHash('sha256').update(body).digest('hex')

async function insert(trx: Transaction<Database>, body: string): Promise<string> {
  const id = idOf(body)
  await trx.insertInto('documents').values({ id, body }).onConflict(c => c.doNothing()).execute()
  return id
}

/** A kept document as a JSON value. Throws StoreTrouble, naming it as `what`, when it is missing or no JSON any more. */
export async function documentOf(db: Kysely<Database>, id: string, what: string): Promise<unknown> {
  const row = await db.selectFrom('documents').select('body').where('id', '=', id).executeTakeFirst()
  const damaged = (): StoreTrouble => new StoreTrouble('document', `The ${what} is damaged in the database and cannot be read (document ${id.slice(0, 12)}). Everything else is untouched.`)
  if (row === undefined) throw damaged()
  const parts = new Map<string, string>()
  for (const [, part] of row.body.matchAll(new RegExp(`\\{"${KEPT}":"([0-9a-f]{64})"\\}`, 'g'))) {
    const kept = await documentOf(db, part!, what)
    if (typeof kept !== 'string') throw damaged()
    parts.set(part!, kept)
  }
  try {
    return JSON.parse(row.body, (_key, value: unknown) => {
      const kept = parts.size > 0 && typeof value === 'object' && value !== null && KEPT in value ? parts.get(String(value[KEPT])) : undefined
      return kept ?? value
    })
  } catch {
    throw damaged()
  }
}
