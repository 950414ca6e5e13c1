import type { Command } from 'commander'
import { stat } from 'node:fs/promises'
import { checkProgram, compileProgram } from '../core/language'
import { factsOf } from '../core/robot'
import { readText } from './files'
import { errorLines, readFolder } from './project'
import { robotOf } from './robot'
import { UsageError } from './usage'

interface Options { readonly robot?: string, readonly json?: true }

/** Prints the intermediate program (docs/program-format.md): with --json in one line, else set out for reading. 2 when it cannot run. */
export function addCompile(program: Command): void {
  program.command('compile').description('A program as plain data (docs/program-format.md).')
    .argument('<project or file>', 'a folder or zip of a project, or a program').option('--robot <file>', 'the robot that it is for; that of the project, or limpet').option('--json', 'in one line')
    .action(compile)
}

async function compile(path: string, options: Options): Promise<void> {
  const isProject = path.endsWith('.zip') || await stat(path).then(s => s.isDirectory(), () => false)
  const folder = isProject ? await readFolder(path) : null
  const robot = await robotOf(options.robot, folder)
  const text = folder?.program ?? await readText(path)
  const { runs, diagnostics, analysis } = checkProgram(text, factsOf(robot))
  if (!runs) throw new UsageError(`the program cannot run\n${errorLines(folder?.programPath ?? path, text, diagnostics)}`)
  process.stdout.write(`${JSON.stringify(compileProgram(analysis), null, options.json === true ? 0 : 2)}\n`)
}
