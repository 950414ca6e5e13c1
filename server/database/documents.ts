import { createHash } from 'node:crypto'
import type { Kysely, Transaction } from 'kysely'
import type { Database } from './schema'

/** Keeps a document once, whoever uses it; its id, the fingerprint of its text. */
export async function keepDocument(trx: Transaction<Database>, value: unknown): Promise<string> {
  const body = JSON.stringify(value)
  const key = createHash('sha256').update(body).digest('hex')
  await trx.insertInto('documents').values({ id: key, body }).onConflict(c => c.doNothing()).execute()
  return key
}

/** A kept document as a JSON value. */
export async function documentOf(db: Kysely<Database>, id: string): Promise<unknown> {
  const { body } = await db.selectFrom('documents').select('body').where('id', '=', id).executeTakeFirstOrThrow()
  return JSON.parse(body)
}
