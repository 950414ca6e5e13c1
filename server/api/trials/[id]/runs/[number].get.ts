import { createError, setHeader } from 'h3'
import { answer, idOf, notFound } from '../../../../utils/request'
import { REFUSALS, fileOnThread } from '../../../../utils/run-pool'

/** A run of a plan again, with its tape: the file of a kept run. */
export default answer(async (event, { trials }) => {
  const number = Number(event.context.params?.['number'])
  const found = Number.isSafeInteger(number) ? await trials.inputsOf(idOf(event), number) : null
  if (found === null) throw notFound('run')
  const gone = new AbortController()
  event.node.res.once('close', () => gone.abort())
  const file = await fileOnThread(found.title, found.inputs, gone.signal)
  if ('why' in file) throw createError(REFUSALS[file.why])
  if (!file.ok) throw createError({ statusCode: 422, statusMessage: 'this run cannot be run', data: { problems: file.problems } })
  setHeader(event, 'content-type', 'application/octet-stream')
  return Buffer.from(file.value)
})
