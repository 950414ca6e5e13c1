import { mixed, object, type Schema } from 'yup'
import { readRobot } from '../../../core/robot'
import { answer, impossibleRobot, readBodyOf } from '../../utils/request'

const schema = object({ robot: mixed().required() }).noUnknown() as Schema<{ robot: unknown }>

/** Keeps a robot for any project to take; one that cannot exist is refused with what is wrong. */
export default answer(async (event, { robots }) => {
  const { robot } = await readBodyOf(event, schema)
  const read = readRobot(robot)
  if (!read.ok) throw impossibleRobot(read.problems)
  return { id: await robots.add(robot) }
})
