import { object, type Schema } from 'yup'
import { text } from '../../../core/document'
import { readDemo } from '../../database/demo'
import { notFound, readBodyOf } from '../../utils/request'
import { useStore } from '../../utils/store'

const schema = object({ title: text().max(80), from: text() }).noUnknown() as Schema<{ title?: string, from?: string }>

/** A new project: a copy of another, or an empty program on the robot and quay of the first demo project. */
export default defineEventHandler(async (event) => {
  const { title, from } = await readBodyOf(event, schema)
  const { projects } = await useStore()
  if (from !== undefined) {
    const source = await projects.find(from)
    if (source === null) throw notFound()
    return { id: await projects.create(title ?? `${source.title}, copy`, source, source.program) }
  }
  const { robot, arena } = (await readDemo())[0]!
  return { id: await projects.create(title ?? 'New project', { robot, arena, task: null }, '') }
})
