import { statfsSync } from 'node:fs'

/** Why the data folder cannot be used, in a sentence for people: what, where, what to do. */
export class StoreTrouble extends Error {
  constructor(readonly kind: TroubleKind, sentence: string) { super(sentence) }

  /** The status that a request is answered with while it lasts. */
  get status(): number { return this.kind === 'full' ? 507 : this.kind === 'document' ? 422 : 503 }
}

export type TroubleKind = 'in-use' | 'locked' | 'read-only' | 'full' | 'newer' | 'no-folder' | 'document' | 'damaged' | 'failed'

const SENTENCES: Readonly<Record<Exclude<TroubleKind, 'document' | 'failed'>, (where: string) => string>> = {
  'in-use': where => `Another Mindpath already serves the data folder ${where}. Use that one, or start this one with another folder: --data DIR.`,
  'locked': where => `The database ${where} is locked by another program. Close that program; Mindpath goes on by itself then.`,
  'read-only': where => `The data folder ${where} cannot be written to, so nothing can be saved. Make it writable, or start with another folder: --data DIR.`,
  'full': where => `The disk that holds ${where} is full, so nothing can be saved. Free some space; Mindpath goes on by itself then.`,
  'newer': where => `The database ${where} comes from a newer version of Mindpath and was not touched. Start that version, or use another folder: --data DIR.`,
  'no-folder': where => `${where} is not a folder that data can be kept in. Start with another folder: --data DIR.`,
  'damaged': where => `The database ${where} is damaged. Start Mindpath again: it puts a damaged file aside and begins a new one.`,
}

export function trouble(kind: keyof typeof SENTENCES, where: string): StoreTrouble {
  return new StoreTrouble(kind, SENTENCES[kind](where))
}

/** The trouble behind an error of the database's driver or of the file system; null when it is another kind of error. */
export function troubleOf(error: unknown, where: string): StoreTrouble | null {
  if (error instanceof StoreTrouble) return error
  const { code = '', message = '' } = (error ?? {}) as { code?: string, message?: string }
  if (/^SQLITE_(BUSY|LOCKED)/.test(code)) return trouble('locked', where)
  if (/^SQLITE_FULL/.test(code) || code === 'ENOSPC' || code === 'EDQUOT' || code === 'SQLITE_IOERR_WRITE' || code === 'SQLITE_IOERR_SHMSIZE') return trouble('full', where)
  if (/^SQLITE_(READONLY|CANTOPEN|PERM|AUTH)/.test(code) || ['EACCES', 'EPERM', 'EROFS'].includes(code)) return trouble('read-only', where)
  if (['ENOTDIR', 'EEXIST', 'EISDIR', 'ENOENT', 'ELOOP', 'ENAMETOOLONG'].includes(code)) return trouble('no-folder', where)
  // A commit that finds no room rolls back by itself; what is heard is that there is nothing left to roll back.
  if (message.includes('no transaction is active') && freeBytes(where) < ROOM) return trouble('full', where)
  if (/^SQLITE_(CORRUPT|NOTADB)/.test(code)) return trouble('damaged', where)
  if (code.startsWith('SQLITE_')) return new StoreTrouble('failed', `The database ${where} failed: ${message}.`)
  return null
}

/** A disk with less room than this counts as full, bytes: the largest save and its journal. */
const ROOM = 16_000_000

function freeBytes(where: string): number {
  try {
    const { bavail, bsize } = statfsSync(where)
    return bavail * bsize
  } catch {
    return Infinity
  }
}
