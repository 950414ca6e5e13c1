import { createError } from 'h3'
import { object, type Schema } from 'yup'
import { plainNumber, text } from '../../../core/document'
import { notFound, readBodyOf } from '../../utils/request'
import { runOnThread } from '../../utils/run-pool'
import { useStore } from '../../utils/store'

const schema = object({
  project: text().required(),
  seed: plainNumber().integer().min(0).max(4294967295).default(1),
  realism: text().oneOf(['ideal', 'typical', 'rough'], 'allowed is ideal, typical or rough').default('typical'),
}).noUnknown() as Schema<{ project: string, seed: number, realism: 'ideal' | 'typical' | 'rough' }>

/** Runs a project headless on a thread of the server and answers with its summary. */
export default defineEventHandler(async (event) => {
  const { project: id, seed, realism } = await readBodyOf(event, schema)
  const project = await (await useStore()).projects.find(id)
  if (project === null) throw notFound()
  const { robot, arena, task, program } = project
  const outcome = await runOnThread({ robot, arena, task, program, seed, realism })
  if (!outcome.ran) throw createError({ statusCode: 422, statusMessage: 'the project cannot run', data: { problems: outcome.problems } })
  return outcome.summary
})
