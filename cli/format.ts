import type { Command } from 'commander'
import { writeFile } from 'node:fs/promises'
import { STEP_FORMS } from '../core/devices'
import { formatProgram, parseProgram, placeOf } from '../core/language'
import { readText } from './files'
import type { Exit } from './usage'

/** Puts a program into its canonical form, in place. A program that cannot be read stays as it is: 1. */
export function addFormat(program: Command, exit: Exit): void {
  program.command('format').description('Puts a program into its canonical form.').argument('<file>', 'a program')
    .action(async (path: string) => { exit.code = await format(path) })
}

async function format(path: string): Promise<number> {
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
