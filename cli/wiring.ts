import type { Command } from 'commander'
import { writeFile } from 'node:fs/promises'
import { BOARDS, checkWiring, wiredPorts, wiringOn, wiringPlan } from '../core/hardware'
import { readRobot } from '../core/robot'
import { boardOf } from './board'
import { readFolder } from './project'
import { UsageError, type Exit } from './usage'

interface Options { readonly board?: string, readonly svg?: string, readonly json?: true }

/** Prints how a project's robot is connected to a board: as its document says, or as would do where it says nothing of that board. 1 when it cannot be built so. */
export function addWiring(program: Command, exit: Exit): void {
  program.command('wiring').description('How a robot is connected to a board, and what is wrong with that (docs/hardware.md).').argument('<project>', 'a folder, such as demo/projects/night-rounds, or a zip of one')
    .option('--board <name or file>', `the board: ${BOARDS.map(b => b.name).join(', ')}, or the file of another`)
    .option('--svg <file>', 'also a plan to build from').option('--json', 'in one line')
    .action(async (project: string, options: Options) => { exit.code = await wiring(project, options) })
}

async function wiring(folder: string, options: Options): Promise<number> {
  const { documents } = await readFolder(folder)
  const read = readRobot(documents.robot)
  if (!read.ok) throw new UsageError(read.problems.map(p => `${folder}: ${p.path}: found ${p.value}; ${p.message}`).join('\n'))
  const robot = read.value
  const board = await boardOf(options.board ?? robot.wiring?.board ?? BOARDS[0]!.name, robot)
  const { wiring: chosen, leftOut, own } = wiringOn(robot, board)
  const problems = checkWiring(robot, board, chosen)
  if (options.svg !== undefined) await writeFile(options.svg, wiringPlan(robot, board, chosen))
  const wrong = problems.some(p => p.severity === 'error')
  if (options.json === true) {
    process.stdout.write(`${JSON.stringify({ board: board.name, own, wiring: chosen, leftOut, problems })}\n`)
    return wrong ? 1 : 0
  }
  const rows = wiredPorts(robot, board, chosen).flatMap(({ fitted, by, wires }) => by === null ? [] : wires.map((w, i) => [i === 0 ? fitted.port : '', i === 0 ? fitted.name : '', i === 0 ? by.name : '', w.line, w.pin, w.note]))
  const table = [['port', 'what', 'by', 'line', 'pin', ''], ...rows]
  const widths = table[0]!.map((_, c) => Math.max(...table.map(row => row[c]!.length)))
  process.stdout.write([
    `${robot.name} on ${board.name} (${board.chip}), ${own ? 'as the robot says' : 'as would do: the robot says nothing of this board'}`,
    ...table.map(row => row.map((cell, c) => cell.padEnd(widths[c]!)).join('  ').trimEnd()),
    ...problems.map(p => `${p.severity}: ${p.path}: found ${p.value}; ${p.message}`),
    ...options.svg === undefined ? [] : [`kept: ${options.svg}`],
  ].join('\n') + '\n')
  return wrong ? 1 : 0
}
