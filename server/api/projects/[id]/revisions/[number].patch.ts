import { object, type Schema } from 'yup'
import { truth } from '../../../../../core/document'
import { answer, idOf, notFound, readBodyOf, revisionOf } from '../../../../utils/request'

const schema = object({ marked: truth().required() }).noUnknown() as Schema<{ marked: boolean }>

/** Marks a revision, so that it stays whatever its age; or takes the mark away. */
export default answer(async (event, { projects }) => {
  const { marked } = await readBodyOf(event, schema)
  if (!await projects.mark(idOf(event), revisionOf(event), marked)) throw notFound('revision')
  return { marked }
})
