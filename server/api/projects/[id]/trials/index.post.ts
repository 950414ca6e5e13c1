import { createError } from 'h3'
import { array, mixed, object, type Schema } from 'yup'
import { documentText, plainNumber, text } from '../../../../../core/document'
import { MOST_PROGRAMS, readBasis, readPlan, runsOf, type PlanProgram } from '../../../../../core/trials'
import { answer, idOf, notFound, readBodyOf } from '../../../../utils/request'
import { useTrials } from '../../../../utils/trials'

/** The most runs of a plan that the server takes: more are for the command line. */
const MOST_SERVED = 100_000
/** The most plans that wait at once. */
const MOST_WAITING = 50

interface Asked { readonly plan: object, readonly programs: readonly PlanProgram[] }
const schema = object({
  plan: mixed().required(),
  programs: array(object({ name: documentText(80).required(), text: text().default(''), revision: plainNumber().integer().min(1).nullable().default(null) }).noUnknown().required()).min(1).max(MOST_PROGRAMS).required(),
}).noUnknown().required() as unknown as Schema<Asked>

/** Takes a trial plan, with the project's robot, arena and task as they stand, and begins with it when those before are done. */
export default answer(async (event, store) => {
  const { plan: asked, programs } = await readBodyOf(event, schema)
  const project = await store.projects.find(idOf(event))
  if (project === null) throw notFound()
  const refuse = (problems: readonly unknown[]) => createError({ statusCode: 400, statusMessage: 'this plan cannot be tried', data: { problems } })
  const plan = readPlan(asked)
  if (!plan.ok) throw refuse(plan.problems)
  const { robot, arena, task } = project
  const checked = readBasis({ robot, arena, task }, programs, plan.value)
  if (!checked.ok) throw refuse(checked.problems)
  const total = runsOf(plan.value, programs.length)
  if (total > MOST_SERVED) throw refuse([{ path: 'seeds', value: String(total), message: `this plan has ${total} runs; allowed are up to ${MOST_SERVED} here, and more on the command line` }])
  if (await store.trials.waiting() >= MOST_WAITING) throw createError({ statusCode: 503, statusMessage: 'too many plans', message: `${MOST_WAITING} plans wait already. Ask again when one of them is done.` })
  const id = await store.trials.add(project.id, asked, programs, { robot, arena, task }, total)
  if (id === null) throw notFound()
  ;(await useTrials(store)).wake()
  return { id, total }
})
