import { log } from './log'
import { loadDemo, loadShelf } from '../database/demo'
import { documentOf, within } from '../database/documents'
import { openDatabase } from '../database/open'
import { ProjectRepository } from '../database/projects'
import { RunRepository } from '../database/runs'
import { SHELVED, ShelfRepository } from '../database/shelf'
import { TrialRepository } from '../database/trials'
import { troubleOf } from '../database/trouble'

export interface Store {
  readonly projects: ProjectRepository
  readonly shelf: ShelfRepository
  readonly runs: RunRepository
  readonly trials: TrialRepository
  /** A kept document by its fingerprint. */
  readonly documents: (id: string) => Promise<unknown>
  /** Where a damaged database was put aside at this start; null when all was well. */
  readonly damaged: string | null
  /** Why nothing can be saved; null when it can. */
  readonly notice: string | null
  close(): Promise<void>
}

/** The folder that this server keeps its data in. */
export const dataFolder = (): string => process.env['MINDPATH_DATA'] ?? 'data'

let opened: Promise<Store> | null = null

/** The one store of this server, opened when first asked for. After a failure the next who asks tries again. */
export function useStore(): Promise<Store> {
  opened ??= open().catch((error: unknown) => {
    opened = null
    throw error
  })
  return opened
}

/** Closes the store where it is open. */
export async function closeStore(): Promise<void> {
  await (await opened?.catch(() => null))?.close()
  opened = null
}

async function open(): Promise<Store> {
  const now = (): Date => new Date()
  const { db, damaged, notice, close } = await openDatabase(dataFolder(), now)
  if (damaged !== null) log.warn(`the database was damaged and is kept as ${damaged}; a new one was begun`)
  if (notice !== null) log.warn(notice)
  try {
    // What a new folder begins with comes whole or not at all; what a killed first start left out comes now.
    if (notice === null) {
      await within(db, async (trx) => {
        const [projects, shelf] = [new ProjectRepository(trx, now), new ShelfRepository(trx, now)]
        if (await projects.neverHadAny()) await loadDemo(projects)
        for (const kind of SHELVED) if (await shelf.neverHadAny(kind)) await loadShelf(shelf, kind)
      })
    }
  } catch (error) {
    await close()
    throw troubleOf(error, dataFolder()) ?? error
  }
  return { projects: new ProjectRepository(db, now), shelf: new ShelfRepository(db, now), runs: new RunRepository(db, now), trials: new TrialRepository(db, now), documents: id => documentOf(db, id, 'document'), damaged, notice, close }
}
