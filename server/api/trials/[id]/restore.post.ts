import { answer, idOf, notFound } from '../../../utils/request'

export default answer(async (event, { trials }) => {
  const id = idOf(event)
  if (!await trials.restore(id)) throw notFound('plan')
  return { id }
})
