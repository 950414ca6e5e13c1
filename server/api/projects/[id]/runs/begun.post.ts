import { mixed, object, type Schema } from 'yup'
import { text } from '../../../../../core/document'
import { begunRuns, type ToldRun } from '../../../../utils/begun'
import { answer, readBodyOf } from '../../../../utils/request'

interface Begun { readonly record: ToldRun, readonly instead: string | null }
const schema = object({
  record: mixed().required(),
  instead: text().max(36).nullable().default(null),
}).noUnknown().required() as unknown as Schema<Begun>

/**
 * What a run is made of that is under way on a page, and as far as it has come: for when its page is closed, which then can say little.
 * It is read when it is run again. `instead`: what was told of it before, and is forgotten.
 */
export default answer(async (event) => {
  const { record, instead } = await readBodyOf(event, schema)
  if (instead !== null) begunRuns.forget(instead)
  return { id: begunRuns.add(record) }
})
