import { checkProgram, placeOf } from '../core/language'
import { factsOf } from '../core/robot'
import { readText } from './files'
import { robotOf } from './robot'
import { readOptions, UsageError } from './usage'

export const CHECK_USAGE = 'mindpath check FILE [--robot FILE] [--json]'

/** Prints what is to be said about a program. 1 when there are errors. */
export async function checkCommand(args: readonly string[]): Promise<number> {
  const options = readOptions(args, { flags: ['--json'], values: ['--robot'] }, CHECK_USAGE)
  const path = options.positional[0]
  if (path === undefined || options.positional.length > 1) throw new UsageError(`expected one file. Usage: ${CHECK_USAGE}`)
  const robot = await robotOf(options.values.get('--robot'))
  const text = await readText(path)
  const { diagnostics } = checkProgram(text, factsOf(robot))
  const list = diagnostics.map(d => ({
    code: d.code, severity: d.severity, ...placeOf(text, d.range.from), message: d.message, fix: d.fix?.title ?? null,
  }))
  if (options.flags.has('--json')) process.stdout.write(`${JSON.stringify(list)}\n`)
  else {
    for (const d of list) process.stdout.write(`${path}:${d.line}:${d.column}: ${d.severity} (${d.code}): ${d.message}${d.fix === null ? '' : ` [${d.fix}]`}\n`)
    if (list.length === 0) process.stdout.write(`${path}: nothing to say\n`)
  }
  return list.some(d => d.severity === 'error') ? 1 : 0
}
