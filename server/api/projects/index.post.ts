import { object, type Schema } from 'yup'
import { text } from '../../../core/document'
import { readDemo } from '../../database/demo'
import { answer, notFound, readBodyOf } from '../../utils/request'

/** The demo project whose robot and arena a new one begins with. */
const FIRST = 'Kiss the fender'

const schema = object({ title: text().max(80), from: text() }).noUnknown() as Schema<{ title?: string, from?: string }>

/** A new project: a copy of another, or an empty program on a plain rover before a fender. */
export default answer(async (event, { projects }) => {
  const { title, from } = await readBodyOf(event, schema)
  if (from !== undefined) {
    const source = await projects.find(from)
    if (source === null) throw notFound()
    return { id: await projects.create(title ?? `${source.title}, copy`, source, source.program) }
  }
  const demos = await readDemo()
  const { robot, arena } = demos.find(d => d.title === FIRST) ?? demos[0]!
  return { id: await projects.create(title ?? 'New project', { robot, arena, task: null }, '') }
})
