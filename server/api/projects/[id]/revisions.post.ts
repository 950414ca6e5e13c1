import { createError } from 'h3'
import { mixed, object, type Schema } from 'yup'
import { plainNumber, text } from '../../../../core/document'
import { readRobot } from '../../../../core/robot'
import { answer, idOf, impossibleRobot, notFound, readBodyOf } from '../../../utils/request'

const schema = object({
  base: plainNumber().integer().min(1).required(),
  program: text().max(400_000).defined(),
  // Read by the robot's own schema below.
  robot: mixed(),
}).noUnknown() as Schema<{ base: number, program: string, robot?: unknown }>

/** Saves a program, and a robot when one is given, on top of a revision; 409 with the current number when another save came first. */
export default answer(async (event, { projects }) => {
  const { base, program, robot } = await readBodyOf(event, schema)
  const read = robot === undefined ? null : readRobot(robot)
  if (read !== null && !read.ok) throw impossibleRobot(read.problems)
  const saved = await projects.save(idOf(event), base, robot === undefined ? { program } : { program, robot })
  if (saved === null) throw notFound()
  if (!saved.saved) throw createError({ statusCode: 409, statusMessage: 'another save came first', data: { current: saved.current } })
  return saved
})
