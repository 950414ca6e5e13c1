import { strToU8, zipSync } from 'fflate'

/** Zips hold a time: the earliest that they can, so that the same files make the same bytes. */
const EPOCH = '1980-01-01T00:00:00'

/** Files as one zip, by their names. */
export const zipOf = (files: Readonly<Record<string, string>>): Uint8Array<ArrayBuffer> =>
  zipSync(Object.fromEntries(Object.entries(files).map(([name, text]) => [name, strToU8(text)])), { mtime: EPOCH }) as Uint8Array<ArrayBuffer>
