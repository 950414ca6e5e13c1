import { readFile } from 'node:fs/promises'
import { UsageError } from './usage'

/** A file's bytes; a usage error that names the file when it cannot be read. */
export async function readBytes(path: string): Promise<Buffer> {
  try {
    return await readFile(path)
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code
    throw new UsageError(`cannot read ${path}: ${code === 'ENOENT' ? 'there is no such file' : code === 'EISDIR' ? 'it is a folder' : (error as Error).message}`)
  }
}

/** A file's text; a usage error as of `readBytes`. */
export const readText = async (path: string): Promise<string> => (await readBytes(path)).toString('utf8')

/** A JSON file's value; a usage error that names the file and place when it is none. */
export const readJson = async (path: string): Promise<unknown> => jsonOf(path, await readText(path))

/** What a text says as JSON; a usage error that names the file that it came from when it is none. */
export function jsonOf(path: string, text: string): unknown {
  try {
    return JSON.parse(text) as unknown
  } catch (error) {
    throw new UsageError(`${path} is not JSON: ${(error as Error).message}`)
  }
}
