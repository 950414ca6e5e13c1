import { mixed, object, type Schema } from 'yup'
import { readArena } from '../../../../core/arena'
import type { Read } from '../../../../core/document'
import { readRobot } from '../../../../core/robot'
import { readTask } from '../../../../core/task'
import type { Shelved } from '../../../database/shelf'
import { answer, impossible, kindOf, readBodyOf } from '../../../utils/request'

const schema = object({ value: mixed().required() }).noUnknown() as Schema<{ value: unknown }>

/** What each kind must be. A task is kept for any arena: what its goals name is looked for where it is taken. */
const READERS: Readonly<Record<Shelved, (value: unknown) => Read<unknown>>> = { robot: readRobot, arena: readArena, task: value => readTask(value, null) }

/** Keeps a document for any project to take; one that cannot be is refused with what is wrong. */
export default answer(async (event, { shelf }) => {
  const kind = kindOf(event)
  const { value } = await readBodyOf(event, schema)
  const read = READERS[kind](value)
  if (!read.ok) throw impossible(kind, read.problems)
  return { id: await shelf.add(kind, value) }
})
