import { object, type Schema } from 'yup'
import { text } from '../../../../core/document'
import { idOf, notFound, readBodyOf } from '../../../utils/request'
import { useStore } from '../../../utils/store'

const schema = object({ title: text().trim().min(1, 'a project needs a title').max(80).required() }).noUnknown() as Schema<{ title: string }>

export default defineEventHandler(async (event) => {
  const { title } = await readBodyOf(event, schema)
  if (!await (await useStore()).projects.rename(idOf(event), title)) throw notFound()
  return { title }
})
