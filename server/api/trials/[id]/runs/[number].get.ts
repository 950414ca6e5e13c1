import { createError, setHeader } from 'h3'
import { inputsOf, jobOf, runsOf } from '../../../../../core/trials'
import { answer, idOf, notFound } from '../../../../utils/request'
import { REFUSALS, fileOnThread } from '../../../../utils/run-pool'

/** A run of a plan again, with its tape: the file of a kept run. */
export default answer(async (event, { trials }) => {
  const found = await trials.find(idOf(event))
  const number = Number(event.context.params?.['number'])
  if (found === null) throw notFound('plan')
  const { basis, parts } = found.checked
  if (!Number.isSafeInteger(number) || number < 0 || number >= runsOf(basis.plan, basis.programs.length)) throw notFound('run')
  const job = jobOf(basis.plan, basis.programs.length, number)
  const gone = new AbortController()
  event.node.res.once('close', () => gone.abort())
  const file = await fileOnThread(`${basis.programs[job.program]!.name}, seed ${job.seed}`, inputsOf(basis, job, parts.arena), gone.signal)
  if ('why' in file) throw createError(REFUSALS[file.why])
  if (!file.ok) throw createError({ statusCode: 422, statusMessage: 'this run cannot be run', data: { problems: file.problems } })
  setHeader(event, 'content-type', 'application/octet-stream')
  return Buffer.from(file.value)
})
