import { createError } from 'h3'
import { mixed, object, type Schema } from 'yup'
import { documentText, text } from '../../../core/document'
import { readProject, type TravellingProject } from '../../../core/simulation'
import { readDemo } from '../../database/demo'
import { answer, notFound, readBodyOf } from '../../utils/request'

/** The demo project whose robot and arena a new one begins with. */
const FIRST = 'Kiss the fender'

const schema = object({
  title: text().max(80), from: text(),
  project: object({
    title: documentText(80).required(), program: text().max(400_000).defined(),
    // Read by their own schemas below.
    robot: mixed(), arena: mixed(), task: mixed().nullable(),
  }).noUnknown().default(undefined),
}).noUnknown() as Schema<{ title?: string, from?: string, project?: TravellingProject }>

/** A new project: one that came from elsewhere, a copy of another, or an empty program on a plain rover before a fender. */
export default answer(async (event, { projects }) => {
  const { title, from, project } = await readBodyOf(event, schema)
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
  const demos = await readDemo()
  const { robot, arena } = demos.find(d => d.title === FIRST) ?? demos[0]!
  return { id: await projects.create(title ?? 'New project', { robot, arena, task: null }, '') }
})
