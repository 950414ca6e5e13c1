import type { Command } from 'commander'
import { checkProgram, placeOf } from '../core/language'
import { factsOf } from '../core/robot'
import { readText } from './files'
import { robotOf } from './robot'
import type { Exit } from './usage'

/** Prints what is to be said about a program. 1 when there are errors. */
export function addCheck(program: Command, exit: Exit): void {
  program.command('check').description('What is to be said about a program.')
    .argument('<file>', 'a program').option('--robot <file>', 'the robot that it is for; limpet where it is left out').option('--json', 'as one line of JSON')
    .action(async (path: string, options: { readonly robot?: string, readonly json?: true }) => { exit.code = await check(path, options) })
}

async function check(path: string, options: { readonly robot?: string, readonly json?: true }): Promise<number> {
  const robot = await robotOf(options.robot)
  const text = await readText(path)
  const { diagnostics } = checkProgram(text, factsOf(robot))
  const list = diagnostics.map(d => ({
    code: d.code, severity: d.severity, ...placeOf(text, d.range.from), message: d.message, fix: d.fix?.title ?? null,
  }))
  if (options.json === true) process.stdout.write(`${JSON.stringify(list)}\n`)
  else {
    for (const d of list) process.stdout.write(`${path}:${d.line}:${d.column}: ${d.severity} (${d.code}): ${d.message}${d.fix === null ? '' : ` [${d.fix}]`}\n`)
    if (list.length === 0) process.stdout.write(`${path}: nothing to say\n`)
  }
  return list.some(d => d.severity === 'error') ? 1 : 0
}
