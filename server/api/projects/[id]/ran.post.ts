import { object, type Schema } from 'yup'
import { plainNumber } from '../../../../core/document'
import { answer, idOf, notFound, readBodyOf } from '../../../utils/request'

const schema = object({ revision: plainNumber().integer().min(1).required() }).noUnknown() as Schema<{ revision: number }>

/** Remembers that a revision ran. */
export default answer(async (event, { projects }) => {
  const { revision } = await readBodyOf(event, schema)
  if (!await projects.ran(idOf(event), revision)) throw notFound()
  return { revision }
})
