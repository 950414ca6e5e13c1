import { createError } from 'h3'
import { object, type Schema } from 'yup'
import { plainNumber, text } from '../../../core/document'
import { LAST_SEED } from '../../../core/random'
import { answer, notFound, readBodyOf } from '../../utils/request'
import { RUN_BUDGET, runOnThread } from '../../utils/run-pool'

const schema = object({
  project: text().required(),
  seed: plainNumber().integer().min(0).max(LAST_SEED).default(1),
  realism: text().oneOf(['ideal', 'typical', 'rough'], 'allowed is ideal, typical or rough').default('typical'),
}).noUnknown() as Schema<{ project: string, seed: number, realism: 'ideal' | 'typical' | 'rough' }>

const REFUSALS = {
  'busy': { statusCode: 503, statusMessage: 'too many runs at once', message: 'Too many runs are asked for at once. Ask again when one of them is done.' },
  'too-long': { statusCode: 422, statusMessage: 'the run takes too long', message: `The run took longer than ${RUN_BUDGET / 1000} s and was ended.` },
  'gone': { statusCode: 499, statusMessage: 'nobody waits for the answer' },
} as const

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
