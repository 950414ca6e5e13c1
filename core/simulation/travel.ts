import { strFromU8, unzipSync } from 'fflate'
import { zipOf } from '../zip'
import { PROJECT_VERSION, readProjectFile, type ProjectDocuments } from './project'

/** A whole project as it goes from one machine to another: a folder of files, or a zip of it. */
export interface TravellingProject extends ProjectDocuments {
  readonly title: string
  readonly program: string
}

/** What is wrong with a file of a project that came in. */
export interface FileProblem { readonly file: string, readonly message: string }
export type Unpacked = { readonly ok: true, readonly value: TravellingProject } | { readonly ok: false, readonly problems: readonly FileProblem[] }

/** The largest that a project may be unpacked, bytes, and in how many files. */
export const LARGEST_PROJECT = 8_000_000
const MOST_FILES = 60

const json = (value: unknown): string => `${JSON.stringify(value, null, 2)}\n`

/** The files of a project's folder, by name: as `./mindpath sim FOLDER` reads them. */
export function filesOf({ title, program, robot, arena, task }: TravellingProject): Readonly<Record<string, string>> {
  const has = task !== null && task !== undefined
  return {
    'project.json': json({ mindpath: 'project', version: PROJECT_VERSION, title, robot: 'robot.json', arena: 'arena.json', ...has ? { task: 'task.json' } : {} }),
    'program.mindpath': program, 'robot.json': json(robot), 'arena.json': json(arena), ...has ? { 'task.json': json(task) } : {},
  }
}

/** The project of a folder's files; documents are as they were written, whether a robot can be built of them or not. */
export function projectOf(files: Readonly<Record<string, string>>): Unpacked {
  const list = Object.keys(files).filter(f => f === 'project.json' || f.endsWith('/project.json')).sort((a, b) => a.length - b.length)[0]
  if (list === undefined) return { ok: false, problems: [{ file: 'project.json', message: 'there is no such file: this is no project' }] }
  const folder = list.split('/').slice(0, -1)
  const problems: FileProblem[] = []
  const text = (path: string): string | null => {
    const at = resolved([...folder, ...path.split('/')])
    const found = at === null || !Object.hasOwn(files, at) ? null : files[at]!
    if (found === null) problems.push({ file: path, message: 'there is no such file beside project.json' })
    return found
  }
  const parsed = (path: string): unknown => {
    const found = text(path)
    if (found === null) return null
    try {
      return JSON.parse(found) as unknown
    } catch (error) {
      problems.push({ file: path, message: `it is not JSON: ${(error as Error).message}` })
      return null
    }
  }
  const read = readProjectFile(parsed(folder.length === 0 ? list : 'project.json'))
  if (problems.length > 0) return { ok: false, problems }
  if (!read.ok) return { ok: false, problems: read.problems.map(p => ({ file: 'project.json', message: `${p.path}: found ${p.value}; ${p.message}` })) }
  const { title, robot, arena, task, program } = read.value
  const value = { title, robot: parsed(robot), arena: parsed(arena), task: task === undefined ? null : parsed(task), program: text(program) ?? '' }
  return problems.length > 0 ? { ok: false, problems } : { ok: true, value }
}

/** A path without `.` and `..`; null where it leaves the whole. */
function resolved(parts: readonly string[]): string | null {
  const path: string[] = []
  for (const part of parts) {
    if (part === '..') { if (path.pop() === undefined) return null } else if (part !== '.' && part !== '') path.push(part)
  }
  return path.join('/')
}

/** A project as a zip. */
export function pack(project: TravellingProject): Uint8Array<ArrayBuffer> {
  return zipOf(filesOf(project))
}

/** The project of a zip; why there is none. Whatever the bytes are, it neither throws nor unpacks more than it may. */
export function unpack(bytes: Uint8Array): Unpacked {
  const refused = (message: string): Unpacked => ({ ok: false, problems: [{ file: 'the zip', message }] })
  let size = 0
  let count = 0
  try {
    const files = unzipSync(bytes, {
      filter: ({ name, originalSize }) => {
        if (name.endsWith('/')) return false
        size += originalSize
        count++
        if (size > LARGEST_PROJECT || count > MOST_FILES) throw new RangeError()
        return true
      },
    })
    const texts = Object.fromEntries(Object.entries(files).map(([name, content]) => [name, strFromU8(content)]))
    const odd = Object.entries(texts).find(([name, text]) => /\.(json|mindpath)$/.test(name) && /[\0\uFFFD]/.test(text))
    if (odd !== undefined) return { ok: false, problems: [{ file: odd[0], message: 'it is no text' }] }
    return projectOf(texts)
  } catch (error) {
    return refused(error instanceof RangeError ? `it is larger than a project may be: at most ${LARGEST_PROJECT / 1e6} MB in ${MOST_FILES} files` : 'it cannot be read as a zip')
  }
}
