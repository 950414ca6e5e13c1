import { readRobot, type Robot } from '../core/robot'
import limpet from '../demo/robots/limpet.json'
import { readJson } from './files'
import { UsageError } from './usage'

/** The robot of `--robot FILE`, else the demo robot limpet; a usage error that names file, place, value and what is allowed. */
export async function robotOf(path: string | undefined): Promise<Robot> {
  const robot = readRobot(path === undefined ? limpet : await readJson(path))
  if (!robot.ok) throw new UsageError(robot.problems.map(p => `${path}: ${p.path}: found ${p.value}; ${p.message}`).join('\n'))
  return robot.value
}
