import { stat } from 'node:fs/promises'
import { boardsFor, drivenBoard, ownBoard, readBoard, unbuildable, wiringOn, type Board } from '../core/hardware'
import type { Robot, Wiring } from '../core/robot'
import { readJson } from './files'
import { UsageError } from './usage'

/** A board that is known by name or comes with the robot, or that a file holds; a usage error where there is none. */
export async function boardOf(called: string, robot: Robot): Promise<Board> {
  const known = boardsFor(robot).find(b => b.name === called)
  if (known !== undefined) return known
  const own = ownBoard(robot)
  if (own?.ok === false && called === robot.wiring?.board) throw new UsageError(own.problems.map(p => `${robot.name}: ${p.path}: found ${p.value}; ${p.message}`).join('\n'))
  if (!await stat(called).then(() => true, () => false)) throw new UsageError(`--board is ${called}; known are ${boardsFor(robot).map(b => b.name).join(', ')}, and there is no file of that name`)
  const read = readBoard(await readJson(called))
  if (!read.ok) throw new UsageError(read.problems.map(p => `${called}: ${p.path}: found ${p.value}; ${p.message}`).join('\n'))
  return read.value
}

/** A robot on a board that speaks Firmata: as it is wired there. A usage error where the board does not, or what is connected cannot be built; `path` is the robot's. */
export async function onFirmata(robot: Robot, path: string, called: string | undefined): Promise<{ readonly board: Board, readonly wiring: Wiring }> {
  const board = called === undefined ? drivenBoard(robot) : await boardOf(called, robot)
  if (board.language !== 'firmata') throw new UsageError(`--board is ${board.name}, which does not speak Firmata; allowed is ${boardsFor(robot).filter(b => b.language === 'firmata').map(b => b.name).join(', ')}, or the file of another that does`)
  const { wiring } = wiringOn(robot, board)
  const wrong = unbuildable(robot, board, wiring)
  if (wrong.length > 0) throw new UsageError(wrong.map(p => `${path}: ${p.path}: found ${p.value}; ${p.message}`).join('\n'))
  return { board, wiring }
}
