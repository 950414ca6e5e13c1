import { readRobot, type Robot } from '../core/robot'
import limpet from '../demo/robots/limpet.json'
import { readJson } from './files'
import type { Folder } from './project'
import { UsageError } from './usage'

/** The robot of `--robot FILE`, else of the project, else the demo robot limpet; a usage error that names file, place, value and what is allowed. */
export async function robotOf(path: string | undefined, project: Folder | null = null): Promise<Robot> {
  const robot = readRobot(path !== undefined ? await readJson(path) : project !== null ? project.documents.robot : limpet)
  if (!robot.ok) throw new UsageError(robot.problems.map(p => `${path ?? project?.pathOf('robot')}: ${p.path}: found ${p.value}; ${p.message}`).join('\n'))
  return robot.value
}
