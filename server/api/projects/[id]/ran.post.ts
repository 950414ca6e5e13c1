import { object, type Schema } from 'yup'
import { plainNumber } from '../../../../core/document'
import { idOf, notFound, readBodyOf } from '../../../utils/request'
import { useStore } from '../../../utils/store'

const schema = object({ revision: plainNumber().integer().min(1).required() }).noUnknown() as Schema<{ revision: number }>

/** Remembers that a revision ran. */
export default defineEventHandler(async (event) => {
  const { revision } = await readBodyOf(event, schema)
  if (!await (await useStore()).projects.ran(idOf(event), revision)) throw notFound()
  return { revision }
})
