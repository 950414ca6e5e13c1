import { Option, type Command } from 'commander'
import { mkdir, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { CARRIED, exportTo, lineText, type Carried } from '../core/export'
import { BOARDS, boardsFor, wiringOn } from '../core/hardware'
import { LAST_SEED } from '../core/random'
import { zipOf } from '../core/zip'
import { boardOf } from './board'
import { errorLines, readFolder } from './project'
import { robotOf } from './robot'
import { UsageError, numberFrom } from './usage'

interface Options { readonly to: Carried, readonly out: string, readonly board?: string, readonly program?: string, readonly seed?: number }

/** Writes a project's program as source for a board, with all that it needs there (docs/hardware.md). 2 where it cannot be carried. */
export function addExport(program: Command): void {
  program.command('export').description('A program as readable source for a board (docs/hardware.md).').argument('<project>', 'a folder, such as demo/projects/night-rounds, or a zip of one')
    .addOption(new Option('--to <language>', 'what the board is programmed in').choices(CARRIED).makeOptionMandatory())
    .requiredOption('--out <folder or zip>', 'where it goes; a name that ends in .zip becomes one')
    .option('--board <name or file>', `the board: ${BOARDS.filter(b => b.language !== 'firmata').map(b => `${b.name} (${b.language})`).join(', ')}, or the file of another; that of the robot, or the first`)
    .option('--program <file>', 'another program in place of the project’s own').option('--seed <n>', 'what it draws random numbers by', numberFrom(0, LAST_SEED, true))
    .action(exportProject)
}

async function exportProject(path: string, options: Options): Promise<void> {
  const folder = await readFolder(path, options.program)
  const robot = await robotOf(undefined, folder)
  const fitting = boardsFor(robot).filter(b => b.language === options.to)
  const own = fitting.find(b => b.name === robot.wiring?.board)
  const board = options.board === undefined ? own ?? fitting[0]! : await boardOf(options.board, robot)
  if (board.language !== options.to) throw new UsageError(`--board is ${board.name}, which is programmed in ${board.language}; allowed with --to ${options.to} is ${fitting.map(b => b.name).join(', ')}, or the file of another such board`)
  const { wiring } = wiringOn(robot, board)
  const made = exportTo(options.to, { text: folder.program, robot, board, wiring, seed: options.seed ?? 1 })
  if (!made.ok) throw new UsageError(made.diagnostics.length > 0 ? `${made.says}\n${errorLines(folder.programPath, folder.program, made.diagnostics)}` : `${path} cannot be carried to ${board.name}: ${made.says}`)
  const files = Object.entries(made.files)
  if (options.out.endsWith('.zip')) await writeFile(options.out, zipOf(made.files))
  else {
    for (const [name, text] of files) {
      await mkdir(dirname(join(options.out, name)), { recursive: true })
      await writeFile(join(options.out, name), text)
    }
  }
  process.stdout.write([
    `${robot.name} for ${board.name} is in ${options.out}: ${files.map(([name]) => name).join(', ')}`,
    ...made.needs.map(n => n.says),
    ...made.differs.map(d => `${d.absent ? 'not there' : 'differs'}: ${d.device} (${lineText(d.lines)}), ${d.says}`),
  ].join('\n') + '\n')
}
