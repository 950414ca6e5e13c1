import { readFile } from 'node:fs/promises'
import { UsageError } from './usage'

/** A file's text; a usage error that names the file when it cannot be read. */
export async function readText(path: string): Promise<string> {
  try {
    return await readFile(path, 'utf8')
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code
    throw new UsageError(`cannot read ${path}: ${code === 'ENOENT' ? 'there is no such file' : code === 'EISDIR' ? 'it is a folder' : (error as Error).message}`)
  }
}

/** A JSON file's value; a usage error that names the file and place when it is none. */
export async function readJson(path: string): Promise<unknown> {
  const text = await readText(path)
  try {
    return JSON.parse(text) as unknown
  } catch (error) {
    throw new UsageError(`${path} is not JSON: ${(error as Error).message}`)
  }
}
