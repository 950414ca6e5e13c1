import { readdir, readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { readProjectFile } from '../../core/simulation'
import type { Documents, ProjectRepository } from './projects'
import type { Shelved, ShelfRepository } from './shelf'

export interface DemoProject extends Documents { readonly title: string, readonly program: string }

/** The folder with the demo documents, as they are in the repository. */
const FOLDER = process.env['MINDPATH_DEMO'] ?? 'demo'

/** The demo projects that one begins with, the easiest first. */
const EASIEST: readonly string[] = ['Kiss the fender', 'Night rounds']

/** The projects of Gull Quay: those that one begins with, then by the names of their folders. */
export async function readDemo(folder: string = FOLDER): Promise<readonly DemoProject[]> {
  const root = join(folder, 'projects')
  const names = (await readdir(root)).sort()
  const all = await Promise.all(names.map(async (name) => {
    const json = async (path: string): Promise<unknown> => JSON.parse(await readFile(join(root, name, path), 'utf8'))
    const file = readProjectFile(await json('project.json'))
    if (!file.ok) throw new Error(`demo project ${name}: ${file.problems.map(p => `${p.path}: ${p.message}`).join('; ')}`)
    const { title, robot, arena, task, program } = file.value
    return {
      title, robot: await json(robot), arena: await json(arena), task: task === undefined ? null : await json(task),
      program: await readFile(join(root, name, program), 'utf8'),
    }
  }))
  const rank = (title: string): number => EASIEST.includes(title) ? EASIEST.indexOf(title) : EASIEST.length
  return all.sort((a, b) => rank(a.title) - rank(b.title))
}

/** The robot and the arena that a project begins with where nobody chose. */
export const firstDemo = async (): Promise<DemoProject> => (await readDemo())[0]!

/** What a new data folder begins with; the first of the list was changed last, so that it is offered first. */
export async function loadDemo(projects: ProjectRepository): Promise<void> {
  for (const demo of [...await readDemo()].reverse()) await projects.create(demo.title, demo, demo.program)
}

/** The robots, arenas or tasks of Gull Quay, for any project to take. */
export async function loadShelf(shelf: ShelfRepository, kind: Shelved, folder: string = FOLDER): Promise<void> {
  const root = join(folder, `${kind}s`)
  for (const name of (await readdir(root)).sort()) await shelf.add(kind, JSON.parse(await readFile(join(root, name), 'utf8')))
}
