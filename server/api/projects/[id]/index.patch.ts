import { object, type Schema } from 'yup'
import { text } from '../../../../core/document'
import { answer, idOf, notFound, readBodyOf } from '../../../utils/request'

const schema = object({ title: text().trim().min(1, 'a project needs a title').max(80).required() }).noUnknown() as Schema<{ title: string }>

export default answer(async (event, { projects }) => {
  const { title } = await readBodyOf(event, schema)
  if (!await projects.rename(idOf(event), title)) throw notFound()
  return { title }
})
