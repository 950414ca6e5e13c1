import { answer, idOf, notFound } from '../../../utils/request'

export default answer(async (event, { runs }) => {
  if (!await runs.restore(idOf(event))) throw notFound('run')
  return { deleted: false }
})
