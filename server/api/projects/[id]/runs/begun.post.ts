import { createError } from 'h3'
import { mixed, object, type Schema } from 'yup'
import { text } from '../../../../../core/document'
import { begunRuns, type ToldRun } from '../../../../utils/begun'
import { answer, readBodyOf } from '../../../../utils/request'

interface Begun { readonly record: ToldRun, readonly more: string | null }
const schema = object({
  record: mixed().required(),
  more: text().max(36).nullable().default(null),
}).noUnknown().required() as unknown as Schema<Begun>

/**
 * What a run is made of that is under way on a page, and as far as it has come: for when its page is closed, which then can say little.
 * It is read when it is run again. `more`: what is told came since it was told of under that name.
 */
export default answer(async (event) => {
  const { record, more } = await readBodyOf(event, schema)
  if (more === null) return { id: begunRuns.add(record) }
  if (!begunRuns.more(more, record)) throw createError({ statusCode: 404, statusMessage: 'this run was not told of', message: 'Of this run nothing is known any longer.' })
  return { id: more }
})
