import { object, type Schema } from 'yup'
import { text, truth } from '../../../../core/document'
import { answer, idOf, notFound, readBodyOf } from '../../../utils/request'

const schema = object({ name: text().max(80), starred: truth() }).noUnknown() as Schema<{ name?: string, starred?: boolean }>

/** Names a run, or stars it: such a one stays. */
export default answer(async (event, { runs }) => {
  const change = await readBodyOf(event, schema)
  if (!await runs.change(idOf(event), change)) throw notFound('run')
  return change
})
