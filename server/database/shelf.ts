import { randomUUID } from 'node:crypto'
import { sql, type Kysely } from 'kysely'
import { documentOf, keepDocument, within } from './documents'
import type { Database } from './schema'
import { StoreTrouble } from './trouble'

/** What is kept for any project to take. */
export const SHELVED = ['robot', 'arena', 'task'] as const
export type Shelved = (typeof SHELVED)[number]

export interface KeptDocument {
  readonly id: string
  /** Id of its document. */
  readonly document: string
  readonly value: unknown
}

/** Robots, arenas and tasks kept for use in any project. A project takes a copy, so that what is changed there changes only there. */
export class ShelfRepository {
  constructor(private readonly db: Kysely<Database>, private readonly now: () => Date) {}

  /** All of a kind that are not deleted, the first kept first. */
  async list(kind: Shelved): Promise<readonly KeptDocument[]> {
    const rows = await this.db.selectFrom('shelf').select(['id', 'document']).where('kind', '=', kind).where('deleted_at', 'is', null)
      .orderBy('created_at').orderBy(sql`rowid`).execute()
    const all: KeptDocument[] = []
    for (const { id, document } of rows) {
      try {
        all.push({ id, document, value: await documentOf(this.db, document, `kept ${kind}`) })
      } catch (error) {
        // One that is damaged is left out; the others are offered.
        if (!(error instanceof StoreTrouble)) throw error
      }
    }
    return all
  }

  /** Whether none of a kind was ever kept: so it is in a new data folder, and in one from before that kind was kept. */
  async neverHadAny(kind: Shelved): Promise<boolean> {
    return await this.db.selectFrom('shelf').select('id').where('kind', '=', kind).limit(1).executeTakeFirst() === undefined
  }

  async add(kind: Shelved, value: unknown): Promise<string> {
    const id = randomUUID()
    await within(this.db, async (trx) => {
      await trx.insertInto('shelf').values({ id, kind, document: await keepDocument(trx, value), created_at: this.now().toISOString(), deleted_at: null }).execute()
    })
    return id
  }

  /** False when there is no such document of that kind. */
  async remove(kind: Shelved, id: string): Promise<boolean> { return this.mark(kind, id, this.now().toISOString(), false) }
  async restore(kind: Shelved, id: string): Promise<boolean> { return this.mark(kind, id, null, true) }

  private async mark(kind: Shelved, id: string, at: string | null, deleted: boolean): Promise<boolean> {
    const result = await this.db.updateTable('shelf').set({ deleted_at: at })
      .where('kind', '=', kind).where('id', '=', id).where('deleted_at', deleted ? 'is not' : 'is', null).executeTakeFirst()
    return result.numUpdatedRows > 0n
  }
}
