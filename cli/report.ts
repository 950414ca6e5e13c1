import type { Command } from 'commander'
import { writeFile } from 'node:fs/promises'
import { basename } from 'node:path'
import { LAST_SEED } from '../core/random'
import { reportSays, runReport } from '../core/runs/report'
import { readBytes } from './files'
import { errorLines, problemLines, readFolder } from './project'
import { UsageError, numberFrom, type Exit } from './usage'

interface Options { readonly program?: string, readonly seed: number, readonly keep?: string, readonly json?: true }

/** What a board reported over its serial line, as a run. 0 when the board did what is done here with the same readings, 1 when not, 2 when it cannot be read. */
export function addReport(program: Command, exit: Exit): void {
  program.command('report').description('What a board with a project\u2019s program reported over its serial line, as a run to look at; and where it did something else than is done here (docs/hardware.md).')
    .argument('<project>', 'a folder, such as demo/projects/kiss-the-fender, or a zip of one').argument('<lines>', 'what was said on the serial line, a text')
    .option('--program <file>', 'another program than its own, of the project or by its path')
    .option('--seed <n>', 'what the program draws by, as it was exported', numberFrom(0, LAST_SEED, true), 1)
    .option('--keep <file>', 'where the run is kept with its tape, NAME.mindrun: for replay, compare, why and the page').option('--json', 'as data, in one line')
    .action(async (project: string, lines: string, options: Options) => { exit.code = await report(project, lines, options) })
}

async function report(path: string, lines: string, { program, seed, keep, json }: Options): Promise<number> {
  const folder = await readFolder(path, program)
  const text = (await readBytes(lines)).toString('utf8')
  const run = await runReport(basename(path), { ...folder.documents, program: folder.program, realism: 'ideal', seed, limit: null }, text)
  if (!run.ok) {
    const own = run.problems.filter(p => p.document === 'run')
    if (own.length > 0) throw new UsageError(own.map(p => `${lines}: ${p.path}: found ${p.value}; ${p.message}`).join('\n'))
    throw new UsageError(run.problems.length > 0 ? problemLines(run.problems, folder.pathOf) : `the program cannot run\n${errorLines(folder.programPath, folder.program, run.diagnostics)}`)
  }
  if (keep !== undefined) await writeFile(keep, run.file)
  const { report: { ticks, lost, late }, differs } = run
  process.stdout.write(json === true ? `${JSON.stringify({ from: ticks[0]!.tick, ticks: ticks.length, lost, late, differs })}\n` : `${reportSays(run).join('\n')}\n`)
  return differs === null ? 0 : 1
}
