import { createError } from 'h3'
import { mixed, object, type Schema } from 'yup'
import { documentText, text } from '../../../core/document'
import { readProject, type TravellingProject } from '../../../core/simulation'
import { firstDemo } from '../../database/demo'
import { answer, notFound, readBodyOf } from '../../utils/request'

const documentId = () => text().matches(/^[0-9a-f]{64}$/, 'expected the id of a kept document')

const schema = object({
  title: text().max(80), from: text(),
  start: object({ robot: documentId().required(), arena: documentId().required(), task: documentId().nullable().default(null) }).noUnknown().default(undefined),
  project: object({
    title: documentText(80).required(), program: text().max(400_000).defined(),
    // Read by their own schemas below.
    robot: mixed(), arena: mixed(), task: mixed().nullable(),
  }).noUnknown().default(undefined),
}).noUnknown() as Schema<{ title?: string, from?: string, start?: { robot: string, arena: string, task: string | null }, project?: TravellingProject }>

/** A new project: one that came from elsewhere, a copy of another, or an empty program on documents that are kept, else on a plain rover before a fender. */
export default answer(async (event, { projects, documents }) => {
  const { title, from, start, project } = await readBodyOf(event, schema)
  if (project !== undefined) {
    const read = readProject(project)
    if (!read.ok) throw createError({ statusCode: 400, statusMessage: 'the project cannot be built', data: { problems: read.problems } })
    const { robot, arena, task } = project
    return { id: await projects.create(title ?? project.title, { robot, arena, task: task ?? null }, project.program) }
  }
  if (from !== undefined) {
    const source = await projects.find(from)
    if (source === null) throw notFound()
    return { id: await projects.create(title ?? `${source.title}, copy`, source, source.program) }
  }
  if (start !== undefined) {
    const [robot, arena, task] = await Promise.all([documents(start.robot), documents(start.arena), start.task === null ? null : documents(start.task)])
    const read = readProject({ robot, arena, task })
    if (!read.ok) throw createError({ statusCode: 400, statusMessage: 'these do not go together', data: { problems: read.problems } })
    return { id: await projects.create(title ?? 'New project', { robot, arena, task }, '') }
  }
  const { robot, arena } = await firstDemo()
  return { id: await projects.create(title ?? 'New project', { robot, arena, task: null }, '') }
})
