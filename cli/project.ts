import { readFile, stat } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { readProjectFile, unpack, type ProblemIn, type ProjectDocuments } from '../core/simulation'
import { placeOf, type Diagnostic } from '../core/language'
import { readJson, readText } from './files'
import { UsageError } from './usage'

/** A project's folder as it stands: its documents, and its program's text with the path that it was read from. */
export interface Folder {
  readonly documents: ProjectDocuments
  readonly program: string
  readonly programPath: string
  /** The path of a document, for messages. */
  pathOf(document: ProblemIn['document']): string
}

/** Reads a project's folder, or a zip of one, its documents as they are; a usage error for what cannot be read. `program`: another text in place of its own. */
export async function readFolder(folder: string, program?: string): Promise<Folder> {
  if (await stat(folder).then(s => s.isFile(), () => false)) return readZip(folder, program)
  const list = join(folder, 'project.json')
  const file = readProjectFile(await readJson(list))
  if (!file.ok) throw new UsageError(file.problems.map(p => `${list}: ${p.path}: found ${p.value}; ${p.message}`).join('\n'))
  const { robot, arena, task } = file.value
  const at = (path: string): string => join(folder, path)
  const paths = { robot: at(robot), arena: at(arena), task: at(task ?? ''), project: dirname(folder), run: 'the run' }
  const documents = { robot: await readJson(paths.robot), arena: await readJson(paths.arena), task: task === undefined ? null : await readJson(paths.task) }
  const { path: programPath, text } = program === undefined ? { path: at(file.value.program), text: await readText(at(file.value.program)) } : await readProgram(program, folder)
  return { documents, program: text, programPath, pathOf: document => paths[document] }
}

/** A program's text, and the path that it was read from: as it was called, or else in the project's folder. A usage error where it is in neither. */
export async function readProgram(called: string, folder: string): Promise<{ readonly path: string, readonly text: string }> {
  for (const path of [called, join(folder, called)]) {
    if (await stat(path).then(() => true, () => false)) return { path, text: await readText(path) }
  }
  throw new UsageError(`cannot read ${called}: there is no such file, neither here nor in ${folder}`)
}

async function readZip(path: string, program: string | undefined): Promise<Folder> {
  const read = unpack(await readFile(path))
  if (!read.ok) throw new UsageError(read.problems.map(p => `${path}: ${p.file}: ${p.message}`).join('\n'))
  const { robot, arena, task, program: own } = read.value
  return {
    documents: { robot, arena, task }, program: program === undefined ? own : await readText(program),
    programPath: program ?? `${path}: the program`, pathOf: document => document === 'run' ? 'the run' : `${path}: ${document}`,
  }
}

export function problemLines(problems: readonly ProblemIn[], pathOf: Folder['pathOf']): string {
  return problems.map(p => `${pathOf(p.document)}: ${p.path}: found ${p.value}; ${p.message}`).join('\n')
}

/** Why a program cannot run, a line for each error. */
export function errorLines(path: string, text: string, diagnostics: readonly Diagnostic[]): string {
  return diagnostics.filter(d => d.severity === 'error').map((d) => {
    const { line, column } = placeOf(text, d.range.from)
    return `${path}:${line}:${column}: ${d.message}`
  }).join('\n')
}
