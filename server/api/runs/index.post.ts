import { createError } from 'h3'
import { object, type Schema } from 'yup'
import { plainNumber, text } from '../../../core/document'
import { LAST_SEED } from '../../../core/random'
import { answer, notFound, readBodyOf } from '../../utils/request'
import { REFUSALS, runOnThread } from '../../utils/run-pool'

const schema = object({
  project: text().required(),
  seed: plainNumber().integer().min(0).max(LAST_SEED).default(1),
  realism: text().oneOf(['ideal', 'typical', 'rough'], 'allowed is ideal, typical or rough').default('typical'),
}).noUnknown() as Schema<{ project: string, seed: number, realism: 'ideal' | 'typical' | 'rough' }>

/** Runs a project headless on a thread of the server and answers with its summary. Ends with its budget, or when its client goes. */
export default answer(async (event, { projects }) => {
  const { project: id, seed, realism } = await readBodyOf(event, schema)
  const project = await projects.find(id)
  if (project === null) throw notFound()
  const { robot, arena, task, program } = project
  const gone = new AbortController()
  event.node.res.once('close', () => gone.abort())
  const outcome = await runOnThread({ robot, arena, task, program, seed, realism, limit: null }, gone.signal)
  if (outcome.ran) return outcome.summary
  if ('why' in outcome) throw createError(REFUSALS[outcome.why])
  throw createError({ statusCode: 422, statusMessage: 'the project cannot run', data: { problems: outcome.problems } })
})
