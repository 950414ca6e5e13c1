import { createError } from 'h3'
import { mixed, object, type Schema } from 'yup'
import { plainNumber, text } from '../../../../../core/document'
import { begunRuns } from '../../../../utils/begun'
import { answer, idOf, notFound, readBodyOf } from '../../../../utils/request'
import { REFUSALS, leftOnThread } from '../../../../utils/run-pool'

interface Left { readonly begun: string | null, readonly record: object, readonly revision: number | null, readonly origin: string | null }
const schema = object({
  begun: text().max(36).nullable().default(null),
  record: mixed().required(),
  revision: plainNumber().integer().min(1).nullable().default(null),
  origin: text().matches(/^[0-9a-f-]{36}$/, 'expected the id of a run').nullable().default(null),
}).noUnknown().required() as unknown as Schema<Left>

/**
 * Keeps a run whose page was closed before the run could be sent: it is run again here from its inputs, as far as it had come. Whoever
 * asked is gone; one that had just been kept whole is not kept twice. `begun`: what `begun.post` answered; the record is then what has
 * come since.
 */
export default answer(async (event, { runs }) => {
  const { begun, record: told, revision, origin } = await readBodyOf(event, schema)
  const project = idOf(event)
  const record = begun === null ? told : begunRuns.take(begun, told)
  if (record === null) throw createError({ statusCode: 404, statusMessage: 'this run was not told of', message: 'Of this run nothing is known; the server has been started anew, or other runs were told of since.' })
  const kept = await leftOnThread(record)
  if ('why' in kept) throw createError(REFUSALS[kept.why])
  if (!kept.ok) throw createError({ statusCode: 400, statusMessage: 'this is no run', data: { problems: kept.problems } })
  const { facts, file } = kept.value
  const known = await runs.justKept(project, facts)
  if (known !== null) return { id: known }
  const id = await runs.add(project, facts, Buffer.from(file), { revision, origin })
  if (id === null) throw notFound()
  return { id }
})
