import { createError } from 'h3'
import { mixed, object, type Schema } from 'yup'
import { plainNumber, text } from '../../../../core/document'
import { readProject } from '../../../../core/simulation'
import { answer, idOf, notFound, readBodyOf } from '../../../utils/request'

const schema = object({
  base: plainNumber().integer().min(1).required(),
  program: text().max(400_000).defined(),
  // Read by their own schemas below. A task may be null: none is set.
  robot: mixed(), arena: mixed(), task: mixed().nullable(),
}).noUnknown() as Schema<{ base: number, program: string, robot?: unknown, arena?: unknown, task?: unknown }>

/** Saves a program, and the documents that are given, on top of a revision; 409 with the current number when another save came first. */
export default answer(async (event, { projects }) => {
  const { base, ...change } = await readBodyOf(event, schema)
  const id = idOf(event)
  if (change.robot !== undefined || change.arena !== undefined || change.task !== undefined) {
    // What is saved must go together with what stays.
    const now = await projects.find(id)
    if (now === null) throw notFound()
    const { robot = now.robot, arena = now.arena, task = now.task } = change
    const read = readProject({ robot, arena, task })
    // What was wrong before is no reason to refuse what is right now.
    const problems = read.ok ? [] : read.problems.filter(({ document }) => change[document as 'robot'] !== undefined || (document === 'task' && change.arena !== undefined))
    if (problems.length > 0) throw createError({ statusCode: 400, statusMessage: 'the project cannot be built', data: { problems } })
  }
  const saved = await projects.save(id, base, change)
  if (saved === null) throw notFound()
  if (!saved.saved) throw createError({ statusCode: 409, statusMessage: 'another save came first', data: { current: saved.current } })
  return saved
})
