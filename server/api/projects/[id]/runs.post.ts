import { createError, getQuery } from 'h3'
import { object, type Schema } from 'yup'
import { plainNumber, readDocument, text } from '../../../../core/document'
import { answer, fileOf, idOf, notFound } from '../../../utils/request'
import { REFUSALS, factsOnThread } from '../../../utils/run-pool'

/** The longest file that is taken, bytes as it comes: an hour's run. */
const LARGEST = 40_000_000

const schema = object({
  revision: plainNumber().integer().min(1).nullable().default(null),
  origin: text().matches(/^[0-9a-f-]{36}$/, 'expected the id of a run').nullable().default(null),
}).noUnknown() as Schema<{ revision: number | null, origin: string | null }>

/** Keeps a run: its file as the body. What is listed of it is read from the file itself. */
export default answer(async (event, { runs }) => {
  const { revision, origin } = getQuery<Record<string, string>>(event)
  const from = readDocument<{ revision: number | null, origin: string | null }>(schema, { ...revision === undefined ? {} : { revision: Number(revision) }, ...origin === undefined ? {} : { origin } })
  if (!from.ok) throw createError({ statusCode: 400, statusMessage: 'the address is not as expected', data: { problems: from.problems } })
  const file = await fileOf(event, LARGEST)
  const gone = new AbortController()
  event.node.res.once('close', () => gone.abort())
  const facts = await factsOnThread(file, gone.signal)
  if ('why' in facts) throw createError(REFUSALS[facts.why])
  if (!facts.ok) throw createError({ statusCode: 400, statusMessage: 'this is no kept run', data: { problems: facts.problems } })
  const id = await runs.add(idOf(event), facts.value, file, from.value)
  if (id === null) throw notFound()
  return { id }
})
