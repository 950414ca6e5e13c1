import { stat } from 'node:fs/promises'
import { checkProgram, compileProgram } from '../core/language'
import { factsOf } from '../core/robot'
import { readText } from './files'
import { errorLines, readFolder } from './project'
import { robotOf } from './robot'
import { readOptions, UsageError } from './usage'

export const COMPILE_USAGE = 'mindpath compile PROJECT_FOLDER|FILE [--robot FILE] [--json]'

/** Prints the intermediate program (docs/program-format.md): with --json in one line, else set out for reading. 2 when it cannot run. */
export async function compileCommand(args: readonly string[]): Promise<number> {
  const options = readOptions(args, { flags: ['--json'], values: ['--robot'] }, COMPILE_USAGE)
  const path = options.positional[0]
  if (path === undefined || options.positional.length > 1) throw new UsageError(`expected one project folder or file. Usage: ${COMPILE_USAGE}`)
  const isFolder = await stat(path).then(s => s.isDirectory(), () => false)
  const folder = isFolder ? await readFolder(path) : null
  const robot = await robotOf(options.values.get('--robot') ?? folder?.pathOf('robot'))
  const text = folder?.program ?? await readText(path)
  const { runs, diagnostics, analysis } = checkProgram(text, factsOf(robot))
  if (!runs) throw new UsageError(`the program cannot run\n${errorLines(folder?.programPath ?? path, text, diagnostics)}`)
  process.stdout.write(`${JSON.stringify(compileProgram(analysis), null, options.flags.has('--json') ? 0 : 2)}\n`)
  return 0
}
