import { randomUUID } from 'node:crypto'
import type { Kysely } from 'kysely'
import { documentOf, keepDocument, within } from './documents'
import type { Database } from './schema'
import { StoreTrouble } from './trouble'

export interface KeptRobot {
  readonly id: string
  /** Id of its document. */
  readonly document: string
  readonly robot: unknown
}

/** Robots kept for use in any project. A project takes a copy, so that what runs there changes only there. */
export class RobotRepository {
  constructor(private readonly db: Kysely<Database>, private readonly now: () => Date) {}

  /** All that are not deleted, the first kept first. */
  async list(): Promise<readonly KeptRobot[]> {
    const rows = await this.db.selectFrom('robots').select(['id', 'document']).where('deleted_at', 'is', null)
      .orderBy('created_at').orderBy('id').execute()
    const all: KeptRobot[] = []
    for (const { id, document } of rows) {
      try {
        all.push({ id, document, robot: await documentOf(this.db, document, 'kept robot') })
      } catch (error) {
        // One that is damaged is left out; the others are offered.
        if (!(error instanceof StoreTrouble)) throw error
      }
    }
    return all
  }

  /** Whether none was ever kept: so it is in a new data folder, and in one from before robots were kept. */
  async neverHadAny(): Promise<boolean> {
    return await this.db.selectFrom('robots').select('id').limit(1).executeTakeFirst() === undefined
  }

  async add(robot: unknown): Promise<string> {
    const id = randomUUID()
    await within(this.db, async (trx) => {
      await trx.insertInto('robots').values({ id, document: await keepDocument(trx, robot), created_at: this.now().toISOString(), deleted_at: null }).execute()
    })
    return id
  }

  /** False when there is no such robot. */
  async remove(id: string): Promise<boolean> { return this.mark(id, this.now().toISOString(), false) }
  async restore(id: string): Promise<boolean> { return this.mark(id, null, true) }

  private async mark(id: string, at: string | null, deleted: boolean): Promise<boolean> {
    const result = await this.db.updateTable('robots').set({ deleted_at: at })
      .where('id', '=', id).where('deleted_at', deleted ? 'is not' : 'is', null).executeTakeFirst()
    return result.numUpdatedRows > 0n
  }
}
