import { loadDemo, loadRobots } from '../database/demo'
import { openDatabase } from '../database/open'
import { ProjectRepository } from '../database/projects'
import { RobotRepository } from '../database/robots'

export interface Store {
  readonly projects: ProjectRepository
  readonly robots: RobotRepository
  /** Where a damaged database was put aside at this start; null when all was well. */
  readonly damaged: string | null
  close(): Promise<void>
}

let opened: Promise<Store> | null = null

/** The one store of this server, opened when first asked for. */
export function useStore(): Promise<Store> {
  opened ??= open()
  return opened
}

async function open(): Promise<Store> {
  const folder = process.env['MINDPATH_DATA'] ?? 'data'
  const { db, damaged, fresh } = await openDatabase(folder, () => new Date())
  const projects = new ProjectRepository(db, () => new Date())
  const robots = new RobotRepository(db, () => new Date())
  if (damaged !== null) process.stderr.write(`mindpath: the database was damaged and is kept as ${damaged}; a new one was begun\n`)
  if (fresh) await loadDemo(projects)
  if (await robots.neverHadAny()) await loadRobots(robots)
  return { projects, robots, damaged, close: () => db.destroy() }
}
