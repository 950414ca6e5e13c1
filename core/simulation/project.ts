import { object } from 'yup'
import { readArena, type Arena } from '../arena'
import { documentText, plainNumber, readDocument, text, type Problem, type Read } from '../document'
import { readRobot, type Robot } from '../robot'
import { readTask, type Task } from '../task'

export const PROJECT_VERSION = 1

/** The documents of a project, as they came in. */
export interface ProjectDocuments {
  readonly robot: unknown
  readonly arena: unknown
  readonly task: unknown
}

/** A project whose robot, arena and task can exist. */
export interface ProjectParts {
  readonly robot: Robot
  readonly arena: Arena
  readonly task: Task | null
}

export type ProblemIn = Problem & { readonly document: 'robot' | 'arena' | 'task' | 'project' | 'run' }

/** Reads a project's documents; all problems of all of them at once. */
export function readProject(documents: ProjectDocuments): { readonly ok: true, readonly value: ProjectParts } | { readonly ok: false, readonly problems: readonly ProblemIn[] } {
  const robot = readRobot(documents.robot)
  const arena = readArena(documents.arena)
  const task: Read<Task | null> = documents.task === null || documents.task === undefined ? { ok: true, value: null }
    : arena.ok ? readTask(documents.task, arena.value) : { ok: true, value: null }
  const of = (document: ProblemIn['document'], read: Read<unknown>) => read.ok ? [] : read.problems.map(p => ({ ...p, document }))
  if (robot.ok && task.ok && task.value !== null) {
    const missing = strangers(task.value, robot.value)
    if (missing.length > 0) return { ok: false, problems: [...of('arena', arena), ...missing] }
  }
  if (robot.ok && arena.ok && task.ok) return { ok: true, value: { robot: robot.value, arena: arena.value, task: task.value } }
  return { ok: false, problems: [...of('robot', robot), ...of('arena', arena), ...of('task', task)] }
}

/** Devices that the goals name and the robot has not. */
function strangers(task: Task, robot: Robot): readonly ProblemIn[] {
  const has = robot.devices.map(d => d.name)
  return task.goals.flatMap(({ kind, parameters }, i) => (kind.devices?.(parameters) ?? []).filter(d => !has.includes(d))
    .map(d => ({ document: 'task' as const, path: `goals[${i}]`, value: JSON.stringify(d), message: `the robot ${robot.name} has no such device; it has ${has.join(', ')}` })))
}

export const projectFileSchema = object({
  mindpath: text().oneOf(['project'], 'expected "project": this is another kind of document').required(),
  version: plainNumber().oneOf([PROJECT_VERSION], `allowed is ${PROJECT_VERSION}`).required(),
  title: documentText(80).required(),
  robot: text().required(),
  arena: text().required(),
  task: text(),
  program: text().default('program.mindpath'),
}).noUnknown().required()

/** What `project.json` says: the title, and the paths of its documents from its own folder. */
export interface ProjectFile {
  readonly title: string
  readonly robot: string
  readonly arena: string
  readonly task?: string
  readonly program: string
}

export function readProjectFile(value: unknown): Read<ProjectFile> {
  return readDocument<ProjectFile>(projectFileSchema, value)
}
