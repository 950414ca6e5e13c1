import { writeFile } from 'node:fs/promises'
import { STEP_FORMS } from '../core/devices'
import { formatProgram, parseProgram, placeOf } from '../core/language'
import { readText } from './files'
import { readOptions, UsageError } from './usage'

export const FORMAT_USAGE = 'mindpath format FILE'

/** Puts a program into its canonical form, in place. A program that cannot be read stays as it is. */
export async function formatCommand(args: readonly string[]): Promise<number> {
  const options = readOptions(args, { flags: [], values: [] }, FORMAT_USAGE)
  const path = options.positional[0]
  if (path === undefined || options.positional.length > 1) throw new UsageError(`expected one file. Usage: ${FORMAT_USAGE}`)
  const text = await readText(path)
  const parsed = parseProgram(text, STEP_FORMS)
  if (parsed.diagnostics.length > 0) {
    for (const d of parsed.diagnostics) {
      const { line, column } = placeOf(text, d.range.from)
      process.stderr.write(`${path}:${line}:${column}: ${d.message}\n`)
    }
    return 1
  }
  const formatted = formatProgram(parsed.tree, STEP_FORMS)
  if (formatted !== text) await writeFile(path, formatted)
  return 0
}
