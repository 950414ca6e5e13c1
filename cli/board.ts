import { stat } from 'node:fs/promises'
import { BOARDS, readBoard, type Board } from '../core/hardware'
import { readJson } from './files'
import { UsageError } from './usage'

/** A board that is known by name, or that a file holds; a usage error where there is none. */
export async function boardOf(called: string): Promise<Board> {
  const known = BOARDS.find(b => b.name === called)
  if (known !== undefined) return known
  if (!await stat(called).then(() => true, () => false)) throw new UsageError(`--board is ${called}; known are ${BOARDS.map(b => b.name).join(', ')}, and there is no file of that name`)
  const read = readBoard(await readJson(called))
  if (!read.ok) throw new UsageError(read.problems.map(p => `${called}: ${p.path}: found ${p.value}; ${p.message}`).join('\n'))
  return read.value
}
