import { answer, idOf, notFound } from '../../../utils/request'

/** A plan with all that its runs are made of. */
export default answer(async (event, { trials }) => {
  const found = await trials.find(idOf(event))
  if (found === null) throw notFound('plan')
  return { basis: found.checked.basis, programs: found.programs, goals: found.checked.parts.task?.goals.map(g => g.sentence) ?? [] }
})
